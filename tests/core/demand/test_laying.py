"""Which days of a brought series are rehearsed, and how high it is laid."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from jostle.core.demand.laying import busiest_day, laid_from, scale_for
from jostle.core.demand.series import demand_series
from jostle.core.plan.demand import Demand
from jostle.core.plan.outside import Samples
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import clock_of
from tests.plans import plan

FAROE = ZoneInfo("Atlantic/Faroe")
FIRST = datetime(2025, 6, 4, 6, tzinfo=FAROE)


def samples(days, busy):
    """Hourly rates of so many days, ten times as high on one of them."""
    hours = [FIRST + timedelta(hours=n) for n in range(24 * days)]
    return Samples(first=FIRST, step=3600, rates=[100.0 if one.date() == busy.date() else 10.0 for one in hours])


@pytest.mark.parametrize("busy", [10, 13, 19])
def test_the_busiest_day_begins_at_the_plans_start(busy):
    made = plan(days=1)
    series = samples(20, datetime(2025, 6, busy))
    day = busiest_day(series, made)
    assert day.weekday() == made.start.astimezone(FAROE).weekday()
    week = plan(days=7)
    assert busiest_day(series, week) <= datetime(2025, 6, busy, tzinfo=FAROE) < busiest_day(series, week) + timedelta(days=7)


def test_the_chosen_day_lies_at_the_plans_start():
    made, series = plan(days=1), samples(20, datetime(2025, 6, 12))
    at = laid_from(series, made, datetime(2025, 6, 12))
    layer = {"kind": "brought", "file": "x.csv", "samples": series.model_dump(), "at": at}
    rates = demand_series(Demand.model_validate({"layers": [layer]}), clock_of(made), 1)
    assert np.all(rates == 100.0)


def test_a_series_that_lies_there_by_itself_stays():
    made, series = plan(days=1, start="2025-06-12T00:00"), samples(20, datetime(2025, 6, 12))
    assert laid_from(series, made, datetime(2025, 6, 12)) is None


def test_a_day_that_the_file_has_not_is_refused():
    with pytest.raises(PlanError, match="is not among the days of the file, 2025-06-04 to"):
        laid_from(samples(20, FIRST), plan(days=1), datetime(2025, 1, 1))


def test_a_peak_that_needs_so_many_instances():
    assert scale_for(samples(3, datetime(2025, 6, 5)), 20.0, 12) == pytest.approx(2.4)
    with pytest.raises(PlanError, match="zero throughout"):
        scale_for(Samples(first=FIRST, step=60, rates=[0, 0]), 20.0, 12)
