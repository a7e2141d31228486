"""Entries of the calendar moved and stretched on the wall clock."""

from datetime import datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jostle.core.calendar.moved import moved, without_day
from jostle.core.calendar.occurrence import stretches
from jostle.core.plan.calendar import CalendarEntry

ENTRY = TypeAdapter(CalendarEntry)
ZONE = ZoneInfo("Atlantic/Faroe")
FLOOR = {"name": "rush", "kind": "floor", "count": 4, "from": "2025-07-07T08:00"}
HOUR = 3600


def entry(**more):
    return ENTRY.validate_python({**FLOOR, **more})


def after(one, by, longer=0.0):
    return ENTRY.validate_python({**one.model_dump(mode="json", by_alias=True), **moved(one, by, longer)})


def held(one, first=datetime(2025, 7, 1, tzinfo=ZONE), last=datetime(2025, 8, 1, tzinfo=ZONE)):
    return stretches(one, first.timestamp(), last.timestamp(), ZONE)


@pytest.mark.parametrize(
    "one",
    [
        entry(**{"for": "3 h"}),
        entry(until="12:00"),
        entry(until="07:00", repeat="FREQ=DAILY"),
        entry(repeat="FREQ=WEEKLY;BYDAY=MO,FR", **{"for": "2 h", "except": ["2025-07-11"], "also": ["2025-07-09T10:00"]}),
    ],
)
@given(by=st.integers(-40, 40).map(lambda quarters: quarters * 900.0))
def test_every_time_moves_by_as_much(one, by):
    shifted = [(begin + by, end + by) for begin, end in held(one)]
    first, last = datetime(2025, 7, 3, tzinfo=ZONE).timestamp(), datetime(2025, 7, 29, tzinfo=ZONE).timestamp()
    expected = {pair for pair in shifted if first < pair[0] < last}
    found = {pair for pair in held(after(one, by)) if first < pair[0] < last}
    before = datetime.fromisoformat(moved(one, by, 0)["from"]).replace(tzinfo=ZONE).timestamp()
    assert found == {pair for pair in expected if pair[0] >= before or one.also}


def test_it_is_stretched_whether_it_lasts_or_ends_at_a_time():
    assert moved(entry(**{"for": "3 h"}), 0, HOUR)["for"] == 4 * HOUR
    assert moved(entry(until="12:00"), 0, HOUR)["until"] == "13:00"
    assert moved(entry(until="12:00"), -HOUR, 0) == {"from": "2025-07-07T07:00:00", "until": "11:00"}
    assert moved(entry(**{"for": "3 h"}), 0, -5 * HOUR)["for"] == 60


def test_over_midnight_the_days_of_the_week_and_the_exceptions_go_along():
    one = entry(repeat="FREQ=WEEKLY;BYDAY=MO,SU", **{"for": "1 h", "except": ["2025-07-14"]})
    settings = moved(one, 20 * HOUR, 0)
    assert settings["from"] == "2025-07-08T04:00:00"
    assert settings["repeat"] == "FREQ=WEEKLY;BYDAY=TU,MO"
    assert settings["except"] == ["2025-07-15"]


def test_a_day_is_left_out_by_the_clock_of_its_zone():
    late = datetime(2025, 7, 8, 23, 30, tzinfo=ZONE).timestamp()
    daily = entry(repeat="FREQ=DAILY", **{"for": "1 h"})
    assert without_day(daily, late, ZONE) == ["2025-07-08"]
    east = entry(repeat="FREQ=DAILY", zone="Asia/Tokyo", **{"for": "1 h"})
    assert without_day(east, late, ZONE) == ["2025-07-09"]
