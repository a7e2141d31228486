"""A group's calendar as an iCalendar file (RFC 5545), and back.

Each entry is an event in its time zone. What it orders stands in its summary, in words, and in properties of its own;
an event without those is read by its summary, so that a calendar made elsewhere can be brought.
"""

import json
import re
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event, vRecur
from pydantic import TypeAdapter, ValidationError

from jostle.core.calendar.occurrence import ending, to_epoch
from jostle.core.plan.calendar import AddCount, CalendarEntry, Floor, Freeze, Limits, Removals, SetCount, Sleep
from jostle.core.plan.entry import Entry, Readied
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.wall import known_zone

_ENTRY: TypeAdapter[CalendarEntry] = TypeAdapter(CalendarEntry)
_OWN = "X-JOSTLE-"
_OF_ENTRIES = set(Entry.model_fields) | {"kind"}
MOST_BYTES, MOST_LINE, MOST_EVENTS = 2**20, 20_000, 50
# Summaries that say an order in words, and the kind and numbers that they stand for
_SAID = (
    (re.compile(r"at least (\d+)"), "floor", ("count",)),
    (re.compile(r"between (\d+) and (\d+)"), "bounds", ("minimum", "maximum")),
    (re.compile(r"set (?:the count )?to (\d+)"), "set", ("count",)),
    (re.compile(r"asleep|sleep"), "sleep", ()),
    (re.compile(r"removals only"), "removals", ()),
    (re.compile(r"no automatic change|freeze"), "freeze", ()),
)


class CalendarError(PlanError):
    """An iCalendar file that cannot be used, with what is wrong about each event."""


def write_calendar(entries: list[CalendarEntry], group: str, zone: ZoneInfo) -> bytes:
    """An iCalendar file of a group's entries; paused ones are cancelled events. `zone` is the plan's."""
    calendar = Calendar()
    calendar.add("prodid", "-//Jostle//calendar//EN")
    calendar.add("version", "2.0")
    for entry in entries:
        calendar.add_component(_event(entry, group, entry.zone_in(zone)))
    calendar.add_missing_timezones()
    return bytes(calendar.to_ical())


def _event(entry: CalendarEntry, group: str, zone: ZoneInfo) -> Event:
    event = Event()
    naive = datetime.fromisoformat(entry.begin)
    begin = naive.replace(tzinfo=zone)
    event.add("uid", f"{group}.{entry.name}@jostle")
    event.add("dtstamp", datetime(2025, 1, 1, tzinfo=ZoneInfo("UTC")))
    event.add("summary", entry.in_short())
    event.add("dtstart", begin)
    if entry.length is not None:
        event.add("duration", timedelta(seconds=entry.length))
    elif entry.until is not None:
        event.add("dtend", datetime.fromtimestamp(ending(entry, naive, zone), zone))
        event.add(f"{_OWN}UNTIL", entry.until)
    if entry.repeat is not None:
        event.add("rrule", vRecur.from_ical(entry.repeat))
    for day in entry.excepted:
        event.add("exdate", datetime.combine(date.fromisoformat(day), naive.time(), tzinfo=zone))
    for also in entry.also:
        event.add("rdate", datetime.fromisoformat(also).replace(tzinfo=zone))
    if entry.paused:
        event.add("status", "CANCELLED")
    event.add(f"{_OWN}NAME", entry.name)
    event.add(f"{_OWN}KIND", entry.kind)
    if isinstance(entry, Readied) and entry.ready_by:
        event.add(f"{_OWN}READY-BY", "TRUE")
    if isinstance(entry, Rollout):
        event.add(f"{_OWN}ROLLOUT", json.dumps(entry.model_dump(mode="json", exclude=_OF_ENTRIES, exclude_defaults=True)))
    for field, value in _numbers(entry).items():
        event.add(f"{_OWN}{field.upper()}", str(value))
    return event


def _numbers(entry: CalendarEntry) -> dict[str, float]:
    match entry:
        case Floor():
            return {"count": entry.count}
        case Limits():
            return {"minimum": entry.minimum, "maximum": entry.maximum}
        case SetCount():
            return {"count": entry.count, "retry": entry.retry}
        case AddCount():
            return {"by": entry.by, "retry": entry.retry}
        case Sleep() | Removals() | Freeze() | Rollout():
            return {}


def read_calendar(content: bytes, zone: ZoneInfo) -> list[CalendarEntry]:
    """The entries of an iCalendar file. `zone` is the plan's, for events that name none.

    Raises CalendarError with every event that cannot be used.
    """
    if len(content) > MOST_BYTES or any(len(line) > MOST_LINE for line in content.split(b"\n")):
        said = f"is longer than {MOST_BYTES // 2**10} KiB or has a line of more than {MOST_LINE:,} characters"
        raise CalendarError([Problem(("calendar",), None, said)])
    try:
        calendars = Calendar.from_ical(content, multiple=True)
    except (ValueError, IndexError, KeyError, UnicodeDecodeError) as error:
        raise CalendarError([Problem(("calendar",), None, f"is not an iCalendar file: {error}")]) from None
    events = [event for calendar in calendars for event in calendar.walk("VEVENT")]
    if len(events) > MOST_EVENTS:
        raise CalendarError([Problem(("calendar",), None, f"holds {len(events):,} events; a group takes {MOST_EVENTS}")])
    if not events:
        raise CalendarError([Problem(("calendar",), None, "holds no event")])
    problems: list[Problem] = []
    entries: list[CalendarEntry] = []
    for number, event in enumerate(events):
        place = ("calendar", number)
        try:
            entries.append(_ENTRY.validate_python(_fields(event, number, zone)))
        except PlanError as error:
            problems += [Problem(place, p.value, p.message) for p in error.problems]
        except ValidationError as error:
            problems += [Problem((*place, *d["loc"][1:]), d.get("input"), d["msg"]) for d in error.errors(include_url=False)]
        except (ValueError, AttributeError, KeyError, TypeError, RecursionError) as error:
            problems.append(Problem(place, str(event.get("summary", "")), f"cannot be read: {error}"))
    if problems:
        raise CalendarError(problems)
    return entries


def _fields(event: Any, number: int, zone: ZoneInfo) -> dict[str, Any]:
    begin = event.decoded("dtstart")
    named = event["dtstart"].params.get("TZID")
    if named is not None and getattr(begin, "tzinfo", None) is None:
        raise PlanError([Problem((), str(named), "is not a time zone that is known; write an IANA name such as Atlantic/Faroe")])
    if not isinstance(begin, datetime):
        begin = datetime.combine(begin, datetime.min.time(), tzinfo=zone)
    own = _zone_of(begin, zone)
    naive = begin.astimezone(own).replace(tzinfo=None) if begin.tzinfo else begin
    fields: dict[str, Any] = {"name": _name(event, number), "from": naive.isoformat(), **_order(event)}
    if own.key != zone.key:
        fields["zone"] = own.key
    if str(event.get(f"{_OWN}READY-BY", "")).upper() == "TRUE":
        fields["ready_by"] = True
    if fields["kind"] not in ("set", "add", "rollout"):
        fields |= _length(event, naive, own)
    if "rrule" in event:
        fields["repeat"] = event["rrule"].to_ical().decode()
    fields["except"] = [one.strftime("%Y-%m-%d") for one in _dates(event, "exdate", own)]
    fields["also"] = [one.isoformat() for one in _dates(event, "rdate", own)]
    fields["paused"] = str(event.get("status", "")).upper() == "CANCELLED"
    return fields


def _name(event: Any, number: int) -> str:
    own = event.get(f"{_OWN}NAME")
    if own:
        return str(own)
    text = re.sub(r"[^a-z0-9]+", "-", str(event.get("summary", "")).lower()).strip("-")[:50].strip("-")
    return f"{text or 'event'}-{number + 1}"


def _zone_of(moment: datetime, fallback: ZoneInfo) -> ZoneInfo:
    key = getattr(moment.tzinfo, "key", None) or str(moment.tzinfo or "")
    try:
        return ZoneInfo(known_zone(key)) if key else fallback
    except (KeyError, ValueError, OSError):
        raise PlanError([Problem((), key, "is not an IANA time zone")]) from None


def _length(event: Any, begin: datetime, zone: ZoneInfo) -> dict[str, Any]:
    until = event.get(f"{_OWN}UNTIL")
    if until:
        return {"until": str(until)}
    if "duration" in event:
        return {"for": event.decoded("duration").total_seconds()}
    if "dtend" not in event:
        raise PlanError([Problem((), str(event.get("summary", "")), "has neither an end nor a duration")])
    end = event.decoded("dtend")
    if not isinstance(end, datetime):
        end = datetime.combine(end, datetime.min.time(), tzinfo=zone)
    naive = end.astimezone(zone).replace(tzinfo=None) if end.tzinfo else end
    within_a_day = timedelta(0) < naive - begin <= timedelta(days=1)
    if within_a_day:
        return {"until": naive.time().isoformat()}
    return {"for": to_epoch(naive, zone) - to_epoch(begin, zone)}


def _dates(event: Any, name: str, zone: ZoneInfo) -> list[datetime]:
    """Wall-clock times of EXDATE or RDATE, which may stand once or several times."""
    found = event.get(name, [])
    lists = found if isinstance(found, list) else [found]
    times = [one.dt for held in lists for one in held.dts]
    whole = [one if isinstance(one, datetime) else datetime.combine(one, datetime.min.time()) for one in times]
    return [one.astimezone(zone).replace(tzinfo=None) if one.tzinfo else one for one in whole]


def _order(event: Any) -> dict[str, Any]:
    kind = event.get(f"{_OWN}KIND")
    if kind == "rollout":
        return {**json.loads(str(event.get(f"{_OWN}ROLLOUT", "{}"))), "kind": "rollout"}
    if kind:
        names = ("count", "by", "minimum", "maximum", "retry")
        return {"kind": str(kind), **{n: float(event[f"{_OWN}{n.upper()}"]) for n in names if f"{_OWN}{n.upper()}" in event}}
    summary = str(event.get("summary", ""))
    for pattern, said, fields in _SAID:
        if match := pattern.search(summary.lower()):
            return {"kind": said, **{field: int(value) for field, value in zip(fields, match.groups(), strict=True)}}
    raise PlanError(
        [
            Problem(
                (), summary, "does not say what it orders; write a summary such as at least 12, set to 4, between 2 and 8, asleep"
            )
        ]
    )
