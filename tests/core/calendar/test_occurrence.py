"""Entries on the wall clock of Atlantic/Faroe: clocks go forward on 30 March 2025 at 01:00 and back on 26 October at 02:00."""

from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from dateutil.rrule import rrulestr
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from jostle.core.calendar.occurrence import stretches
from jostle.core.calendar.orders import orders
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.clock import Clock
from tests.engines import result

FAROE = ZoneInfo("Atlantic/Faroe")
ENTRY = TypeAdapter(CalendarEntry)


def entry(**fields):
    return ENTRY.validate_python({"name": "one", "kind": "floor", "count": 4, **fields})


def epoch(wall: str) -> float:
    return datetime.fromisoformat(wall).replace(tzinfo=FAROE).timestamp()


def held(made, first: str, last: str):
    """Beginnings and ends within a span, as wall-clock times."""
    found = stretches(made, epoch(first), epoch(last), FAROE)
    return [tuple(datetime.fromtimestamp(t, FAROE).strftime("%m-%d %H:%M") for t in pair) for pair in found]


def test_a_night_keeps_its_wall_clock_through_both_changes():
    nights = entry(**{"from": "2025-01-01T19:00", "until": "07:00", "repeat": "FREQ=DAILY"})
    spring = held(nights, "2025-03-29T12:00", "2025-03-31T12:00")
    assert spring == [("03-29 19:00", "03-30 07:00"), ("03-30 19:00", "03-31 07:00")]
    assert held(nights, "2025-10-25T12:00", "2025-10-26T12:00") == [("10-25 19:00", "10-26 07:00")]
    lengths = [end - begin for begin, end in stretches(nights, epoch("2025-03-29T12:00"), epoch("2025-03-31T12:00"), FAROE)]
    assert lengths == [11 * 3600, 12 * 3600]
    (autumn,) = stretches(nights, epoch("2025-10-25T12:00"), epoch("2025-10-26T12:00"), FAROE)
    assert autumn[1] - autumn[0] == 13 * 3600


def test_a_length_is_elapsed_time():
    night = entry(**{"from": "2025-03-29T19:00", "for": "12 h"})
    assert held(night, "2025-03-29T00:00", "2025-03-31T00:00") == [("03-29 19:00", "03-30 08:00")]


def test_a_time_that_is_skipped_comes_an_hour_later_and_one_that_comes_twice_is_the_first():
    skipped = entry(**{"from": "2025-03-30T01:30", "for": "1 h"})
    assert held(skipped, "2025-03-29T00:00", "2025-03-31T00:00") == [("03-30 02:30", "03-30 03:30")]
    twice = entry(**{"from": "2025-10-26T01:30", "for": "30 min"})
    ((begin, _),) = stretches(twice, epoch("2025-10-25T00:00"), epoch("2025-10-27T00:00"), FAROE)
    assert begin == datetime(2025, 10, 26, 0, 30, tzinfo=ZoneInfo("UTC")).timestamp()


def test_exceptions_and_single_dates():
    made = entry(
        **{
            "from": "2025-07-07T08:00",
            "for": "1 h",
            "repeat": "FREQ=WEEKLY;BYDAY=MO,WE",
            "except": ["2025-07-09"],
            "also": ["2025-07-11T10:00"],
        }
    )
    days = [begin[:5] for begin, _ in held(made, "2025-07-07T00:00", "2025-07-17T00:00")]
    assert days == ["07-07", "07-11", "07-14", "07-16"]


def test_a_rule_in_another_zone_and_an_until_in_utc():
    made = entry(
        **{"from": "2025-07-07T09:00", "for": "1 h", "repeat": "FREQ=DAILY;UNTIL=20250708T235959Z", "zone": "America/New_York"}
    )
    assert held(made, "2025-07-07T00:00", "2025-07-12T00:00") == [("07-07 14:00", "07-07 15:00"), ("07-08 14:00", "07-08 15:00")]


def test_an_entry_that_began_before_the_span_still_holds_in_it():
    made = entry(**{"from": "2025-07-05T22:00", "for": "30 h"})
    assert held(made, "2025-07-07T00:00", "2025-07-08T00:00") == [("07-05 22:00", "07-07 04:00")]


@given(
    st.sampled_from(
        ["FREQ=DAILY", "FREQ=WEEKLY;BYDAY=TU,SA", "FREQ=DAILY;INTERVAL=3", "FREQ=MONTHLY;BYMONTHDAY=1,15", "FREQ=DAILY;COUNT=5"]
    ),
    st.datetimes(datetime(2025, 1, 1), datetime(2025, 9, 1)),
    st.integers(0, 300),
)
def test_beginnings_are_those_of_the_rule(rule, begin, ahead):
    begin = begin.replace(second=0, microsecond=0)
    made = entry(**{"from": begin.isoformat(), "for": "1 h", "repeat": rule})
    first = begin.timestamp() + ahead * 86400
    found = stretches(made, first, first + 20 * 86400, ZoneInfo("UTC"))
    expected = [
        one.replace(tzinfo=ZoneInfo("UTC")).timestamp()
        for one in rrulestr(rule, dtstart=begin).xafter(begin, count=400, inc=True)
    ]
    assert [b for b, _ in found] == [t for t in expected if first - 3600 < t < first + 20 * 86400]


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"from": "2025-07-07"}, "needs either for"),
        ({"from": "noon", "for": "1 h"}, "write a date and time"),
        ({"from": "2025-07-07T00:00Z", "for": "1 h"}, "without an offset"),
        ({"from": "2025-07-07T00:00", "for": "1 h", "until": "07:00"}, "needs either for"),
        ({"from": "2025-07-07T00:00", "for": "1 h", "repeat": "FREQ=OFTEN"}, "RFC 5545"),
        ({"from": "2025-07-07T00:00", "for": "1 h", "repeat": "FREQ=SECONDLY"}, "repeats by the hour"),
        ({"from": "2025-07-07T00:00", "for": "1 h", "zone": "Mars/Base"}, "IANA"),
        ({"from": "2025-07-07T00:00", "for": "1 h", "except": ["soon"]}, "write a date"),
    ],
)
def test_what_is_wrong_with_an_entry(fields, said):
    with pytest.raises(ValidationError, match=said):
        entry(**fields)


def test_gates_of_the_whole_calendar():
    clock = Clock.of(datetime(2025, 7, 7, tzinfo=FAROE), 1, 60, FAROE)
    calendar = [
        ENTRY.validate_python({"name": "a", "kind": "removals", "from": "2025-07-07T02:00", "for": "1 h"}),
        ENTRY.validate_python({"name": "b", "kind": "freeze", "from": "2025-07-07T05:00", "for": "1 h"}),
        ENTRY.validate_python({"name": "c", "kind": "sleep", "from": "2025-07-07T05:30", "for": "1 h", "paused": True}),
    ]
    found = orders(calendar, clock.first, clock.zone, 60.0 * np.arange(1, 1441))
    assert [int(found.gates[60 * hour + 29]) for hour in (1, 2, 5, 6)] == [4, 0, 6, 4]
    assert found.gates_by[60 * 5 + 29] == 1


def test_the_engine_follows_the_wall_clock_through_the_spring_change():
    nights = {"name": "n", "kind": "sleep", "from": "2025-03-29T19:00", "until": "07:00", "repeat": "FREQ=DAILY"}
    found = result(np.full(2 * 8640, 5.0), start="2025-03-29T12:00", groups__web__calendar=[nights])
    rows = found.decisions[found.decisions["decided"] != found.decisions["desired"]]
    assert [float(t) / 3600 for t in rows["time"]] == [7, 18, 30, 42]
