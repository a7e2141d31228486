"""Instances that are to be ready by a time serve at that time, and the time with fewer than the minimum is told."""

import pytest

from jostle.core.checks.check import check
from jostle.core.journal.sentence import group_page
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from tests.plans import plan

MORNING = {"kind": "floor", "name": "morning", "from": "2025-07-07T08:00", "until": "12:00", "count": 6}


def of_calendar(*entries, **more):
    return plan(groups__web__calendar=list(entries), **more)


def serving_at(made, hour):
    series = rehearse(made, "web").result.series["serving"]
    return int(series[round(hour * 360) - 1]), int(series[round(hour * 360)])


@pytest.mark.parametrize("spread", [0, 0.3])
@pytest.mark.parametrize(
    "entry",
    [
        MORNING,
        {**MORNING, "kind": "bounds", "count": None, "minimum": 6, "maximum": 6},
        {**MORNING, "kind": "set", "until": None},
        {**MORNING, "kind": "add", "count": None, "until": None, "by": 5},
    ],
)
def test_they_serve_at_the_time_that_is_named(entry, spread):
    entry = {field: value for field, value in entry.items() if value is not None}
    more = {"machines__otter-2__boot_spread": spread}
    assert serving_at(of_calendar(entry, **more), 8)[1] < 6
    assert serving_at(of_calendar({**entry, "ready_by": True}, **more), 8)[1] >= 6


def test_a_group_that_sleeps_serves_again_when_its_sleep_ends():
    night = {"kind": "sleep", "name": "night", "from": "2025-07-07T01:00", "until": "06:00"}
    assert serving_at(of_calendar(night), 6)[1] == 0
    assert serving_at(of_calendar({**night, "ready_by": True}), 6)[1] == 1
    made = of_calendar({**night, "ready_by": True})
    told = next(one for one in group_page(crew_of(made, "web"), "EUR").sections if one.key == "calendar").sentences[0].text
    assert "ready by 06:00 (launched from 05:5" in told


def test_a_floor_that_comes_too_late_is_a_finding_whose_mend_puts_it_right():
    late = of_calendar(MORNING)
    rehearsal = rehearse(late, "web")
    assert verdict(rehearsal).figures.under_minutes == pytest.approx(2.5, abs=0.5)
    found = next(one for one in check(rehearsal, None) if one.code == "floor-late")
    assert found.at == 8 * 3600
    assert found.mend is not None
    assert found.mend.settings == {"calendar.morning.ready_by": True}
    mended = rehearse(of_calendar({**MORNING, "ready_by": True}), "web")
    assert verdict(mended).figures.under_minutes == 0
    assert "floor-late" not in [one.code for one in check(mended, None)]


def test_the_time_below_the_minimum_is_promised_and_judged():
    for at_most, kept in (("60 s", False), ("21 min", True)):
        promised = of_calendar(MORNING, groups__web__promises=[{"kind": "serving", "at_most": at_most}])
        judged = verdict(rehearse(promised, "web")).promises[0]
        assert judged.kept is kept, judged
        assert judged.measured.endswith("were fewer")


def test_instances_are_added_and_removed_by_the_clock():
    more = {"kind": "add", "name": "more", "from": "2025-07-07T02:00", "by": 3}
    fewer = {"kind": "add", "name": "fewer", "from": "2025-07-07T04:00", "by": -2}
    made = of_calendar(more, fewer)
    changes = [
        (row["time"] / 3600, row["desired"], row["decided"])
        for row in rehearse(made, "web").result.decisions
        if row["decided"] != row["desired"]
    ]
    assert [(before, after) for _, before, after in changes] == [(1, 4), (4, 2)]
    assert [round(time, 1) for time, _, _ in changes] == [2.0, 4.0]
    held = with_group(made, "web", made.groups["web"].model_dump(mode="json") | {"maximum": 3})
    assert max(rehearse(held, "web").result.decisions["decided"]) == 3
