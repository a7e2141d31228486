"""A canary compared by latency: its figure varies as that of a sample does, so that chance is not taken for a difference."""

import numpy as np
import pytest
from scipy.stats import binom

from jostle.core.rehearsal.rehearser import rehearse
from tests.core.engine.test_rollout import released, steps
from tests.independent.counters import steady, worse_rounds

CANARY = {"count": 1, "of": "instances", "watch": "30 min", "metric": "latency_p95", "worse_by": 0.0}
# What eight instances can answer in a second, and of that the load in the tests of `released`
CAN, LOAD, ROUNDS = 160, 0.375, 30
LOOKS, FALSE_ALARMS = 4, 0.01


def watched(factor, seed, load=LOAD):
    layers = [{"kind": "level", "rate": CAN * load}]
    return rehearse(released({"cpu_factor": factor}, canary=CANARY, days=0.2, demands__even__layers=layers), "web", seed)


@pytest.mark.parametrize("load", [0.375, 0.6])
def test_it_varies_from_evaluation_to_evaluation_as_request_by_request(load):
    told = np.concatenate([watched(1.0, seed, load).result.decisions["own"] for seed in range(1, 7)])
    told = told[~np.isnan(told)]
    each = round(60 * CAN * load / 8)
    seen = steady(1, 2, load, 0.1, number=each * 3000).stays
    apart = np.quantile(seen[: len(seen) // each * each].reshape(-1, each), 0.95, axis=1)
    assert len(told) > 120
    assert np.median(told) == pytest.approx(np.median(apart), rel=0.03)
    assert told.std() == pytest.approx(apart.std(), rel=0.2)


def caught_apart(factor):
    """In what share of trials it is found worse, request by request, by the same rule."""
    worse = worse_rounds(factor, LOAD, ROUNDS, round(60 * CAN * LOAD / 8), 7, 100)
    found = np.zeros(len(worse), bool)
    for look in range(1, LOOKS + 1):
        rounds = ROUNDS * look // LOOKS
        found |= binom.sf(worse[:, :rounds].sum(axis=1) - 1, rounds, 0.5) <= FALSE_ALARMS / LOOKS
    return found.mean()


@pytest.mark.parametrize("factor", [1.0, 1.01, 1.05, 1.15])
def test_it_is_found_worse_as_often_as_request_by_request(factor):
    caught = np.mean([("CANARY_WORSE" in [step for _, step in steps(watched(factor, seed))]) for seed in range(1, 41)])
    assert caught == pytest.approx(caught_apart(factor), abs=0.2)


def test_where_arrivals_come_evenly_nothing_varies():
    even = {"kind": "requests", "cpu_seconds": 0.1, "timeout": "5 s", "arrivals": "evenly"}
    made = released({"cpu_factor": 1.01}, canary=CANARY, days=0.2, groups__web__work=even)
    told = rehearse(made, "web").result.decisions["own"]
    assert np.ptp(told[~np.isnan(told)]) < 1e-9
