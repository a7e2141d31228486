from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.demand.series import demand_series
from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand
from jostle.core.plan.outside import Samples

FAROE = ZoneInfo("Atlantic/Faroe")
START = datetime(2025, 7, 7, tzinfo=FAROE)
WEEK = Clock.of(START, 7, 10, FAROE)


def series(*layers, clock=WEEK, seed=1):
    return demand_series(Demand.model_validate({"layers": [{"kind": "level", "rate": 100}, *layers]}), clock, seed)


def at(values, text, clock=WEEK):
    return values[int((clock.epoch_of(text) - clock.first) / clock.tick)]


def test_levels_add_up():
    assert np.all(series({"kind": "level", "rate": "60/min"}) == 101)


def test_a_daily_shape_runs_in_straight_lines_over_midnight_too():
    shape = {"kind": "daily", "points": [{"at": "06:00", "factor": 1}, {"at": "18:00", "factor": 2}]}
    values = series(shape)
    assert at(values, "2025-07-08T12:00") == pytest.approx(150)
    assert at(values, "2025-07-08T00:00") == pytest.approx(150)
    assert at(values, "2025-07-08T21:00") == pytest.approx(175)


def test_a_daily_shape_follows_the_wall_clock_through_both_clock_changes():
    shape = {
        "kind": "daily",
        "points": [{"at": "08:59", "factor": 0}, {"at": "09:00", "factor": 1}, {"at": "09:01", "factor": 0}],
    }
    for day in ("2025-03-29", "2025-10-25"):
        clock = Clock.of(datetime.fromisoformat(day).replace(tzinfo=FAROE), 3, 10, FAROE)
        peaks = clock.epochs[series(shape, clock=clock) > 99]
        assert [clock.at(epoch).strftime("%H:%M") for epoch in peaks] == ["09:00"] * 3


def test_weekday_factors():
    values = series({"kind": "weekdays", "thursday": 2})
    assert at(values, "2025-07-10T00:00") == 200
    assert at(values, "2025-07-09T23:59") == 100


def test_a_surge_ramps_holds_and_decays():
    values = series(
        {"kind": "surge", "at": "2025-07-10T12:00", "factor": 5, "ramp": "10 min", "hold": "10 min", "decay": "20 min"}
    )
    times = ["11:59", "12:05", "12:10", "12:19", "12:30", "12:40"]
    assert [round(at(values, f"2025-07-10T{t}")) for t in times] == [100, 300, 500, 500, 300, 100]
    assert values.min() == 100


def test_a_surge_without_ramp_starts_at_once():
    values = series({"kind": "surge", "at": "2025-07-10T12:00", "factor": 3, "hold": "1 min"})
    assert at(values, "2025-07-10T12:00") == 300
    assert np.sum(values == 300) == 6


def test_noise_has_the_spread_asked_for_and_holds_through_its_period():
    values = series({"kind": "noise", "spread": "10 %", "period": "60 s"})
    assert np.all(values.reshape(-1, 6) == values.reshape(-1, 6)[:, :1])
    assert values.std() == pytest.approx(10, rel=0.05)
    assert values.mean() == pytest.approx(100, rel=0.01)


def test_the_same_seed_meets_the_same_noise_whatever_the_tick_or_the_start():
    noise = {"kind": "noise", "spread": "10 %", "period": "60 s"}
    coarse = series(noise, clock=Clock.of(START, 1, 60, FAROE))
    later = series(noise, clock=Clock.of(START + timedelta(hours=6), 1, 60, FAROE))
    assert np.array_equal(series(noise)[::6][:1440], coarse)
    assert np.array_equal(coarse[360:], later[:1080])
    assert not np.array_equal(series(noise, seed=2)[::6][:1440], coarse)


def samples(rates, first=START, step=60):
    return Samples(first=first, step=step, rates=list(rates))


def test_brought_samples_stand_at_their_times():
    clock = Clock.of(START, 1, 10, FAROE)
    assert np.array_equal(samples(range(1440)).on(clock), np.repeat(np.arange(1440.0), 6))


def test_a_tick_longer_than_the_step_takes_the_mean():
    clock = Clock.of(START, 1, 60, FAROE)
    assert np.allclose(samples(range(86400), step=1).on(clock), np.arange(1440) * 60 + 29.5)


def test_a_week_brought_from_another_month_repeats_on_the_same_weekdays_and_hours():
    first = START - timedelta(days=21)
    rates = np.arange(7 * 24.0)
    assert np.array_equal(samples(rates, first, 3600).on(WEEK), np.repeat(rates, 360))


def test_a_repeated_week_keeps_its_hours_across_a_clock_change():
    first = datetime(2025, 10, 13, tzinfo=FAROE)
    rates = np.tile([0.0] * 9 + [50.0] + [0.0] * 14, 7)
    clock = Clock.of(datetime(2025, 10, 27, tzinfo=FAROE), 5, 60, FAROE)
    busy = clock.epochs[samples(rates, first, 3600).on(clock) > 0]
    assert {clock.at(epoch).hour for epoch in busy} == {9}


@settings(max_examples=40)
@given(st.lists(st.floats(0, 1e4), min_size=24, max_size=24 * 9), st.integers(-40, 40))
def test_brought_demand_never_leaves_the_range_of_its_samples(rates, days):
    drawn = samples(rates, START + timedelta(days=days), 3600).on(WEEK)
    assert min(rates) <= drawn.min()
    assert drawn.max() <= max(rates)


def test_a_layer_whose_file_was_not_read_is_named():
    with pytest.raises(ValueError, match=r"week\.csv has not been read"):
        series({"kind": "brought", "file": "week.csv"})


def test_bursts_bring_their_whole_amount_at_their_times_every_day():
    bursts = {"kind": "bursts", "at": ["06:30", "23:50"], "amount": 600, "over": "25 min"}
    values = series(bursts) - 100
    assert values.sum() * 10 == pytest.approx(7 * 2 * 600, rel=1e-9)
    assert at(values, "2025-07-08T06:40") == pytest.approx(0.4)
    assert at(values, "2025-07-08T00:10") == pytest.approx(0.4)
    assert at(values, "2025-07-08T07:00") == 0


def test_growth_compounds_by_the_week():
    month = Clock.of(START, 28, 60, FAROE)
    values = series({"kind": "growth", "weekly": 0.1}, clock=month)
    assert at(values, "2025-07-21T00:00", month) == pytest.approx(121)


def test_a_load_test_comes_on_top_whatever_the_shape():
    shape = {"kind": "daily", "points": [{"at": "00:00", "factor": 0.5}]}
    clients = {"kind": "load_test", "at": "2025-07-08T10:00", "clients": 200, "each": "0.5/s", "ramp": "10 min", "hold": "20 min"}
    values = series(shape, clients)
    times = ("10:05", "10:15", "10:29", "10:31")
    assert [at(values, f"2025-07-08T{time}") for time in times] == pytest.approx([100, 150, 150, 50])
