"""People who are told that their instance leaves: how many go, how fast, and how many fewer are cut off."""

import numpy as np
import pytest

from jostle.core.journal.event import events
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.live.span import lived
from tests.plans import plan

NOTICE = {"text": "This boat moves to another pier.", "heed": 0.6, "within": "2 min", "come_back": 0}


def made(notice=NOTICE, drain="10 min", minimum=2, **settings):
    return plan(
        days=0.5,
        demands__even__layers=[{"kind": "level", "rate": 0.5}],
        **{
            "groups__web__work": {"kind": "sessions", "seats": 200, "length": "40 min"},
            "groups__web__minimum": minimum,
            "groups__web__start_count": 12,
            "groups__web__maximum": 12,
            "groups__web__drain": drain,
            "groups__web__notice": notice,
            "groups__web__calendar": [{"name": "fewer", "kind": "set", "count": 8, "from": "2025-07-07T04:00"}],
            **settings,
        },
    )


def figures(seed=1, **settings):
    return verdict(rehearse(made(**settings), "web", seed), whole=False).figures


def test_the_share_that_heeds_it_goes_and_fewer_are_cut_off():
    told = [figures(seed) for seed in range(1, 9)]
    cut, untold = sum(one.cut_off for one in told), sum(figures(seed, notice=None).cut_off for seed in range(1, 9))
    # Of those there, 22 % end by themselves within the drain; six in ten of the others heed it
    assert cut / untold == pytest.approx(0.4, rel=0.12)
    assert verdict(rehearse(made(), "web")).figures.cut_off_untold == figures(notice=None).cut_off


def test_told_again_more_heed_it():
    once = sum(figures(seed).cut_off for seed in range(1, 9))
    thrice = sum(figures(seed, notice={**NOTICE, "times": 3, "every": "2 min"}).cut_off for seed in range(1, 9))
    assert thrice < 0.5 * once


def test_they_are_gone_as_fast_as_is_said():
    slow = sum(figures(seed, notice={**NOTICE, "within": "30 min"}).cut_off for seed in range(1, 9))
    quick = sum(figures(seed, notice={**NOTICE, "within": "30 s"}).cut_off for seed in range(1, 9))
    # Within ten minutes, three in ten of those who heed it are gone by half an hour's mean
    assert quick < slow < sum(figures(seed, notice=None).cut_off for seed in range(1, 9))


def test_those_who_come_back_are_new_sessions_and_all_are_counted():
    back = rehearse(made(notice={**NOTICE, "come_back": 1}), "web", 3).result
    assert back.tally("came_back") == back.tally("moved") > 10
    assert back.arrived == back.tally("served") + back.tally("failed")
    there = back.instances["sessions"].sum()
    assert back.tally("in_use") == there
    none = rehearse(made(), "web", 3).result
    assert none.tally("came_back") == 0
    assert back.series["seated"][-600:].mean() >= none.series["seated"][-600:].mean() - 5


def test_where_nobody_leaves_nobody_is_told():
    still = {"groups__web__calendar": [], "groups__web__policies": []}
    one, other = figures(minimum=12, **still), figures(minimum=12, notice=None, **still)
    assert (one.moved, one.served, one.cut_off) == (0, other.served, 0)


def test_what_is_lived_is_what_was_rehearsed_and_the_journal_says_what_was_told():
    rehearsal = rehearse(made(), "web", 2)
    one, other = (verdict(each, whole=False).figures for each in (rehearsal, lived(made(), "web", 2).record()))
    assert one == other
    told = [event.text for event in events(rehearsal) if event.kind == "leaves"]
    assert len(told) == 4
    assert all("told: “This boat moves to another pier.”" in text for text in told)


def test_the_same_figures_come_of_many_seeds_on_average():
    moved = [figures(seed).moved for seed in range(1, 17)]
    assert np.std(moved) < 0.3 * np.mean(moved)


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        ({"groups__web__work": {"kind": "requests", "cpu_seconds": 0.1}}, "requests hear no notice"),
        ({"notice": {**NOTICE, "heed": 0}}, "greater than 0"),
        ({"notice": {**NOTICE, "heed": 2}}, "a share"),
        ({"notice": {**NOTICE, "text": ""}}, "at least 1"),
        ({"notice": {**NOTICE, "times": 0}}, "greater than or equal to 1"),
    ],
)
def test_what_cannot_be_told_is_refused(settings, said):
    with pytest.raises(PlanError) as refused:
        made(**settings)
    assert said in str(refused.value)
