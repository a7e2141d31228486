"""From an entry of the calendar to the stretches of time in which it holds.

Entries live on the wall clock. A time that the spring change skips is taken an hour later; of a time that the autumn
change brings twice, the first is meant.
"""

from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.repeat import comings

DAY = timedelta(days=1)


def to_epoch(wall: datetime, zone: ZoneInfo) -> float:
    """Seconds since 1970 of a wall-clock time; skipped times move on by the length of the gap."""
    return wall.replace(tzinfo=zone, fold=0).timestamp()


def beginnings(entry: CalendarEntry, first: datetime, last: datetime, zone: ZoneInfo) -> list[datetime]:
    """Wall-clock beginnings of an entry from `first` to `last`, wall-clock times too, in order."""
    begin = datetime.fromisoformat(entry.begin)
    found = {datetime.fromisoformat(one) for one in entry.also}
    if entry.repeat is None:
        found.add(begin)
    else:
        found.update(comings(_local_until(entry.repeat, zone), begin, first, last))
    left_out = set(entry.excepted)
    return sorted(one for one in found if first <= one <= last and one.date().isoformat() not in left_out)


def ending(entry: CalendarEntry, begin: datetime, zone: ZoneInfo) -> float:
    """Seconds since 1970 at which a beginning's stretch ends; its own beginning for an entry that happens once."""
    if entry.length is not None:
        return to_epoch(begin, zone) + entry.length
    if entry.until is None:
        return to_epoch(begin, zone)
    end = datetime.combine(begin.date(), time.fromisoformat(entry.until))
    return to_epoch(end if end > begin else end + DAY, zone)


def stretches(entry: CalendarEntry, first: float, last: float, plans_zone: ZoneInfo) -> list[tuple[float, float]]:
    """Begin and end (s since 1970) of each stretch of an entry that touches the time from `first` to `last`."""
    zone = entry.zone_in(plans_zone)
    lasting = timedelta(seconds=entry.length or (2 * DAY.total_seconds() if entry.until else 0)) + 2 * DAY
    low = datetime.fromtimestamp(first, zone).replace(tzinfo=None) - lasting
    high = datetime.fromtimestamp(last, zone).replace(tzinfo=None) + DAY
    pairs = ((to_epoch(begin, zone), ending(entry, begin, zone)) for begin in beginnings(entry, low, high, zone))
    return [(begin, end) for begin, end in pairs if begin < last and (end > first or begin >= first)]


def holds_since(entry: CalendarEntry, at: float, plans_zone: ZoneInfo) -> float | None:
    """When the stretch began in which an entry holds at an instant (both s since 1970); None where it does not."""
    held = stretches(entry, at, at + 1.0, plans_zone)
    return next((begin for begin, end in held if begin <= at < end), None)


def _local_until(rule: str, zone: ZoneInfo) -> str:
    """The rule with an UNTIL in UTC brought to the wall clock of the zone."""
    parts = []
    for part in rule.split(";"):
        name, _, value = part.partition("=")
        if name == "UNTIL" and value.endswith("Z"):
            utc = datetime.strptime(value, "%Y%m%dT%H%M%SZ").replace(tzinfo=ZoneInfo("UTC"))
            part = f"UNTIL={utc.astimezone(zone):%Y%m%dT%H%M%S}"
        parts.append(part)
    return ";".join(parts)
