"""Orders: what the market has is taken, the rest stays asked for, until it lapses."""

import numpy as np
import pytest

from jostle.core.engine.code import EventKind, Refusal
from jostle.core.journal.event import events
from jostle.core.journal.moment import moment
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.live.span import lived
from tests.core.engine.test_spot import SPOT, made

HOUR = 3600
JOBS = {"kind": "jobs", "job_seconds": 45, "arrivals": "by_chance"}
STEADY = {**SPOT, "spread": 0, "reclaims": 0}
GONE = {"kind": "no_spot", "at": "2025-07-07T00:00", "for": "2 h"}


def ordered(order, spot=STEADY, incidents=(), buying=None, **given):
    settings = {
        "groups__web__work": JOBS,
        "groups__web__promises": [],
        "groups__web__policies": [],
        "groups__web__minimum": 0,
        "groups__web__maximum": 20,
        "groups__web__order": {"count": 8, **order},
        "groups__web__buying": {"on_demand": {"first": 0}, **(buying or {})},
    }
    return made(spot=spot, incidents=list(incidents), rate=0.1, **settings | given)


def told(rehearsal):
    found = verdict(rehearsal, whole=False).figures
    return found.order_filled, found.order_open, found.order_lapsed


def serving_at(result, hours):
    return int(result.series["serving"][int(hours * HOUR / result.setup.tick)])


def test_all_is_had_at_once_where_there_is_spot():
    rehearsal = rehearse(ordered({}), "web")
    assert serving_at(rehearsal.result, 1) == serving_at(rehearsal.result, 23) == 8
    assert set(rehearsal.result.instances["kind"][:8].tolist()) == {1}
    assert told(rehearsal) == (8, 0, 0)


def test_what_the_market_does_not_have_stays_asked_for_and_is_never_on_demand():
    rehearsal = rehearse(ordered({}, incidents=[GONE]), "web")
    result = rehearsal.result
    assert serving_at(result, 1.9) == 0
    assert serving_at(result, 2.2) == 8
    assert (result.instances["kind"][: int(result.tally("launched"))] == 1).all()
    refused = result.events[result.events["kind"] == EventKind.LAUNCH_REFUSED]
    assert set(refused["who"].tolist()) == {Refusal.MARKET}
    assert any("the market has none under the caps" in one.text for one in events(rehearsal, frozenset({"refused"})))


def test_it_lapses_and_what_was_not_had_is_not_asked_for_any_more():
    late = rehearse(ordered({"until": "2025-07-07T01:00"}, incidents=[GONE]), "web")
    assert serving_at(late.result, 23) == 0
    assert told(late) == (0, 0, 8)
    assert int(late.result.decisions["decided"][-1]) == 0
    text = [one.text for one in events(late, frozenset({"count"}))]
    assert text[0].startswith("0 → 8: 8 are ordered")
    assert text[-1] == "8 → 0: the order has lapsed; what runs stays"


@pytest.mark.parametrize(("then", "left"), [("kept", 8), ("ended", 0)])
def test_what_runs_at_the_lapse_stays_or_ends(then, left):
    rehearsal = rehearse(ordered({"until": "2025-07-07T06:00", "then": then}), "web")
    assert serving_at(rehearsal.result, 5.9) == 8
    assert serving_at(rehearsal.result, 7) == left
    assert told(rehearsal) == (8, 0, 0)


STORMY = {**SPOT, "spread": 0, "reclaims": 0.2}


@pytest.mark.parametrize("kind", ["once", "kept"])
def test_what_is_taken_back_comes_again_only_where_it_is_kept_up(kind):
    rehearsal = rehearse(ordered({"kind": kind}, spot=STORMY), "web")
    result, reclaims = rehearsal.result, int(rehearsal.result.tally("reclaimed"))
    assert reclaims > 5
    if kind == "once":
        assert int(result.decisions["decided"][-1]) == 8 - min(8, reclaims)
        assert int(result.tally("launched")) == 8
        assert (np.diff(result.decisions["decided"]) <= 0).all()
        assert told(rehearsal) == (8, 0, 0)
    else:
        assert set(result.decisions["decided"].tolist()) == {8}
        assert int(result.tally("launched")) == 8 + reclaims


def test_after_its_lapse_nothing_comes_again():
    rehearsal = rehearse(ordered({"kind": "kept", "until": "2025-07-07T06:00"}, spot=STORMY), "web")
    decided = rehearsal.result.decisions["decided"]
    six = 6 * 60
    assert set(decided[: six - 1].tolist()) == {8}
    assert (np.diff(decided[six:]) <= 0).all()
    assert decided[-1] < 8


@pytest.mark.parametrize("kind", ["once", "kept"])
@pytest.mark.parametrize("then", ["kept", "ended"])
def test_what_is_lived_is_what_was_rehearsed(kind, then):
    plan = ordered({"kind": kind, "then": then, "until": "2025-07-07T18:00"}, spot=STORMY, incidents=[GONE])
    one, other = (verdict(each, whole=False).figures for each in (rehearse(plan, "web", 4), lived(plan, "web", 4).record()))
    assert one == other


def test_an_order_counts_what_the_group_counts():
    plan = ordered({"count": 7}, buying={"count_in": "vcpus"}, groups__web__maximum=30)
    result = rehearse(plan, "web").result
    assert int(result.series["units"][-1]) == 8
    assert int(result.series["serving"][-1]) == 4


def test_the_page_and_the_moment_say_it():
    plan = ordered({"until": "2025-07-07T06:00"})
    page = group_page(crew_of(plan, "web"), "EUR")
    text = {one.key: one.text for part in page.sections for one in part.sentences}
    assert text["order"] == "8 are ordered, asked for once, until Mon 7 Jul 06:00; what runs then stays."
    told = moment(rehearse(plan, "web"), 60.0)
    assert told.decision == "8 are ordered; what is gone is not asked for again: 0 → 8."


@pytest.mark.parametrize(
    ("order", "given", "said"),
    [
        ({"count": 21}, {}, "is above the maximum of 20; order fewer, or raise that"),
        ({"count": 0}, {}, "greater than or equal to 1"),
        ({"until": "2025-07-01T00:00"}, {}, "lies in the past: the plan begins at 2025-07-07T00:00"),
        ({}, {"groups__web__minimum": 2}, "with an order it is 0"),
        ({}, {"groups__web__buying": None}, "an order is for the spot market"),
        ({}, {"groups__web__policies": [{"kind": "hold", "name": "h", "metric": "cpu", "level": 0.5}]}, "take the others out"),
        ({"kind": "twice"}, {}, "once"),
    ],
)
def test_bad_orders_are_named(order, given, said):
    with pytest.raises(PlanError) as refused:
        ordered(order, **given)
    assert said in str(refused.value)
