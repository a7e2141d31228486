"""One instance's course, and who would leave next."""

import numpy as np
import pytest

from jostle.core.engine.code import EventKind, Life
from jostle.core.journal.event import events
from jostle.core.rehearsal.closer import course, leaving_by_each, next_to_leave, stood_at
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import ADD, REMOVE, plan

WORKS = {
    "requests": ({"kind": "requests", "cpu_seconds": 0.1}, 30),
    "jobs": ({"kind": "jobs", "job_seconds": 60}, 0.05),
    "sessions": ({"kind": "sessions", "seats": 20, "length": "8 min"}, 0.12),
}


def lively(kind="requests", **settings):
    work, rate = WORKS[kind]
    rush = {"kind": "surge", "at": "2025-07-07T01:00", "factor": 3, "hold": "1 h"}
    made = plan(
        days=4 / 24,
        demands__even__layers=[{"kind": "level", "rate": rate}, rush],
        groups__web__work=work,
        groups__web__policies=[ADD, REMOVE],
        **settings,
    )
    return rehearse(made, "web")


@pytest.mark.parametrize("kind", WORKS)
@pytest.mark.parametrize("sticky", [0, 600])
def test_the_courses_of_all_are_the_group(kind, sticky):
    rehearsal = lively(kind, groups__web__load_balancer={"sticky": sticky})
    result = rehearsal.result
    series = result.series
    courses = [course(rehearsal, number) for number in range(len(result.instances))]
    serving = sum((one["state"] == Life.SERVING).astype(int) for one in courses)
    assert np.array_equal(serving, series["serving"])
    carried = sum(np.nan_to_num(one["load"]) for one in courses)
    expected = {"requests": series["served"] / 10, "sessions": series["seated"], "jobs": carried}[kind]
    assert carried == pytest.approx(expected, rel=0.2, abs=2)
    cpu = sum(np.nan_to_num(one["cpu"]) for one in courses)
    assert cpu[series["serving"] > 0] == pytest.approx(
        (series["cpu"] * series["serving"])[series["serving"] > 0], rel=0.05, abs=0.05
    )


def test_who_is_told_to_leave_next_leaves_next():
    rehearsal = lively(groups__web__leaving={"criteria": ["newest"]})
    rows = rehearsal.result.events
    left = rows[rows["kind"] == EventKind.INSTANCE_LEAVES]
    assert len(left) >= 3
    for row in left[:3]:
        # The tick before it goes, nothing else having changed
        instance, reason = next_to_leave(stood_at(rehearsal, float(row["time"]) - 10))
        assert (instance, reason) == (row["who"], row["before"])


@pytest.mark.parametrize(("criterion", "said"), [("newest", "it is the newest"), ("oldest", "it is the oldest")])
def test_the_journal_says_why_this_one_went(criterion, said):
    rehearsal = lively(groups__web__leaving={"criteria": [criterion], "balance_zones": False})
    told = [event.text for event in events(rehearsal) if event.kind == "leaves"]
    assert said in told[0]


def test_each_criterion_names_whom_it_would_take():
    taken = leaving_by_each(lively())
    assert taken["newest"] > taken["oldest"]
    assert set(taken) >= {"oldest_version", "oldest", "newest", "least_paid_left", "fewest_sessions", "dearest", "spot_first"}


def test_where_nobody_may_leave_nobody_is_named():
    pinned = rehearse(plan(groups__web__leaving={"pinned": 1}, days=0.05), "web")
    assert next_to_leave(stood_at(pinned, 600)) is None
    assert leaving_by_each(pinned) == {}
