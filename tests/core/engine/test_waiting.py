"""Waiting in the engine against the independent model: loads, vCPUs, ways of spreading, unevenness, timeouts, overload."""

import numpy as np
import pytest

from jostle.core.built.figure import mixed_quantile
from jostle.core.engine.spread import Way
from tests.engines import result
from tests.independent.counters import CHANCE, LEAST, TURN, course, steady

WAYS = {"by_chance": CHANCE, "in_turn": TURN, "least_busy": LEAST}
MANY = 1_500_000


def group(rates, instances, vcpus, service, timeout, spread="by_chance", **work):
    return result(
        rates,
        machines={"otter-2": {"vcpus": vcpus, "memory_gib": 8, "price_per_hour": "0.36"}},
        groups__web__minimum=instances,
        groups__web__maximum=instances,
        groups__web__work={"kind": "requests", "cpu_seconds": service, "timeout": timeout, **work},
        groups__web__load_balancer={"spread": spread},
    )


def of_answered(found, share):
    """Seconds within which this share of the answers came."""
    tails, answers = found._stays
    return mixed_quantile(tails, found.setup.line.times, found.setup.extras, answers, (1 - share) * answers.sum())


@pytest.mark.parametrize("spread", WAYS)
@pytest.mark.parametrize(
    ("vcpus", "instances", "load"),
    [(1, 2, 0.9), (1, 5, 0.3), (1, 10, 0.95), (1, 40, 0.95), (2, 5, 0.95), (2, 40, 0.8), (8, 10, 0.9)],
)
def test_a_steady_load_spread_in_each_way(spread, vcpus, instances, load):
    service = 0.1
    found = group([instances * vcpus / service * load] * 600, instances, vcpus, service, 3600, spread=spread)
    seen = steady(instances, vcpus, load, service, way=WAYS[spread], number=MANY if load < 0.95 else 5 * MANY)
    for share in (0.5, 0.95):
        assert found.latency(share) == pytest.approx(seen.quantile(share), rel=0.05)


def test_more_ways_of_spreading_than_these_are_none():
    assert len(WAYS) == len(Way)


@pytest.mark.parametrize(
    ("vcpus", "service", "load", "timeout"), [(1, 0.5, 0.8, 2), (2, 0.1, 0.8, 0.3), (4, 0.2, 0.95, 1), (1, 0.1, 1.2, 8)]
)
def test_who_has_waited_for_the_timeout_gives_up_wherever_that_is(vcpus, service, load, timeout):
    found = group([10 * vcpus / service * load] * 1080, 10, vcpus, service, timeout)
    seen = steady(10, vcpus, load, service, timeout, number=MANY)
    assert found.tally("failed") / found.arrived == pytest.approx(seen.failed, rel=0.03)
    assert of_answered(found, 0.5) == pytest.approx(float(np.quantile(seen.stays, 0.5)), rel=0.05)
    assert of_answered(found, 0.95) == pytest.approx(float(np.quantile(seen.stays, 0.95)), rel=0.05)
    # Nobody is answered later than timeout and service allow.
    beyond = timeout + 12 * service
    assert found.late_share(beyond) == pytest.approx(seen.failed, rel=0.03)


@pytest.mark.parametrize("calm", [0.15, 0.5])
def test_a_spike_of_half_an_hour(calm):
    instances, vcpus, service, timeout = 4, 4, 0.1, 5.0
    rates = np.full(6 * 180, calm * instances * vcpus / service)
    rates[6 * 60 : 6 * 90] *= 5
    found = group(rates, instances, vcpus, service, timeout)
    seen = course(rates, 10.0, instances, vcpus, service, timeout)
    assert found.tally("failed") == pytest.approx(seen.gave_up, rel=0.03, abs=20)
    for share in (0.5, 0.95):
        assert of_answered(found, share) == pytest.approx(float(np.quantile(seen.stays, share)), rel=0.05)


@pytest.mark.parametrize("unevenness", [0, 1, 4])
@pytest.mark.parametrize(("vcpus", "load"), [(1, 0.5), (1, 0.8), (2, 0.8), (4, 0.9)])
def test_uneven_service_waits_longer(unevenness, vcpus, load):
    service = 0.1
    found = group([5 * vcpus / service * load] * 1080, 5, vcpus, service, 1000, unevenness=unevenness)
    seen = steady(5, vcpus, load, service, unevenness=unevenness, number=MANY, exponential=False)
    for share in (0.5, 0.95):
        assert found.latency(share) == pytest.approx(seen.quantile(share), rel=0.15)


def test_a_slow_dependency_comes_on_top_of_each_answer():
    slow = {"kind": "slow_dependency", "at": "2025-07-07T00:00", "for": "2 h", "extra": "700 ms"}
    calm, later = result(groups__web__minimum=2), result(groups__web__minimum=2, demands__even__incidents=[slow])
    assert later.late_share(0.7) - calm.late_share(0.7) == pytest.approx(2 / 24 * (1 - calm.late_share(0.7)), rel=0.02)
