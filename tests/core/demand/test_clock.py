from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from jostle.core.plan.clock import Clock, offset_at, offsets

FAROE = ZoneInfo("Atlantic/Faroe")


def clock(start: str, days: float = 7, tick: float = 60) -> Clock:
    return Clock.of(datetime.fromisoformat(start).replace(tzinfo=FAROE), days, tick, FAROE)


def test_the_week_begins_on_monday_midnight():
    week = clock("2025-07-07T00:00")
    assert week.ticks == 7 * 24 * 60
    assert week.time_of_day[0] == 0
    assert [int(week.weekday[day * 1440]) for day in range(7)] == list(range(7))


@pytest.mark.parametrize(("start", "jump"), [("2025-03-30T00:00", 3600), ("2025-10-26T00:00", -3600)])
def test_the_wall_clock_jumps_where_the_zone_does(start, jump):
    day = clock(start, 1)
    steps = np.diff(day.wall)
    assert sorted(set(steps)) == sorted({60.0, 60.0 + jump})
    assert np.flatnonzero(steps != 60)[0] == (59 if jump > 0 else 119)


@pytest.mark.parametrize("name", ["Atlantic/Faroe", "Australia/Lord_Howe", "UTC", "America/St_Johns"])
def test_offsets_of_a_year_are_those_of_the_zone(name):
    zone = ZoneInfo(name)
    first = datetime(2025, 1, 1, tzinfo=zone).timestamp()
    epochs = first + 1800.0 * np.arange(366 * 48)
    assert np.array_equal(offsets(epochs, zone), [offset_at(epoch, zone) for epoch in epochs])


def test_a_moment_is_on_the_wall_clock_unless_it_has_an_offset():
    week = clock("2025-07-07T00:00")
    assert week.epoch_of("2025-07-10T12:00") == week.epoch_of("2025-07-10T11:00+00:00")
