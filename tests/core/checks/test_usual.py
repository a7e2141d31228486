"""Shortfalls that come again are told as one line, of which there are few, and nothing of them is lost."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings

from jostle.core.checks.shortfall import shortfalls
from jostle.core.checks.usual import MOST_LINES, usual
from jostle.core.rehearsal.rehearser import rehearse
from tests.core.engine.test_whole_plans import plans
from tests.plans import ADD, REMOVE, plan

DAILY = {
    "kind": "daily",
    "points": [{"at": "00:00", "factor": 0.1}, {"at": "06:00", "factor": 0.1}, {"at": "06:10", "factor": 1}],
}


def rushed(**changes):
    """A group that is short each morning but on the days without a rush."""
    quiet = {"kind": "weekdays", "tuesday": 0.05, "saturday": 0.05, "sunday": 0.05}
    level = {"kind": "level", "rate": 90}
    base = {
        "days": 7,
        "demands__even": {"layers": [level, DAILY, quiet]},
        "groups__web__policies": [ADD, REMOVE],
        "groups__web__maximum": 8,
    }
    return rehearse(plan(**(base | changes)), "web")


def test_what_comes_again_is_one_line_with_its_days_and_hours():
    rehearsal = rushed()
    found = shortfalls(rehearsal)
    told = usual(rehearsal, found)
    assert len(found) > len(told)
    (line,) = told
    counts = f"{found[0].served} instances served and {found[0].needed} were needed"
    assert line.text == f"Mon and Wed to Fri between 06:00 and 07:00, 4 times: at the worst {counts}"
    assert (line.at, line.mend) == (found[0].at, found[0].mend)
    assert line.each == sorted(one.at for one in found)
    assert line.lost == sum(one.lost for one in found)


def test_a_single_one_stays_as_it_is():
    surge = {"kind": "surge", "at": "2025-07-07T06:00", "factor": 5, "hold": "1 h"}
    rehearsal = rehearse(plan(demands__even={"layers": [{"kind": "level", "rate": 18}, surge]}, groups__web__maximum=3), "web")
    (one,), (told,) = shortfalls(rehearsal), usual(rehearsal, shortfalls(rehearsal))
    assert told.model_dump(exclude={"times", "each"}) == one.model_dump()
    assert (told.times, told.each) == (1, [one.at])


def test_nothing_is_nothing():
    assert usual(rushed(), []) == []


@settings(max_examples=30, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plans())
def test_the_lines_are_few_and_hold_all_of_them(made):
    rehearsal = rehearse(made, "web", 3)
    found = shortfalls(rehearsal)
    told = usual(rehearsal, found)
    assert len(told) <= MOST_LINES
    assert sum(one.times for one in told) == len(found)
    assert sum(one.minutes for one in told) == pytest.approx(sum(one.minutes for one in found), abs=0.02 * (1 + len(found)))
    assert sorted(at for one in told for at in one.each) == sorted(one.at for one in found)


def test_a_week_full_of_short_spells_is_ten_lines_at_the_most():
    chance = np.random.default_rng(1)
    surges = [
        {"kind": "surge", "at": f"2025-07-{7 + day:02}T{hour:02}:{chance.integers(50):02}", "factor": 6, "hold": "8 min"}
        for day in range(7)
        for hour in range(1, 24, 5)
    ]
    rehearsal = rushed(demands__even={"layers": [{"kind": "level", "rate": 25}, *surges]}, groups__web__minimum=2)
    found = shortfalls(rehearsal)
    assert len(found) > 30
    told = usual(rehearsal, found)
    assert 1 < len(told) <= MOST_LINES
    assert all(one.mend is not None for one in told if one.parts[0].cause in ("window", "metering", "step"))
