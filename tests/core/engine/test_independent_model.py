"""The engine against a request-by-request model of the same small group, and against theory."""

import math

import numpy as np
import pytest

from jostle.core.engine.result import run
from tests.engines import result, setup
from tests.independent.hall import Hall, SteadyHall, Terms
from tests.independent.pile import waits as pile
from tests.plans import ADD, HOLD, REMOVE

HOURS = 3
EVENLY = {"arrivals": "evenly", "unevenness": 0}
POLICIES = [{**ADD, "window": "3 min"}, {**REMOVE, "window": "3 min"}]


def swell(time: float) -> float:
    """A slow swell with one sharp rush, in requests per second."""
    rush = 45.0 if 5400 <= time < 6300 else 0.0
    return 12.0 + 26.0 * (1 - math.cos(2 * math.pi * time / (HOURS * 3600))) / 2 + rush


def engine(hours=HOURS):
    ticks = (np.arange(round(hours * 360)) + 0.5) * 10
    return result([swell(t) for t in ticks], groups__web__policies=POLICIES)


@pytest.fixture(scope="module")
def model():
    return Hall(Terms(rate=swell, top_rate=85.0, until=HOURS * 3600), seed=7).run()


def test_the_counts_agree(model):
    found = engine()
    rows = found.decisions[: len(model.desks)]
    apart = rows["serving"].astype(float) - model.desks
    assert abs(apart.mean()) < 0.1
    assert np.abs(apart).mean() < 0.35
    changes = int((found.decisions["decided"] != found.decisions["desired"]).sum())
    assert abs(changes - model.opened - model.closed) <= 4


def test_backlog_and_failures_agree(model):
    found = engine()
    assert found.arrived == pytest.approx(model.came, rel=0.01)
    assert found.tally("failed") == pytest.approx(model.gave_up, rel=0.08)
    assert found.tally("served") == pytest.approx(model.served, rel=0.01)
    ticks = (np.array(model.times) / 10).astype(int) - 1
    waiting = found.state.series["waiting"][ticks].astype(float)
    overloaded = (np.array(model.times) > 5500) & (np.array(model.times) < 6300)
    assert waiting[overloaded].mean() == pytest.approx(np.array(model.line)[overloaded].mean(), rel=0.1)


def test_a_hold_policy_that_tolerates_nothing_follows_chance_as_often():
    hours, first, rate = 12, 3, 3.5
    work = {"kind": "requests", "cpu_seconds": "1 s", "timeout": "20 s"}
    hold = {**HOLD, "level": "60 %", "tolerance": 0}
    changes, counts = [], []
    for seed in range(1, 13):
        made = setup(
            np.full(hours * 360, rate),
            seed=seed,
            groups__web__work=work,
            groups__web__policies=[hold],
            groups__web__start_count=first,
        )
        found = run(made)
        changes.append((found.decisions["decided"] != found.decisions["desired"]).sum())
        counts.append(found.series["serving"].mean())
    halls = [
        SteadyHall(Terms(rate=lambda _: rate, top_rate=rate, until=hours * 3600, first=first, service_rate=1.0), seed)
        for seed in (1, 2)
    ]
    courses = [hall.run() for hall in halls]
    assert np.mean(changes) == pytest.approx(np.mean([c.opened + c.closed for c in courses]), rel=0.15)
    assert np.mean(counts) == pytest.approx(np.mean([hall.desk_time for hall in halls]) / hours / 3600, rel=0.01)


def erlang_b(seats: int, offered: float) -> float:
    """Share refused in a loss system (Erlang, 1917), by its recurrence."""
    refused = 1.0
    for n in range(1, seats + 1):
        refused = offered * refused / (n + offered * refused)
    return refused


@pytest.mark.parametrize(("instances", "seats", "offered"), [(1, 10, 7.0), (2, 6, 12.0), (3, 20, 52.0), (1, 40, 44.0)])
@pytest.mark.parametrize("place", ["spread", "pack"])
@pytest.mark.parametrize(("tick", "length"), [(1, 120.0), (10, 20.0), (60, 120.0)])
def test_sessions_meet_erlang_b(instances, seats, offered, place, tick, length):
    refused = came = 0.0
    for seed in range(11, 11 + round(6 * length / 120)):
        made = setup(
            np.full(2 * 86400 // tick, offered / length),
            seed=seed,
            tick=f"{tick} s",
            groups__web__work={"kind": "sessions", "seats": seats, "length": length, "place": place},
            groups__web__minimum=instances,
        )
        found = run(made)
        refused, came = refused + found.tally("failed"), came + found.arrived
    assert refused / came == pytest.approx(erlang_b(instances * seats, offered), rel=0.05)


@pytest.mark.parametrize("vcpus", [1, 2, 4, 16])
@pytest.mark.parametrize("load", [0.2, 0.5, 0.8, 0.95])
def test_latency_meets_erlang_c_over_a_grid(vcpus, load):
    from scipy import optimize, special

    service = 10.0
    offered = vcpus * load
    # Erlang C from the Poisson distribution (Kleinrock, Queueing Systems I, 3.5), not by the engine's recurrence.
    head = special.gammaincc(vcpus, offered) * math.exp(offered)
    last = math.exp(vcpus * math.log(offered) - special.gammaln(vcpus + 1)) / (1 - load)
    waits, pace = last / (head + last), vcpus * service * (1 - load)

    def beyond(t: float) -> float:
        gap = pace - service
        both = math.exp(-service * t) * (1 + service * t) if abs(gap) < 1e-9 else None
        both = (pace * math.exp(-service * t) - service * math.exp(-pace * t)) / gap if both is None else both
        return (1 - waits) * math.exp(-service * t) + waits * both

    found = result(
        np.full(600, vcpus * service * load),
        machines={"otter-2": {"vcpus": vcpus, "memory_gib": 8, "price_per_hour": 1}},
        templates__front={"machine": "otter-2", "boot_time": 60},
    )
    for quantile in (0.5, 0.95, 0.99):
        expected = optimize.brentq(lambda t, q=quantile: beyond(t) - (1 - q), 1e-9, 1e3)
        assert found.latency(quantile) == pytest.approx(expected, rel=0.005)


@pytest.mark.parametrize(
    ("workers", "length", "load", "late"), [(10, 600.0, 0.9, 900.0), (5, 120.0, 0.9, 180.0), (10, 600.0, 0.8, 300.0)]
)
def test_late_jobs_agree_with_workers_at_a_pile(workers, length, load, late):
    rate, days, seeds = workers / length * load, 30, range(21, 29)
    work = {"kind": "jobs", "job_seconds": length}
    ours, seen = [], []
    for seed in seeds:
        made = setup([rate] * 8640 * days, seed=seed, groups__web__work=work, groups__web__minimum=workers)
        ours.append(run(made).late_jobs(late))
        seen.append((pile(workers, rate, length, 86400 * days, seed=seed) > late).mean())
    assert np.mean(ours) == pytest.approx(np.mean(seen), rel=0.25)


def test_jobs_follow_the_fluid():
    # 2 workers of 0.5/s against 3/s for 10 min, then 0.25/s: the pile is (3 - 1) t, the oldest has waited t (1 - 1/3).
    made = setup(
        [3.0] * 60 + [0.25] * 300,
        groups__web__work={"kind": "jobs", "job_seconds": 4, "concurrency": 2, **EVENLY},
        groups__web__minimum=2,
    )
    series = run(made).state.series
    t = 10.0 * np.arange(1, 61)
    assert series["waiting"][:60] == pytest.approx(2 * t)
    assert series["age"][:60] == pytest.approx(t * (1 - 1 / 3), abs=1e-3)
    emptied = 600 + 1200 / 0.75
    later = 10.0 * np.arange(61, 221)
    assert series["waiting"][60:220] == pytest.approx(1200 - 0.75 * (later - 600), abs=1e-6)
    assert series["waiting"][int(emptied / 10) + 1] == 0
    assert series["cpu"][100] == 1.0
    assert series["cpu"][-1] == pytest.approx(0.25)
