"""A demand composed from a series that was made from layers has those layers again, whatever chance and faults add to it."""

from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.demand.series import demand_series
from jostle.core.fitting.composed import composed
from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand
from jostle.core.plan.outside import Samples
from jostle.core.plan.problem import PlanError

FAROE = ZoneInfo("Atlantic/Faroe")
BEGAN, STEP, DAY = datetime(2025, 6, 2, tzinfo=FAROE), 300.0, 86400
START = datetime(2025, 7, 7, tzinfo=FAROE)
SHAPE = [{"at": "04:00", "factor": 0.3}, {"at": "12:00", "factor": 1.6}, {"at": "20:00", "factor": 0.8}]
RUSH = {"kind": "surge", "factor": 3, "ramp": "15 min", "hold": "1 h", "decay": "30 min"}


def clock_of(weeks, began=BEGAN):
    return Clock.of(began, 7 * weeks, STEP, FAROE)


def made(weeks, *more, seed=1, growth=0.0, spread=0.15, began=BEGAN):
    """A series of Poisson arrivals, and the demand that brought them."""
    layers = [
        {"kind": "level", "rate": 40},
        {"kind": "daily", "points": SHAPE},
        {"kind": "weekdays", "saturday": 0.7, "sunday": 0.5},
        {"kind": "growth", "weekly": growth},
        {"kind": "noise", "spread": spread, "period": STEP},
        *more,
    ]
    demand = Demand.model_validate({"layers": layers})
    rates = demand_series(demand, clock_of(weeks, began), seed)
    came = np.random.default_rng(seed).poisson(rates * STEP) / STEP
    return Samples(first=began, step=STEP, rates=came.tolist()), demand


def layers_of(found, kind):
    return [layer for layer in found.demand.layers if layer.kind == kind]


def one(found, kind):
    (layer,) = layers_of(found, kind)
    return layer


def steady(demand):
    """Without what is drawn, what stood out, and growth."""
    kinds = ("level", "daily", "weekdays")
    return Demand(layers=[layer for layer in demand.layers if layer.kind in kinds])


@pytest.mark.parametrize("seed", range(1, 6))
@pytest.mark.parametrize("growth", [0.0, 0.03])
def test_its_layers_are_found_again(seed, growth):
    samples, demand = made(6, {**RUSH, "at": "2025-06-12T12:00"}, seed=seed, growth=growth)
    found = composed(samples, FAROE, START)
    told = [layer.weekly for layer in layers_of(found, "growth")]
    assert told == pytest.approx([growth] if growth else [], abs=0.006)
    assert one(found, "noise").spread == pytest.approx(0.15, abs=0.02)
    # As of the last week, on every weekday and at every time of day
    week = clock_of(1, datetime(2025, 7, 7, tzinfo=FAROE))
    truth = demand_series(steady(demand), week, 1) * (1 + growth) ** 5.5
    near = demand_series(steady(found.demand), week, 1)
    assert np.abs(near - truth).mean() / truth.mean() < 0.05
    rush = one(found, "surge")
    assert rush.muted
    assert abs(datetime.fromisoformat(rush.at) - datetime(2025, 7, 10, 12, 5)).total_seconds() <= 900
    assert rush.factor == pytest.approx(3, rel=0.12)
    assert rush.ramp + rush.hold + rush.decay == pytest.approx(6300, abs=1500)


@settings(max_examples=10)
@given(st.integers(1, 10_000))
def test_rows_that_are_far_off_and_an_hour_without_any_move_little(seed):
    samples, demand = made(4, seed=seed)
    chance = np.random.default_rng(seed)
    rates = np.array(samples.rates)
    off = chance.random(len(rates)) < 0.05
    rates[off] *= chance.choice([0.0, 8.0], off.sum())
    dead = int(chance.integers(0, len(rates) - 12))
    rates[dead : dead + 12] = 0.0
    found = composed(samples.model_copy(update={"rates": rates.tolist()}), FAROE, START)
    week = clock_of(1, datetime(2025, 7, 7, tzinfo=FAROE))
    truth, near = (demand_series(steady(layers), week, 1) for layers in (demand, found.demand))
    assert np.abs(near - truth).mean() / truth.mean() < 0.06
    assert not layers_of(found, "surge")


def test_a_rush_of_the_last_week_is_laid_on_and_older_ones_are_muted():
    samples, _ = made(4, {**RUSH, "at": "2025-06-26T12:00"}, {**RUSH, "at": "2025-06-04T09:00"})
    found = composed(samples, FAROE, START)
    assert [(rush.at[:10], rush.muted) for rush in layers_of(found, "surge")] == [("2025-07-09", True), ("2025-07-10", False)]
    assert found.notes == ["2 rushes stood out"]


def test_a_week_held_out_is_foretold_better_than_by_the_week_before():
    found = composed(made(5, growth=0.03)[0], FAROE, START)
    assert found.trial.composed < 0.8 * found.trial.week_before
    assert ", better than the week before, " in found.said[-1]


def test_it_says_where_the_week_before_does_as_well():
    """Every week the same, of a shape that no product of day and weekday has."""
    clock = clock_of(4)
    rates = (
        40 + 30 * np.sin(clock.wall / 7919.0 % 3) * (clock.weekday % 2) + 20 * (clock.time_of_day < 30000) * (clock.weekday == 3)
    )
    week = round(7 * DAY / STEP)
    found = composed(Samples(first=BEGAN, step=STEP, rates=np.tile(rates[:week], 4).tolist()), FAROE, START)
    assert found.trial.week_before == 0
    assert "no better than the week before" in found.said[-1]


def test_a_day_keeps_its_hours_when_the_clocks_change():
    began = datetime(2025, 10, 13, tzinfo=FAROE)
    samples, demand = made(3, began=began, spread=0.05)
    found = composed(samples, FAROE, datetime(2025, 11, 3, tzinfo=FAROE))
    week = clock_of(1, datetime(2025, 11, 3, tzinfo=FAROE))
    truth, near = (demand_series(steady(layers), week, 1) for layers in (demand, found.demand))
    assert np.abs(near - truth).mean() / truth.mean() < 0.04


def test_a_short_series_says_what_it_cannot_tell():
    week, _ = made(1)
    found = composed(week, FAROE, START)
    assert found.said == [
        "less than two weeks: a weekday is told from one day at the most",
        "too short to tell growth",
        "less than three weeks: none could be held out to try it on",
    ]
    with pytest.raises(PlanError, match="shorter than a day"):
        composed(week.model_copy(update={"rates": week.rates[:200]}), FAROE, START)
    with pytest.raises(PlanError, match="zero throughout"):
        composed(week.model_copy(update={"rates": [0.0] * 2016}), FAROE, START)
