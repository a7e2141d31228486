"""Edits of a demand, and what takes them back."""

from collections.abc import Mapping, Sequence
from typing import Any

from jostle.core.change.change import Change, seconds_of
from jostle.core.plan.clock import Clock, wall_text
from jostle.core.plan.demand import Demand
from jostle.core.plan.incident import INCIDENT_KINDS
from jostle.core.plan.layer import LAYER_KINDS, Sheet
from jostle.core.plan.problem import PlanError, Problem, validated
from jostle.core.plan.setting import position_of, setting, with_setting


def changed_demand(demand: Demand, changes: list[Change], clock: Clock, zones: list[str]) -> tuple[Demand, list[Change]]:
    """A demand with changes applied in order, and the changes that would take them back.

    What is moved is a layer or an incident, as it was before the changes. Raises PlanError with paths within the demand.
    """
    document = demand_document(demand)
    back: list[Change] = []
    for change in changes:
        match change.op:
            case "set":
                back.insert(0, Change(op="set", path=change.path, value=setting(document, change.path)))
                document = with_setting(document, change.path, change.value)
            case "move":
                for path, value in _moved(demand, change, clock).items():
                    back.insert(0, Change(op="set", path=path, value=setting(document, path)))
                    document = with_setting(document, path, value)
            case "add":
                document, where = _with_more(document, change, clock, zones)
                back.insert(0, Change(op="remove", path=where))
            case "remove":
                *steps, last = change.path.split(".")
                inside = ".".join(steps)
                ones = setting(document, inside) if inside else None
                number = position_of(last, len(ones)) if isinstance(ones, list) else None
                if not isinstance(ones, list) or number is None:
                    raise PlanError(
                        [Problem((change.path,), None, "only a layer, an incident, a point or a time can be removed")]
                    )
                back.insert(0, Change(op="add", path=inside, value=_put_back(ones[number], number)))
                document = with_setting(document, inside, [one for k, one in enumerate(ones) if k != number])
            case _:
                raise PlanError([Problem((change.path,), change.op, "a demand has no days to be left out")])
    return validated(Demand, document), back


def _moved(demand: Demand, change: Change, clock: Clock) -> dict[str, Any]:
    """The settings, by path, of a layer or an incident that begins later (`by`) and holds on longer, in s."""
    part, _, place = change.path.partition(".")
    ones: Sequence[Any] = demand.layers if part == "layers" else demand.incidents if part == "incidents" else ()
    number = position_of(place, len(ones))
    one: Any = None if number is None else ones[number]
    if not hasattr(one, "at"):
        raise PlanError([Problem((change.path,), None, "only a rush, a load test, a brought series or an incident is moved")])
    value = change.value if isinstance(change.value, dict) else {}
    by, longer = (seconds_of(change, value.get(field, 0.0)) for field in ("by", "longer"))
    begin = one.samples.first.timestamp() if one.at is None else clock.epoch_of(one.at)
    settings: dict[str, Any] = {f"{change.path}.at": wall_text((begin + by) * 1000, clock.zone)}
    for field, attribute in (("hold", "hold"), ("for", "length")):
        if longer and hasattr(one, attribute):
            settings[f"{change.path}.{field}"] = max(60.0, getattr(one, attribute) + longer)
    return settings


def demand_document(demand: Demand) -> dict[str, Any]:
    """A demand's plain data, in which brought series stay the objects they are."""
    document: dict[str, Any] = demand.model_dump(mode="json", exclude={"layers": {"__all__": {"samples"}}})
    for plain, layer in zip(document["layers"], demand.layers, strict=True):
        if samples := getattr(layer, "samples", None):
            plain["samples"] = samples
    return document


def _put_back(one: Any, position: int) -> Any:
    """What is added to have one back in its place; the time of a burst, plain text, finds its own."""
    if not isinstance(one, dict):
        return one
    samples = one.get("samples")
    plain = one if samples is None else {**one, "samples": samples.model_dump(mode="json")}
    return {**plain, "position": position}


def _with_more(document: dict[str, Any], change: Change, clock: Clock, zones: list[str]) -> tuple[dict[str, Any], str]:
    """One more layer, incident, point of a day or time of a burst, at its end or where its `position` says; and its path then."""
    *_, last = change.path.split(".")
    if last == "at":
        one = change.value
    elif isinstance(change.value, dict):
        one = {key: value for key, value in change.value.items() if key != "position"}
    else:
        one = _begun(last, change.value, clock, zones)
    ones = setting(document, change.path)
    if not isinstance(ones, list):
        raise PlanError([Problem((change.path,), None, "something can be added to layers, incidents or the times of a day")])
    where = change.value.get("position", len(ones)) if isinstance(change.value, dict) else len(ones)
    grown = [*ones[:where], one, *ones[where:]]
    if last in ("points", "at"):
        grown.sort(key=lambda point: str(point.get("at") if isinstance(point, dict) else point))
        where = grown.index(one)
    return with_setting(document, change.path, grown), f"{change.path}.{where}"


def _begun(part: str, kind: Any, clock: Clock, zones: list[str]) -> dict[str, Any]:
    known: Mapping[str, type[Sheet]] = LAYER_KINDS if part == "layers" else INCIDENT_KINDS if part == "incidents" else {}
    if not isinstance(kind, str) or kind not in known:
        said = f"add to layers one of {', '.join(LAYER_KINDS)}, or to incidents one of {', '.join(INCIDENT_KINDS)}"
        raise PlanError([Problem((part,), kind, said)])
    one = {"kind": kind, **known[kind].start}
    if known[kind].timed:
        midday = clock.at(clock.first + clock.seconds / 2).replace(hour=12, minute=0, second=0, microsecond=0, tzinfo=None)
        one["at"] = f"{midday:%Y-%m-%dT%H:%M}"
    zone = known[kind].model_fields.get("zone")
    if zone is not None and zone.is_required():
        one["zone"] = zones[0] if zones else "north"
    return one
