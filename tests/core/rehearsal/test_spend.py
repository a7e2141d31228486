import numpy as np
import pytest

from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.spend import spend_rate
from jostle.formats.shipped import demo_plan
from tests.plans import plan


@pytest.mark.parametrize("group", ["booking-web", "manifest-worker", "live-track", "tryout"])
def test_what_runs_up_tick_by_tick_is_the_cost_of_the_engine(group):
    rehearsal = rehearse(demo_plan(), group)
    rate = spend_rate(rehearsal)
    assert rate.shape == (rehearsal.clock.ticks,)
    assert (rate >= 0).all()
    total = rate.sum() * rehearsal.clock.tick
    assert total == pytest.approx(rehearsal.result.tally("spend"), rel=1e-9)


def test_a_group_that_never_changes_spends_evenly():
    rate = spend_rate(rehearse(plan(groups__web__minimum=2, groups__web__maximum=2), "web"))
    assert np.ptp(rate) == 0
    assert rate[0] * 86400 == pytest.approx(17.28)
