"""Edits of a group: a path and a value, a policy more, a policy less."""

import re
from collections.abc import Collection
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import TypeAdapter, ValidationError

from jostle.core.calendar.moved import moved, without_day
from jostle.core.change.change import Change, seconds_of
from jostle.core.change.start import policy_to_begin_with
from jostle.core.plan.calendar import ENTRY_KINDS, CalendarEntry
from jostle.core.plan.clock import wall_text
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import MOST_BANDS, POLICY_STARTS, MetricPolicy, TriggerPolicy, chosen_metric
from jostle.core.plan.problem import PlanError, Problem, validated
from jostle.core.plan.repeat import days_of_rule
from jostle.core.plan.setting import setting, with_setting
from jostle.core.plan.template_field import read_fields

_ENTRY: TypeAdapter[CalendarEntry] = TypeAdapter(CalendarEntry)


def changed_group(document: dict[str, Any], changes: list[Change], start: datetime) -> dict[str, Any]:
    """A group's plain data with changes applied in order; new calendar entries begin on the first day after `start`.

    Raises PlanError where a path leads nowhere.
    """
    for change in changes:
        match change.op:
            case "set":
                for path, value in _settings(document, change).items():
                    document = with_setting(document, path, value)
            case "add":
                document = _with_more(document, change, start)
            case "remove":
                document = _with_less(document, change)
            case "move":
                for path, value in _moved(document, change, start).items():
                    document = with_setting(document, path, value)
            case "skip":
                days = without_day(_entry(document, change.path), seconds_of(change, change.value) / 1000, _zone(start))
                document = with_setting(document, f"{change.path}.except", days)
    return document


def _settings(document: dict[str, Any], change: Change) -> dict[str, Any]:
    """What is set, by path, where a value is set at a path of the page."""
    part, _, field = change.path.partition(".")
    match part:
        case "minimum" | "maximum" if isinstance(change.value, int) and isinstance(start := document.get("start_count"), int):
            follows = max(start, change.value) if part == "minimum" else min(start, change.value)
            return {change.path: change.value, "start_count": follows}
        case "calendar" if field.endswith(".repeat") and isinstance(change.value, dict):
            return {change.path: _on_days(document, change)}
        case "calendar":
            return _begun_at(document, change.path, change.value)
        case "policies" if field.endswith(".metric"):
            return _with_metric(document, change.path, change.value)
        case "buying" if field == "count_in" and change.value != "weights":
            return {change.path: change.value, "buying.weights": {}}
        case "launch" if isinstance(change.value, str):
            return {change.path: read_fields({field: change.value}).get(field)}
        case _:
            return {change.path: change.value}


def _begun_at(document: dict[str, Any], path: str, value: Any) -> dict[str, Any]:
    """The beginning of a calendar entry: `from` with a time of day keeps its date, and `first` is the whole of it."""
    inside, _, field = path.rpartition(".")
    if field == "first":
        return {f"{inside}.from": value}
    if field == "from" and isinstance(value, str) and re.fullmatch(r"\d?\d:\d\d", value):
        return {path: f"{str(setting(document, path))[:10]}T{value:0>5}"}
    return {path: value}


def _with_metric(document: dict[str, Any], path: str, choice: Any) -> dict[str, Any]:
    """A policy's metric, and what has to change with it: the series, its threshold, which would mean another unit, and the zone,
    where it is not read by zone."""
    inside = path.rpartition(".")[0]
    wanted, series = chosen_metric(str(choice))
    before = next((p for p in validated(Group, document).policies if p.name == inside.partition(".")[2]), None)
    if not isinstance(before, MetricPolicy) or wanted not in list(Metric):
        return {path: choice}
    metric = Metric(wanted)
    settings: dict[str, Any] = {path: wanted, f"{inside}.series": series}
    if before.metric.unit != metric.unit:
        settings[f"{inside}.{before.level_at[0]}"] = metric.plausible
    return settings if metric.by_zone else settings | {f"{inside}.zone": None}


def _moved(document: dict[str, Any], change: Change, start: datetime) -> dict[str, Any]:
    """The settings, by path, of what was moved."""
    value = change.value if isinstance(change.value, dict) else {}
    by, longer = (seconds_of(change, value.get(field, 0.0)) for field in ("by", "longer"))
    if change.path.startswith("hands."):
        hand = setting(document, change.path)
        at = datetime.fromisoformat(hand["at"])
        settings: dict[str, Any] = {"at": (at + timedelta(seconds=by)).isoformat()}
        for field in ("for", "hold"):
            if field in hand:
                settings[field] = max(60.0, hand[field] + longer)
    else:
        count = max(1, document.get("start_count") or 0, document["minimum"])
        settings = moved(_entry(document, change.path), by, longer, count)
    return {f"{change.path}.{field}": one for field, one in settings.items()}


def _entry(document: dict[str, Any], path: str) -> CalendarEntry:
    if not path.startswith("calendar."):
        raise PlanError([Problem((path,), None, "only a calendar entry or a hand can be moved")])
    try:
        return _ENTRY.validate_python(setting(document, path))
    except ValidationError:
        raise PlanError([Problem(tuple(path.split(".")), None, "is no entry of the calendar")]) from None


def _zone(start: datetime) -> ZoneInfo:
    assert isinstance(start.tzinfo, ZoneInfo)
    return start.tzinfo


def _on_days(document: dict[str, Any], change: Change) -> Any:
    """The days of the week of an entry with those that are put in, without those that are left out; what is not named stays."""
    path, value = change.path.rpartition(".")[0], change.value
    into, out = (named if isinstance(named := value.get(which), list) else [] for which in ("in", "out"))
    if not {"in", "out"} & value.keys():
        return value
    days, last = days_of_rule(_entry(document, path).repeat) or ([], None)
    stays = [day for day in days if day not in out]
    return {"days": [*stays, *(day for day in into if day not in stays)], "last": value.get("last", last)}


def _bands_of(document: dict[str, Any], path: str) -> TriggerPolicy | None:
    """The policy whose bands stand at a path."""
    part, _, rest = path.partition(".")
    if part != "policies" or not rest.endswith(".bands"):
        return None
    name = rest.removesuffix(".bands")
    found = next((p for p in validated(Group, document).policies if p.name == name), None)
    return found if isinstance(found, TriggerPolicy) else None


def _promises(document: dict[str, Any]) -> list[dict[str, Any]]:
    return [promise.model_dump(mode="json") for promise in validated(Group, document).promises]


def _with_less(document: dict[str, Any], change: Change) -> dict[str, Any]:
    """Without what stands at a path."""
    place = tuple(change.path.split("."))
    if change.path == "promises":
        promises = _promises(document)
        if change.value not in promises:
            raise PlanError([Problem(place, change.value, "is none of the promises any more")])
        promises.remove(change.value)
        return {**document, "promises": promises}
    if (policy := _bands_of(document, change.path)) is not None:
        if not policy.bands:
            raise PlanError([Problem(place, None, "there is no band to take out any more")])
        return dict(with_setting(document, change.path, setting(document, change.path)[:-1]))
    one, part = setting(document, change.path), place[0]
    if part not in ("policies", "calendar", "hands") or not isinstance(one, dict):
        said = "only a policy, a calendar entry, a hand, a promise or a band can be removed"
        raise PlanError([Problem(place, None, said)])
    return {**document, part: [other for other in document[part] if other is not one]}


def _with_more(document: dict[str, Any], change: Change, start: datetime) -> dict[str, Any]:
    """One more policy or calendar entry, under a name that is not taken."""
    if change.path == "promises":
        return {**document, "promises": [*_promises(document), change.value]}
    if (policy := _bands_of(document, change.path)) is not None:
        if (another := policy.another_band) is None:
            raise PlanError([Problem(tuple(change.path.split(".")), None, f"has {MOST_BANDS} bands, the most there may be")])
        return dict(with_setting(document, change.path, [*(setting(document, change.path) or []), another]))
    if change.path == "hands":
        return {**document, "hands": [*document["hands"], _hand(change, start)]}
    known: Collection[str] = POLICY_STARTS if change.path == "policies" else ENTRY_KINDS if change.path == "calendar" else ()
    if not isinstance(change.value, str) or change.value not in known:
        said = f"add to policies one of {', '.join(POLICY_STARTS)}, or to calendar one of {', '.join(ENTRY_KINDS)}"
        raise PlanError([Problem((change.path,), change.value, said)])
    if change.path == "policies":
        begun = policy_to_begin_with(change.value, document["work"]["kind"])
    else:
        begun = _entry_to_begin_with(change.value, start, document)
    names, stem = {one["name"] for one in document[change.path]}, begun["name"]
    name = next(n for n in (stem, *(f"{stem}-{k}" for k in range(2, 100))) if n not in names)
    return {**document, change.path: [*document[change.path], {**begun, "name": name}]}


def _entry_to_begin_with(kind: str, start: datetime, document: dict[str, Any]) -> dict[str, Any]:
    """An entry of the calendar that can be added, from its time on the first day that still has it; a rollout a day after the
    last."""
    begun = dict(ENTRY_KINDS[kind].start)
    at = begun.pop("at", "08:00")
    first = start if f"{start:%H:%M}" < at else start + timedelta(days=1)
    if kind == "rollout" and (others := [one["from"] for one in document["calendar"] if one["kind"] == kind]):
        first = max(first, datetime.fromisoformat(max(others)).replace(tzinfo=start.tzinfo) + timedelta(days=1))
    return {"name": kind, "kind": kind, "from": f"{first:%Y-%m-%d}T{at}", **begun}


def _hand(change: Change, start: datetime) -> Any:
    """A hand with its time on the wall clock, to the minute."""
    hand = change.value
    if not isinstance(hand, dict) or not isinstance(hand.get("at"), int | float):
        return hand
    return {**hand, "at": wall_text(hand["at"], _zone(start))}
