"""The fields of a launch template as a sheet has them: what each is called, how it is written, and read again."""

from collections.abc import Iterable
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel

from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_duration, say_number, say_share

Kind = Literal["text", "long", "number", "duration", "share", "flag", "choice", "choices", "pairs"]


class SheetField(NamedTuple):
    """`start` is what an optional one is to begin with, `known` what may stand in one that is chosen, `none` what holds where
    it is left open."""

    name: str
    label: str
    kind: Kind
    start: str = ""
    known: tuple[str, ...] = ()
    none: str = ""


FIELDS = (
    SheetField("note", "Note", "text"),
    SheetField("author", "Author", "text"),
    SheetField("image", "Image", "text"),
    SheetField("machine", "Machine type", "choice"),
    SheetField("disk_gib", "Disk, GiB", "number"),
    SheetField("public_address", "Public address", "flag"),
    SheetField("subnets", "Subnets", "choices"),
    SheetField("firewall", "Firewall rules", "choices"),
    SheetField("key", "Key", "text"),
    SheetField("identity", "Identity", "text"),
    SheetField("start_up", "Start-up script", "long"),
    SheetField("tags", "Tags", "pairs"),
    SheetField("boot_time", "Boot time", "duration", none="the machine's boot time"),
    SheetField("start_time", "Start from stopped", "duration", none="a third of it from stopped"),
    SheetField("warm_up", "Warm-up", "duration"),
    SheetField("health_check", "Health check", "text"),
    SheetField("more_disks", "Further disks, GiB", "pairs", "data=50"),
    SheetField("interfaces", "Interfaces", "number", "2"),
    SheetField("host_use", "Host", "choice", "own_host", ("shared", "own_host")),
    SheetField("nearness", "Nearness", "choice", "apart", ("anywhere", "apart", "together")),
    SheetField("if_it_stops", "If it stops", "choice", "stop", ("stop", "end")),
    SheetField("protected", "Protected", "flag", "yes"),
    SheetField("logs", "Logs", "text", "journal"),
    SheetField("cpu_factor", "CPU, times as said", "number", "1.2"),
    SheetField("failures", "Fails of its own", "share", "1 %"),
)
_FIELDS = {field.name: field for field in FIELDS}
_KINDS = {field.name: field.kind for field in FIELDS}


class TemplateField(BaseModel):
    """A row of the sheet. `choices` are the names that may stand there."""

    name: str
    label: str
    kind: Kind
    choices: list[str]


def template_fields(plan: Plan) -> list[TemplateField]:
    return [_as_written(field, plan) for field in FIELDS]


def template_field(plan: Plan, name: str) -> TemplateField | None:
    """One of them; None for a name that is none."""
    field = _FIELDS.get(name)
    return field and _as_written(field, plan)


def label_of(name: str) -> str:
    """What a field is called in the sheet."""
    return _FIELDS[name].label


def _as_written(field: SheetField, plan: Plan) -> TemplateField:
    known: dict[str, Iterable[str]] = {"machine": plan.machines, "subnets": plan.subnets, "firewall": plan.firewall}
    return TemplateField(name=field.name, label=field.label, kind=field.kind, choices=list(known.get(field.name, field.known)))


def written_field(name: str, value: Any) -> str:
    """A value as it stands in the sheet: lists by commas, tags by lines; empty for none."""
    match _KINDS[name], value:
        case _, None | "":
            return ""
        case "flag", _:
            return "yes" if value else "no"
        case "choices", _:
            return ", ".join(value)
        case "pairs", _:
            return "\n".join(f"{key}={one}" for key, one in value.items())
        case "duration", _:
            return say_duration(value)
        case "share", _:
            return say_share(value)
        case "number", _:
            return say_number(value, 6)
        case _:
            return str(value)


def read_fields(written: dict[str, str]) -> dict[str, Any]:
    """The plain data of a version, from what stands in the sheet; an empty field is left open. What cannot be read stays text,
    to be refused by name."""
    return {name: _read(_KINDS[name], text.strip()) for name, text in written.items() if name in _KINDS and text.strip()}


def _read(kind: Kind, text: str) -> Any:
    match kind:
        case "flag":
            return {"yes": True, "no": False}.get(text.lower(), text)
        case "choices":
            return [part.strip() for part in text.split(",") if part.strip()]
        case "pairs":
            lines = [line.partition("=") for line in text.replace(",", "\n").splitlines() if line.strip()]
            return {key.strip(): value.strip() for key, _, value in lines}
        case _:
            return text
