"""Edits of a group as the page sends them: a path and a value, a policy more, a policy less."""

from datetime import datetime, timedelta
from typing import Any, Literal
from zoneinfo import ZoneInfo

from pydantic import BaseModel, Field, TypeAdapter

from jostle.api.editor import with_metric
from jostle.core.calendar.moved import moved, without_day
from jostle.core.demand.clock import wall_text
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import setting, with_setting

_CPU = Metric.CPU.value
_STARTS: dict[str, dict[str, Any]] = {
    "add": {"kind": "trigger", "metric": _CPU, "side": "above", "threshold": 0.65, "action": "add", "amount": 1},
    "remove": {"kind": "trigger", "metric": _CPU, "side": "below", "threshold": 0.35, "action": "remove", "amount": 1},
    "hold": {"kind": "hold", "metric": _CPU, "level": 0.55},
    "spare": {"kind": "spare", "share": 0.2},
}
_ENTRIES: dict[str, dict[str, Any]] = {
    "floor": {"count": 4, "until": "12:00", "repeat": "FREQ=DAILY"},
    "bounds": {"minimum": 2, "maximum": 6, "until": "12:00", "repeat": "FREQ=DAILY"},
    "set": {"count": 4, "repeat": "FREQ=DAILY"},
    "sleep": {"until": "18:00", "repeat": "FREQ=WEEKLY;BYDAY=SA,SU"},
    "removals": {"until": "20:00", "repeat": "FREQ=DAILY"},
    "freeze": {"until": "12:00", "repeat": "FREQ=DAILY"},
}
_ENTRY: TypeAdapter[CalendarEntry] = TypeAdapter(CalendarEntry)
_STEMS = {"add": "add-on-cpu", "remove": "remove-on-cpu", "hold": "hold-cpu", "spare": "keep-spare"}


class Change(BaseModel):
    """`set` a value at a path of the group.

    `add` to `policies` (value: add, remove, hold or spare), to `calendar` (value: a kind of entry) or to `hands` (value: the
    hand itself, its `at` in ms since 1970 too). `remove` what stands at a path. `move` a calendar entry, a hand or a part of a
    demand (value: `by` and `longer`, s). `skip` the day of an instant (value: ms since 1970) in a calendar entry.
    """

    op: Literal["set", "add", "remove", "move", "skip"] = "set"
    path: str = Field(min_length=1, max_length=200)
    value: Any = None


def changed_document(document: dict[str, Any], changes: list[Change], start: datetime) -> dict[str, Any]:
    """A group's plain data with changes applied in order; new calendar entries begin at the first 08:00 after `start`.

    Raises PlanError where a path leads nowhere.
    """
    for change in changes:
        match change.op:
            case "set":
                before = Group.model_validate(document) if change.path.endswith(".metric") else None
                document = with_setting(document, change.path, change.value)
                if before is not None:
                    for path, value in with_metric(document, change.path, before).items():
                        document = with_setting(document, path, value)
            case "add":
                document = _with_more(document, change, start)
            case "remove":
                one, part = setting(document, change.path), change.path.split(".")[0]
                if part not in ("policies", "calendar", "hands") or not isinstance(one, dict):
                    place = tuple(change.path.split("."))
                    raise PlanError([Problem(place, None, "only a policy, a calendar entry or a hand can be removed")])
                document = {**document, part: [other for other in document[part] if other is not one]}
            case "move":
                for path, value in _moved(document, change, start).items():
                    document = with_setting(document, path, value)
            case "skip":
                days = without_day(_entry(document, change.path), seconds_of(change, change.value) / 1000, _zone(start))
                document = with_setting(document, f"{change.path}.except", days)
    return document


def _moved(document: dict[str, Any], change: Change, start: datetime) -> dict[str, Any]:
    """The settings, by path, of what was moved."""
    value = change.value if isinstance(change.value, dict) else {}
    by, longer = (seconds_of(change, value.get(field, 0.0)) for field in ("by", "longer"))
    if change.path.startswith("hands."):
        hand = setting(document, change.path)
        at = datetime.fromisoformat(hand["at"])
        settings: dict[str, Any] = {"at": (at + timedelta(seconds=by)).isoformat()}
        if "for" in hand:
            settings["for"] = max(60.0, hand["for"] + longer)
    else:
        settings = moved(_entry(document, change.path), by, longer)
    return {f"{change.path}.{field}": one for field, one in settings.items()}


def _entry(document: dict[str, Any], path: str) -> CalendarEntry:
    if not path.startswith("calendar."):
        raise PlanError([Problem((path,), None, "only a calendar entry or a hand can be moved")])
    return _ENTRY.validate_python(setting(document, path))


def seconds_of(change: Change, value: Any) -> float:
    """A number in a change. Raises PlanError where it is none."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise PlanError([Problem((change.path,), value, "write a number")])
    return float(value)


def _zone(start: datetime) -> ZoneInfo:
    assert isinstance(start.tzinfo, ZoneInfo)
    return start.tzinfo


def _with_more(document: dict[str, Any], change: Change, start: datetime) -> dict[str, Any]:
    """One more policy or calendar entry, under a name that is not taken."""
    if change.path == "hands":
        return {**document, "hands": [*document["hands"], _hand(change, start)]}
    known = {"policies": _STARTS, "calendar": _ENTRIES}.get(change.path, {})
    if change.value not in known:
        said = f"add to policies one of {', '.join(_STARTS)}, or to calendar one of {', '.join(_ENTRIES)}"
        raise PlanError([Problem((change.path,), change.value, said)])
    begun = dict(known[change.value])
    if change.path == "calendar":
        first = start if start.hour < 8 else start + timedelta(days=1)
        begun |= {"kind": change.value, "from": f"{first:%Y-%m-%d}T08:00"}
    names = {one["name"] for one in document[change.path]}
    stem = _STEMS.get(change.value, change.value)
    name = next(n for n in (stem, *(f"{stem}-{k}" for k in range(2, 100))) if n not in names)
    return {**document, change.path: [*document[change.path], {"name": name, **begun}]}


def _hand(change: Change, start: datetime) -> Any:
    """A hand with its time on the wall clock, to the minute."""
    hand = change.value
    if not isinstance(hand, dict) or not isinstance(hand.get("at"), int | float):
        return hand
    return {**hand, "at": wall_text(hand["at"], _zone(start))}
