"""Calendars out and in, read by another reader of iCalendar as well."""

from datetime import datetime
from zoneinfo import ZoneInfo

import pytest
import vobject
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jostle.core.calendar.occurrence import stretches
from jostle.core.plan.calendar import CalendarEntry
from jostle.formats.calendar_ics import CalendarError, read_calendar, write_calendar

FAROE = ZoneInfo("Atlantic/Faroe")
ENTRY = TypeAdapter(CalendarEntry)
KINDS = {
    "floor": {"count": 6},
    "bounds": {"minimum": 2, "maximum": 9},
    "set": {"count": 4, "retry": 1200.0},
    "sleep": {},
    "removals": {},
    "freeze": {},
}


def entry(kind="floor", **fields):
    own = {"for": 5400.0} if kind != "set" and "until" not in fields else {}
    return ENTRY.validate_python(
        {"name": f"the-{kind}", "kind": kind, "from": "2025-07-07T08:30", **KINDS[kind], **own, **fields}
    )


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_kind_comes_back_as_it_went(kind):
    made = [entry(kind, repeat="FREQ=WEEKLY;BYDAY=MO,TH", **{"except": ["2025-07-10"], "also": ["2025-07-12T09:00:00"]})]
    assert read_calendar(write_calendar(made, "web", FAROE), FAROE) == made


@given(
    st.sampled_from(["19:00", "07:15", "23:59"]),
    st.sampled_from([None, "FREQ=DAILY", "FREQ=MONTHLY;BYMONTHDAY=3"]),
    st.sampled_from([None, "America/New_York", "Asia/Kathmandu"]),
    st.booleans(),
)
def test_until_zone_rule_and_pause_come_back(until, repeat, zone, paused):
    made = [entry("sleep", until=until, repeat=repeat, zone=zone, paused=paused)]
    assert read_calendar(write_calendar(made, "web", FAROE), FAROE) == made


def test_another_reader_finds_the_same_times():
    made = [entry("sleep", until="07:00", repeat="FREQ=DAILY;COUNT=5", **{"except": ["2025-07-09"]}), entry("set")]
    calendar = vobject.readOne(write_calendar(made, "web", FAROE).decode())
    events = {event.summary.value: event for event in calendar.vevent_list}
    assert set(events) == {"asleep", "set to 4"}
    asleep = events["asleep"]
    assert asleep.dtstart.value.utcoffset().total_seconds() == 3600
    theirs = [one.replace(tzinfo=FAROE).timestamp() for one in (t.replace(tzinfo=None) for t in asleep.rruleset)]
    first = datetime(2025, 7, 7, tzinfo=FAROE).timestamp()
    ours = [begin for begin, _ in stretches(made[0], first, first + 7 * 86400, FAROE)]
    assert theirs == ours
    assert len(ours) == 4
    assert calendar.vtimezone_list


FOREIGN = """BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//Harbour//Desk//EN
BEGIN:VEVENT
UID:1
DTSTAMP:20250701T000000Z
SUMMARY:At least 7 for the release
DTSTART:20250710T103000Z
DTEND:20250710T143000Z
END:VEVENT
BEGIN:VEVENT
UID:2
DTSTAMP:20250701T000000Z
SUMMARY:Asleep
DTSTART;VALUE=DATE:20250712
DTEND;VALUE=DATE:20250714
RRULE:FREQ=WEEKLY
END:VEVENT
END:VCALENDAR
"""


def test_a_calendar_made_elsewhere_is_read_by_its_summaries():
    floor, sleep = read_calendar(FOREIGN.replace("\n", "\r\n").encode(), FAROE)
    assert (floor.kind, floor.count, floor.zone, floor.begin, floor.until) == ("floor", 7, "UTC", "2025-07-10T10:30:00", "14:30")
    assert (sleep.kind, sleep.begin, sleep.length, sleep.repeat) == ("sleep", "2025-07-12T00:00:00", 2 * 86400, "FREQ=WEEKLY")
    assert floor.name == "at-least-7-for-the-release-1"


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"hello", "not an iCalendar file"),
        (b"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n", "holds no event"),
        (FOREIGN.replace("Asleep", "Lunch").encode(), "does not say what it orders"),
        (FOREIGN.replace("DTEND;VALUE=DATE:20250714\n", "").encode(), "neither an end nor a duration"),
        (FOREIGN.replace("FREQ=WEEKLY", "FREQ=SECONDLY").encode(), "repeats by the hour"),
    ],
)
def test_what_cannot_be_used_is_said(content, said):
    with pytest.raises(CalendarError, match=said):
        read_calendar(content, FAROE)
