"""How far off figures of answers are told to be is at least how far they are from models that go request by request."""

import numpy as np
import pytest

from jostle.core.rehearsal.reach import FULL, HALF_LONGER, UNEVEN, WAITED, reach
from jostle.core.rehearsal.rehearser import rehearse
from tests.engines import result
from tests.independent.clients import answers_of
from tests.independent.counters import steady
from tests.plans import plan


def told_of(unevenness: float) -> float:
    return next(most for up_to, most in UNEVEN if unevenness <= up_to)


@pytest.mark.parametrize("unevenness", [1, 2, 4, 6, 9, 16])
@pytest.mark.parametrize("load", [0.5, 0.7])
def test_very_uneven_requests(unevenness, load):
    work = {"kind": "requests", "cpu_seconds": 0.1, "timeout": 20, "unevenness": unevenness}
    found = result(np.full(2000, 20 * load), groups__web__work=work)
    seen = steady(1, 2, load, 0.1, unevenness=unevenness, number=400_000)
    over = found.latency(0.95) / float(np.quantile(seen.stays, 0.95)) - 1
    assert -0.05 < over < told_of(unevenness) + 0.05


@pytest.mark.parametrize("clients", [20, 30, 60, 100])
def test_clients_that_wait(clients):
    """Twenty are half of what the group can do, forty are all."""
    test = {
        "kind": "load_test",
        "at": "2025-07-07T00:00",
        "clients": clients,
        "ramp": 1,
        "hold": 20_000,
        "think": 2,
        "waits": True,
    }
    made = plan(
        days=0.2,
        demands__even={"layers": [{"kind": "level", "rate": 0.0001}, test]},
        groups__web__work={"kind": "requests", "cpu_seconds": 0.1, "timeout": 20},
        groups__web__maximum=1,
    )
    rehearsal = rehearse(made, "web")
    took = answers_of(clients, 2.0, 2, 0.1, 10_000)
    half, most = (rehearsal.result.latency(share) / float(np.quantile(took, share)) - 1 for share in (0.5, 0.95))
    if clients < 40:
        assert 0 < most < WAITED
        assert reach(rehearsal) == "p95 up to 20 % too high: clients wait for their answer"
    else:
        assert 0 < most < FULL
        assert 0 > half > 1 / (1 + HALF_LONGER) - 1
        assert reach(rehearsal).endswith("clients that wait fill the group")


def test_what_is_within_its_reach_says_nothing():
    assert reach(rehearse(plan(days=0.1), "web")) == ""
    uneven = plan(days=0.1, groups__web__work={"kind": "requests", "cpu_seconds": 0.1, "timeout": 20, "unevenness": 6})
    assert reach(rehearse(uneven, "web")) == "up to 40 % too high: requests are very uneven"
