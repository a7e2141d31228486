"""What a controller decides that is fed with the samples of a rehearsal is what the rehearsal decided, to the byte."""

import numpy as np
import pytest
from hypothesis import given, settings

from jostle.core.engine.code import HandAct
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rehearser import rehearse
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file
from tests.core.decide.controller import Controller
from tests.core.engine.test_whole_plans import plans, whole_plans

DEMO = read_plan_file(PLAN)
# Four days of it have every entry of its calendars, and the release.
UNTIL_THE_RELEASE = DEMO.model_copy(update={"days": 4.0})


class Rehearsed:
    """Both interfaces, over what a rehearsal has left."""

    def __init__(self, rehearsal: Rehearsal) -> None:
        self.result = rehearsal.result
        self.sight = rehearsal.result.state.sight
        self.by_time = {float(row["time"]): row for row in rehearsal.result.decisions}

    def taken_by(self, time):
        return min(len(self.sight.metered), int(time / self.result.setup.of("period") + 1e-9))

    def sample(self, number):
        return self.sight.samples[:, :, number], float(self.sight.metered[number])

    def counts(self, time):
        row = self.by_time[time]
        return int(row["serving"] + row["pending"]), int(row["serving"]), int(row["pinned"]), int(row["quota"])

    def hands(self, since, until):
        tick = self.result.setup.tick
        for hand in self.result.setup.hands:
            acts = np.ceil(hand["time"] / tick - 1e-9) * tick
            if hand["kind"] == HandAct.SET and since <= acts < until:
                yield int(hand["amount"])


def decided_alike(rehearsal: Rehearsal) -> int:
    """Plays a controller over all evaluations of a rehearsal; returns how many there were."""
    told, result = Rehearsed(rehearsal), rehearsal.result
    zones = result.state.sight.samples.shape[0]
    controller = Controller(rehearsal.plan, rehearsal.group_name, result.setup.rules, told, told, zones)
    for e, row in enumerate(result.decisions):
        decision, views = controller.decide(float(row["time"]))
        assert decision.tobytes() == row.tobytes(), (e, decision, row)
        assert views.tobytes() == result.state.views[e].tobytes(), e
    assert int(controller.memory.row[0].desired) == int(result.state.memory.row[0].desired)
    return len(result.decisions)


@pytest.mark.parametrize("group", DEMO.groups)
def test_every_demo_group(group):
    rehearsal = rehearse(UNTIL_THE_RELEASE, group, 3)
    assert decided_alike(rehearsal) == 4 * 1440
    assert len(rehearsal.result.state.sight.metered) > 100


@settings(whole_plans, max_examples=40)
@given(plans())
def test_drawn_plans(drawn):
    assert decided_alike(rehearse(drawn, "web")) == 180
