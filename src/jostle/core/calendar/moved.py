"""An entry of the calendar taken up and laid down elsewhere on the wall clock, left out on one day, begun or ended at once."""

from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.repeat import WEEK
from jostle.core.plan.rollout import Rollout

SHORTEST = 60.0


def moved(entry: CalendarEntry, by: float, longer: float, count: int = 1) -> dict[str, Any]:
    """The settings of an entry, as a plan file has them, `by` seconds later on the wall clock and lasting `longer`; what that is
    of a rollout goes by the count of its group.

    Every repetition moves along; where that crosses midnight, the days of the week and the exceptions do so too.
    """
    shift = timedelta(seconds=by)
    old = datetime.fromisoformat(entry.begin)
    begin = old + shift
    days = (begin.date() - old.date()).days
    settings: dict[str, Any] = {"from": begin.isoformat()}
    if isinstance(entry, Rollout) and longer:
        settings |= entry.stretched(longer, count)
    if entry.length is not None:
        settings["for"] = max(SHORTEST, entry.length + longer)
    if entry.until is not None:
        end = datetime.combine(old.date(), time.fromisoformat(entry.until)) + shift + timedelta(seconds=longer)
        settings["until"] = f"{end:%H:%M}"
    if entry.also:
        settings["also"] = [(datetime.fromisoformat(one) + shift).isoformat() for one in entry.also]
    if days and entry.excepted:
        settings["except"] = [(date.fromisoformat(one) + timedelta(days=days)).isoformat() for one in entry.excepted]
    if days and entry.repeat:
        settings["repeat"] = _turned(entry.repeat, days)
    return settings


def without_day(entry: CalendarEntry, epoch: float, plans_zone: ZoneInfo) -> list[str]:
    """The exceptions of an entry with the day on which the instant `epoch` (s since 1970) lies as one more."""
    day = datetime.fromtimestamp(epoch, entry.zone_in(plans_zone)).date().isoformat()
    return sorted({*entry.excepted, day})


def begun(entry: CalendarEntry, epoch: float, plans_zone: ZoneInfo) -> dict[str, Any]:
    """The settings of an entry that comes once more at the instant `epoch` (s since 1970), also on a day that was left out."""
    wall = _wall(entry, epoch, plans_zone)
    rest = [day for day in entry.excepted if day != wall[:10]]
    return {"also": [*entry.also, wall], "except": rest, "paused": False}


def ended(entry: CalendarEntry, since: float, plans_zone: ZoneInfo) -> dict[str, Any]:
    """The settings of an entry without the stretch that began at the instant `since` (s since 1970)."""
    wall = _wall(entry, since, plans_zone)
    return {"except": without_day(entry, since, plans_zone), "also": [one for one in entry.also if one != wall]}


def _wall(entry: CalendarEntry, epoch: float, plans_zone: ZoneInfo) -> str:
    at = datetime.fromtimestamp(epoch, entry.zone_in(plans_zone)).replace(tzinfo=None)
    return at.isoformat(timespec="seconds")


def _turned(rule: str, days: int) -> str:
    """A rule with its days of the week so many days later."""
    parts = []
    for part in rule.split(";"):
        name, _, value = part.partition("=")
        if name == "BYDAY":
            value = ",".join(f"{one[:-2]}{WEEK[(WEEK.index(one[-2:]) + days) % 7]}" for one in value.split(","))
        parts.append(f"{name}={value}")
    return ";".join(parts)
