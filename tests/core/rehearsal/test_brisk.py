"""A long span is played in coarser steps while somebody waits, and a short one as it is."""

import pytest

from jostle.core.rehearsal.rehearser import brisk, rehearse
from jostle.core.rehearsal.verdict import verdict
from tests.plans import ADD, REMOVE, plan


def test_a_short_span_is_played_as_it_is():
    made = plan(days=60)
    assert brisk(made) is made


@pytest.mark.parametrize(("settings", "step"), [({}, 60), ({"groups__web__meters": {"period": "90 s"}}, 30)])
def test_a_year_is_played_in_steps_that_its_groups_allow(settings, step):
    made = plan(days=365, **settings)
    assert brisk(made).tick == step
    assert brisk(made).groups == made.groups


def test_no_step_longer_than_half_a_session():
    made = plan(days=365, groups__web__work={"kind": "sessions", "seats": 10, "length": "40 s"})
    assert brisk(made).tick == 20


def test_what_a_coarser_step_says_is_near():
    points = [{"at": "00:00", "factor": 0.3}, {"at": "12:00", "factor": 1.5}]
    demand = {"layers": [{"kind": "level", "rate": 60}, {"kind": "daily", "points": points}]}
    made = plan(days=7, demands__even=demand, groups__web__policies=[ADD, REMOVE])
    fine, coarse = (verdict(rehearse(one, "web")).figures for one in (made, made.model_copy(update={"tick": 60.0})))
    assert float(coarse.cost) == pytest.approx(float(fine.cost), rel=0.02)
    assert coarse.arrived == pytest.approx(fine.arrived, rel=0.001)
