"""The fields of a launch template as a sheet has them: what each is called, how it is written, and read again."""

from collections.abc import Iterable
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel

from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_duration, say_number

Kind = Literal["text", "long", "number", "duration", "flag", "choice", "choices", "pairs"]


class _Field(NamedTuple):
    name: str
    label: str
    kind: Kind


FIELDS = (
    _Field("note", "Note", "text"),
    _Field("image", "Image", "text"),
    _Field("machine", "Machine type", "choice"),
    _Field("disk_gib", "Disk, GiB", "number"),
    _Field("public_address", "Public address", "flag"),
    _Field("subnets", "Subnets", "choices"),
    _Field("firewall", "Firewall rules", "choices"),
    _Field("key", "Key", "text"),
    _Field("identity", "Identity", "text"),
    _Field("start_up", "Start-up script", "long"),
    _Field("tags", "Tags", "pairs"),
    _Field("boot_time", "Boot time", "duration"),
    _Field("start_time", "Start from stopped", "duration"),
    _Field("warm_up", "Warm-up", "duration"),
    _Field("health_check", "Health check", "text"),
)
_KINDS = {field.name: field.kind for field in FIELDS}


class TemplateField(BaseModel):
    """A row of the sheet. `choices` are the names that may stand there."""

    name: str
    label: str
    kind: Kind
    choices: list[str]


def template_fields(plan: Plan) -> list[TemplateField]:
    known: dict[str, Iterable[str]] = {
        "machine": plan.machines,
        "subnets": plan.subnets,
        "firewall": plan.firewall,
    }
    return [
        TemplateField(name=field.name, label=field.label, kind=field.kind, choices=list(known.get(field.name, ())))
        for field in FIELDS
    ]


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
