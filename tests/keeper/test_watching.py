"""What is told of what was lived: once, at its time, and the same however the clock went."""

from datetime import datetime
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jostle.core.plan.budget import Budget
from jostle.core.plan.problem import PlanError
from jostle.core.plan.watch import Watch
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.live import Begun, Live
from jostle.live.watching import notices
from tests.plans import plan

SHORT = {"kind": "short", "for": "10 min"}
RUSH = {"kind": "load_test", "at": "2025-07-07T06:00", "clients": 30, "each": 1, "ramp": 0, "hold": "30 min"}
DAY = 86400


def watch(**rule):
    return TypeAdapter(Watch).validate_python(rule)


def rushed(**more):
    """A group whose one instance is too few from six to about half past."""
    return plan(
        demands__even__layers=[{"kind": "level", "rate": "10/s"}, RUSH],
        groups__web__maximum=1,
        **more,
    )


def lived(made, hours=24.0, days=1.0):
    live = Live.begin(made, Begun(at=made.start, days=days, seed=5), Rehearser())
    live.go_on(live.first + hours * 3600, quickly=True)
    return live


@pytest.fixture(scope="module")
def rush():
    return lived(rushed())


def told(live, *rules, after=0.0, budgets=()):
    return notices(live, [watch(**rule) for rule in rules], list(budgets), after)


def clock(live, at):
    return f"{datetime.fromtimestamp(at, live.plan.zone):%H:%M}"


def test_it_is_told_when_it_has_lasted_and_when_it_is_over(rush):
    begun, over = told(rush, SHORT)
    assert (clock(rush, begun.at), begun.over, begun.text) == ("06:10", False, "web has been short of capacity for 10 min")
    assert over.over
    assert 1800 <= over.at - over.since < 2700
    assert over.text.startswith("web is short of capacity no more, after 3")


def test_what_lasts_less_long_is_not_told(rush):
    assert told(rush, {**SHORT, "for": "2 h"}) == []


@given(st.lists(st.floats(0, DAY), max_size=6))
@settings(max_examples=25)
def test_looks_in_between_tell_the_same(rush, instants):
    whole = told(rush, SHORT, {"kind": "at_maximum", "for": 0}, {**SHORT, "quiet": {"from": "05:00", "until": "06:20"}})
    found, before = [], 0.0
    end = rush.now
    for at in [*sorted(rush.first + one for one in instants), end]:
        rush.now = at
        found += told(
            rush, SHORT, {"kind": "at_maximum", "for": 0}, {**SHORT, "quiet": {"from": "05:00", "until": "06:20"}}, after=before
        )
        before = at
    rush.now = end
    assert [one._replace(text="") for one in found] == [one._replace(text="") for one in whole]


def test_in_quiet_hours_nobody_is_told_until_they_end(rush):
    still = told(rush, {**SHORT, "quiet": {"from": "22:00", "until": "06:20"}})
    assert clock(rush, still[0].at) == "06:20"
    assert told(rush, {**SHORT, "quiet": {"from": "22:00", "until": "07:30"}}) == []


def test_a_group_at_its_maximum_is_told_once(rush):
    only = told(rush, {"kind": "at_maximum", "for": "5 min"})
    assert [(clock(rush, one.at), one.text) for one in only] == [("00:05", "web has wanted its maximum of 1 for 5 min")]


def test_overflow_is_told_where_instances_are_owned(rush):
    owned = lived(plan(groups__web__owned=1, groups__web__minimum=1, groups__web__start_count=3, groups__web__policies=[]), 6)
    first = told(owned, {"kind": "overflow", "for": "2 h"})[0]
    assert (clock(owned, first.at), first.text) == ("02:00", "web has had overflow for 2 h")
    assert told(rush, {"kind": "overflow", "for": 0}) == []


def test_a_budget_is_told_of_in_the_hour_in_which_its_share_was_spent():
    live = lived(rushed(), 24)
    budget = Budget(each="week", at_most=Decimal("5"))
    (one,) = told(live, {"kind": "budget", "share": "80 %"}, budgets=[budget])
    # An instance of € 0.36 an hour has cost € 4 after eleven hours and seven minutes
    assert clock(live, one.at) == "12:00"
    assert one.text == "86.4 % of the budget of all groups is spent"
    assert told(live, {"kind": "budget", "share": "80 %"}, budgets=[Budget(group="web", at_most=Decimal("500"))]) == []


def test_each_month_has_its_budget_and_is_told_of_by_itself():
    made = plan(
        start="2025-07-31T00:00", days=2, demands__even__layers=[{"kind": "level", "rate": "10/s"}], groups__web__maximum=1
    )
    live = lived(made, 48, 2)
    budget = Budget(each="month", at_most=Decimal("5"))
    found = told(live, {"kind": "budget", "share": "80 %"}, budgets=[budget])
    # Spent from midnight on each time: the first of August begins anew.
    assert [f"{datetime.fromtimestamp(one.at, live.plan.zone):%d %b %H:%M}" for one in found] == ["31 Jul 12:00", "01 Aug 12:00"]
    assert {one.text for one in found} == {"86.4 % of the budget of all groups is spent"}


def test_what_differs_from_what_was_rehearsed_is_told():
    made = plan(demands__even__layers=[{"kind": "level", "rate": "10/s"}], groups__web__start_count=2)
    live = lived(made, 4)
    live.lay("web", {"act": "set", "count": 4})
    live.go_on(live.first + 7.2 * 3600, quickly=True)
    live.lay("web", {"act": "set", "count": 2})
    live.go_on(live.first + 12 * 3600, quickly=True)
    begun, over = told(live, {"kind": "differs", "by": "50 %"})
    assert (clock(live, begun.at), clock(live, over.at)) == ("05:00", "08:00")
    assert begun.text.startswith("web had 9")
    assert "more capacity in an hour than was rehearsed" in begun.text


@pytest.mark.parametrize(
    ("rule", "path"),
    [
        ({**SHORT, "group": "quay"}, "watches.0.group"),
        ({**SHORT, "for": "-1 s"}, "watches.0.for"),
        ({**SHORT, "quiet": {"from": "25:00", "until": "07:00"}}, "watches.0.quiet.from"),
        ({"kind": "budget", "share": 0}, "watches.0.share"),
        ({"kind": "howl"}, "watches.0.kind"),
    ],
)
def test_a_rule_that_cannot_be_is_refused_by_its_place(rule, path):
    with pytest.raises(PlanError) as refused:
        plan(watches=[rule])
    assert path in {".".join(map(str, problem.path)) for problem in refused.value.problems}
