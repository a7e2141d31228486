"""A week that is lived is the week that was rehearsed, to the last digit: decisions, events, figures, cost."""

import numpy as np
import pytest
from hypothesis import given, settings

from jostle.core.change.plan_change import by_themselves
from jostle.core.journal.event import events
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import attribution, verdict
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file
from jostle.live.life import Life
from tests.core.engine.test_whole_plans import plans, whole_plans

DEMO = read_plan_file(PLAN)


def lived_alike(plan, group, seed, stops=()):
    """Lives through the span of a plan, and compares all that is left of it with its rehearsal; returns the life."""
    rehearser = Rehearser()
    rehearsed = rehearser.rehearse(plan, group, seed)
    life = Life(plan, group, 1, seed, rehearser)
    for until, decided in (*stops, (rehearsed.clock.seconds, False)):
        life.go_on(until, decided)
    lived = life.record()
    assert lived.result.decisions.tobytes() == rehearsed.result.decisions.tobytes()
    assert lived.result.views.tobytes() == rehearsed.result.views.tobytes()
    assert lived.result.events.tobytes() == rehearsed.result.events.tobytes()
    assert lived.result.series.tobytes() == rehearsed.result.series.tobytes()
    assert verdict(lived, whole=False) == verdict(rehearsed, whole=False)
    assert attribution(lived) == attribution(rehearsed)
    return life


@pytest.mark.parametrize("group", by_themselves(DEMO).groups)
def test_a_week_of_the_demo_or_four_days_of_its_other_groups(group):
    plan = DEMO if group == "booking-web" else DEMO.model_copy(update={"days": 4.0})
    life = lived_alike(plan, group, 1)
    told = [event.text for event in events(life.record(), frozenset({"count"}))]
    assert told, "a week without a change of count shows nothing"
    assert life.keeper.read == len(life.state.sight.metered)


@pytest.mark.parametrize("group", ["booking-web", "live-track"])
def test_the_engine_may_decide_for_a_while_and_the_keeper_go_on(group):
    plan = DEMO.model_copy(update={"days": 2.0})
    lived_alike(plan, group, 2, [(43200.0 + 30, True), (86400.0 + 3600, False), (1.5 * 86400.0 + 50, True)])


@settings(whole_plans, max_examples=25)
@given(plans())
def test_drawn_plans(drawn):
    lived_alike(drawn.model_copy(update={"groups": {"web": drawn.groups["web"].model_copy(update={"hands": []})}}), "web", 1)


def test_a_silent_meter_leaves_the_count_as_it_is_and_is_not_zero():
    plan = DEMO.model_copy(update={"days": 4.0})
    life = Life(plan, "booking-web", 1, 1, Rehearser())
    life.go_on(3.49 * 86400, decided=True)
    wanted = life.keeper.wanted
    life.ground.silent = True
    life.go_on(3.53 * 86400)
    assert life.keeper.wanted == wanted, "the release at noon was not seen"
    life.ground.silent = False
    life.go_on(3.54 * 86400)
    assert life.keeper.wanted > wanted
    assert np.isfinite(life.keeper.sight.samples).any()
