"""What a command is given: a plan, settings on top of it, files in place of parts of it. `-` is standard input."""

import sys
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import typer
from pydantic_core import PydanticCustomError
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from jostle.cli.refusal import refusal
from jostle.core.change.change import Change
from jostle.core.change.group_change import changed_group
from jostle.core.plan.demand import Demand
from jostle.core.plan.layer import Brought
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.wall import known_zone
from jostle.formats.plan_file import read_plan_file, read_plan_text
from jostle.formats.series_error import SeriesError
from jostle.formats.series_file import read_series_file

STANDARD_INPUT = "-"


def settings_of(pairs: list[str] | None) -> dict[str, Any]:
    """Values by path, from PATH=VALUE."""
    settings = {}
    for pair in pairs or []:
        path, equals, text = pair.partition("=")
        if not equals or not path:
            raise refusal(f'--set "{pair}": write PATH=VALUE, such as groups.booking-web.maximum=30')
        try:
            settings[path] = YAML(typ="safe", pure=True).load(text)
        except YAMLError:
            settings[path] = text
    return settings


def read_plan_from(path: Path, settings: dict[str, Any]) -> Plan:
    """A plan with those of the settings that are its own. Raises PlanError."""
    own = {path: value for path, value in settings.items() if is_of_plan(path)}
    if str(path) == STANDARD_INPUT:
        return read_plan_text(_text(sys.stdin.buffer.read()), "standard input", Path(), own)
    return read_plan_file(path, own)


def _text(content: bytes) -> str:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PlanError([Problem(("standard input",), None, "is not UTF-8 text")]) from None


def read_bytes(path: Path, what: str) -> bytes:
    """The content of a file. Raises PlanError with `what` it is."""
    if str(path) == STANDARD_INPUT:
        return sys.stdin.buffer.read()
    try:
        return path.read_bytes()
    except FileNotFoundError:
        raise PlanError([Problem((what,), str(path), "no such file")]) from None
    except OSError as error:
        raise PlanError([Problem((what,), str(path), f"cannot be opened: {error.strerror}")]) from None


def is_of_plan(path: str) -> bool:
    """Whether a setting is the plan's own; any other is a group's."""
    return path.split(".")[0] in Plan.model_fields


def with_changes(plan: Plan, group: str, settings: dict[str, Any]) -> Plan:
    """The plan with the settings that are a group's made as edits of it. A path may leave its beginning out where only one
    setting of the group ends so."""
    if all(map(is_of_plan, settings)) or group not in plan.groups:
        return plan
    document = plan.groups[group].model_dump(mode="json")
    changes = [Change(path=_meant(path, document), value=value) for path, value in settings.items() if not is_of_plan(path)]
    return with_group(plan, group, changed_group(document, changes, plan.start.astimezone(plan.zone)))


def _meant(path: str, document: dict[str, Any]) -> str:
    """The path of a group's setting that ends so. Raises PlanError where several do; one that none ends so
    stays as it is."""
    if path.split(".")[0] in document:
        return path
    found = [one for one in _paths(document, "") if f".{one}".endswith(f".{path}")]
    if len(found) == 1:
        return found[0]
    if found:
        raise PlanError([Problem((path,), None, f"may be any of {', '.join(found)}; write more of the one that is meant")])
    return path


def _paths(data: Any, here: str) -> list[str]:
    """All paths of plain data, with items of lists by their names or else their kinds."""
    if isinstance(data, dict):
        steps = list(data.items())
    elif isinstance(data, list):
        steps = [(str(item.get("name") or item.get("kind")), item) for item in data if isinstance(item, dict)]
    else:
        return [here]
    inside = [path for step, item in steps for path in _paths(item, f"{here}.{step}" if here else step)]
    return [here, *inside] if here else inside


def chosen_group(plan: Plan, group: str | None) -> str:
    """The group that is meant. Raises PlanError where the plan has several."""
    if group is not None:
        return group
    if len(plan.groups) != 1:
        names = ", ".join(plan.groups) or "none"
        raise PlanError([Problem(("group",), None, f"say which with --group; there is: {names}")])
    return next(iter(plan.groups))


def known_group(plan: Plan, group: str) -> None:
    """Raises PlanError where no group has this name."""
    if group not in plan.groups:
        raise PlanError([Problem(("group",), group, f"no group has this name; there is: {', '.join(plan.groups)}")])


def given_group(path: Path, pairs: list[str] | None, group: str | None) -> tuple[Plan, str]:
    """A plan with all that is set on top of it, and the group that is meant. Raises PlanError."""
    settings = settings_of(pairs)
    plan = read_plan_from(path, settings)
    name = chosen_group(plan, group)
    return with_changes(plan, name, settings), name


def with_demand(
    plan: Plan,
    group: str,
    demand: str | None,
    unit: str | None = None,
    column: str | None = None,
    clock: str | None = None,
) -> Plan:
    """The plan with another demand for one group: one of its own, or a file, whose values have a `unit` and stand in a `column`,
    and whose times without an offset are on the `clock` of a zone."""
    if demand is None or group not in plan.groups:
        given = {"--unit": unit, "--column": column, "--clock": clock}
        if demand is None and (idle := [name for name, value in given.items() if value is not None]):
            raise PlanError([Problem(("demand",), None, f"{idle[0]} is about the file of --demand; name one")])
        return plan
    demands = dict(plan.demands)
    if demand not in demands:
        path = Path(demand)
        if demand != STANDARD_INPUT and not path.suffix:
            names = ", ".join(demands)
            raise PlanError([Problem(("demand",), demand, f"is neither a demand of the plan ({names}) nor a file")])
        demands[demand] = brought_demand(path, plan, unit, column, clock)
    changed = plan.groups[group].model_copy(update={"demand": demand})
    return plan.model_copy(update={"demands": demands, "groups": {**plan.groups, group: changed}})


def brought_demand(path: Path, plan: Plan, unit: str | None, column: str | None, clock: str | None) -> Any:
    try:
        zone = plan.zone if clock is None else ZoneInfo(known_zone(clock))
        series = read_series_file(read_bytes(path, "demand"), zone, unit, value_column=column)
    except PydanticCustomError as error:
        raise PlanError([Problem(("clock",), clock, error.message())]) from None
    except SeriesError as error:
        raise PlanError([Problem((str(path),), None, str(fault)) for fault in error.faults]) from None
    for note in series.notes:
        typer.echo(f"{path}: {note}", err=True)
    return Demand(layers=[Brought(kind="brought", file=path.name, samples=series.samples)])


def with_calendar(plan: Plan, group: str, file: Path | None) -> Plan:
    """The plan with the entries of an iCalendar file in place of one group's calendar."""
    if file is None or group not in plan.groups:
        return plan
    # Loaded where it is wanted: it takes as long as a rehearsal
    from jostle.formats.calendar_ics import read_calendar

    entries = read_calendar(read_bytes(file, "calendar"), plan.zone)
    document = plan.groups[group].model_dump(mode="json")
    return with_group(plan, group, {**document, "calendar": [entry.model_dump(mode="json") for entry in entries]})


def write_file(path: Path, content: bytes) -> None:
    """Write a file beside and rename it, so that it is never half there."""
    beside = path.with_name(f".{path.name}.part")
    try:
        beside.write_bytes(content)
        beside.replace(path)
    except OSError as error:
        raise refusal(f"{path}: cannot be written: {error.strerror}") from None
