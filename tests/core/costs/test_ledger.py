"""The hours' amounts are the bills' to the last digit, and each stands in the hour in which it came to be owed."""

from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given, settings

from jostle.core.costs.ledger import hour_edges, ledger
from jostle.core.costs.price import total
from jostle.core.engine.outset import new_state
from jostle.core.engine.result import play
from jostle.core.plan.clock import Clock
from jostle.core.rehearsal.rehearsal import clock_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.formats.shipped import demo_plan
from tests.core.engine.test_whole_plans import plans, whole_plans
from tests.plans import plan

DEMO = demo_plan()
# Each amount of many thousands is told to the billionth of a billionth
SMALLEST = Decimal("1e-13")


def of(rehearsal):
    return ledger(rehearsal.result, rehearsal.crew, rehearsal.clock)


@pytest.mark.parametrize("group", DEMO.groups)
def test_the_hours_of_a_demo_week_add_up_to_its_bill(group):
    rehearsal = rehearse(DEMO, group)
    found = of(rehearsal)
    assert abs(found.total() - total(rehearsal.result, rehearsal.crew)) < SMALLEST
    assert len(found.hours) == 7 * 24
    seconds = sum(entry.seconds for entry in found.entries if entry.part.what == "machine")
    assert float(seconds) == pytest.approx(rehearsal.result.instance_seconds.sum())
    served = sum(hour.served for hour in found.hours)
    assert served == pytest.approx(rehearsal.result.tally("served"), rel=1e-4)


@settings(whole_plans, max_examples=25)
@given(plans())
def test_the_hours_of_drawn_plans_add_up(drawn):
    rehearsal = rehearse(drawn, "web")
    found = of(rehearsal)
    assert abs(found.total() - total(rehearsal.result, rehearsal.crew)) < SMALLEST
    for hour in found.hours:
        low, mean, high = hour.serving
        assert low <= mean <= high


def test_a_started_hour_is_owed_when_it_begins():
    made = plan(
        **{"machines__otter-2__billed_by": "hour", "machines__otter-2__price_per_hour": "0.36"}, groups__web__start_count=1
    )
    found = of(rehearse(made, "web"))
    by_hour = [sum(entry.amount for entry in found.entries if entry.hour == hour) for hour in range(24)]
    assert by_hour == [Decimal("0.36")] * 24


@pytest.mark.parametrize(("day", "hours"), [("2025-03-30", 23), ("2025-10-26", 25), ("2025-07-07", 24)])
def test_a_day_has_the_hours_of_its_wall_clock(day, hours):
    made = plan(start=f"{day}T00:00")
    clock = clock_of(made)
    edges = hour_edges(clock, made.zone and clock.first + hours * 3600)
    assert len(edges) == hours + 1
    assert (np.diff(edges) == 3600).all()
    assert clock.at(float(edges[-1])).hour == 0


def test_the_last_hour_is_cut_where_the_record_ends():
    rehearsal = rehearse(plan(), "web")
    setup = rehearsal.result.setup
    part = rehearsal.result.__class__(setup, play(setup, new_state(setup), 540))
    found = ledger(part, rehearsal.crew, rehearsal.clock)
    assert [hour.end - hour.begin for hour in found.hours] == [3600.0, 1800.0]
    assert abs(found.total() - total(part, rehearsal.crew)) < SMALLEST


def test_hours_of_a_zone_whose_offset_is_half_an_hour():
    made = plan(time_zone="Asia/Kolkata")
    clock: Clock = clock_of(made)
    assert [clock.at(float(edge)).minute for edge in hour_edges(clock, clock.first + 7200)] == [0, 0, 0]
