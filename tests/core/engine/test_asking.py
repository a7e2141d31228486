"""Clients that wait for their answers against the theory of a closed queue: the machine repairman, M/M/c//N."""

import math

import numpy as np
import pytest

from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import plan

SERVICE = 0.1


def repairman(clients: int, think: float, servers: int) -> float:
    """Requests/s that so many clients get answered (Kleinrock, Queueing Systems I, 1975, section 3.8)."""
    weights = [1.0]
    for n in range(clients):
        weights.append(weights[-1] * (clients - n) / think * SERVICE / min(n + 1, servers))
    chance = np.array(weights) / math.fsum(weights)
    return float(sum(p * min(n, servers) / SERVICE for n, p in enumerate(chance)))


def asked(clients: int, think: float, **settings):
    test = {"kind": "load_test", "at": "2025-07-07T00:00", "clients": clients, "waits": True, "think": think, "hold": "3 h"}
    quiet = {"kind": "level", "rate": 0}
    made = plan(
        days=3 / 24,
        demands__even__layers=[quiet, test],
        **{"groups__web__work__arrivals": "by_chance", "groups__web__work__timeout": "5 min", **settings},
    )
    return rehearse(made, "web")


@pytest.mark.parametrize(
    ("clients", "think", "within"),
    # Where the instances are just about full, lines of clients that come by chance are taken for those who wait
    [(10, 2.0, 0.01), (30, 2.0, 0.02), (45, 2.0, 0.06), (100, 2.0, 0.03), (400, 2.0, 0.01), (20, 0.3, 0.09)],
)
def test_what_they_get_answered(clients, think, within):
    found = asked(clients, think).result
    settled = found.state.series["served"][180:]
    assert settled.mean() / 10 == pytest.approx(repairman(clients, think, 2), rel=within)


def test_the_slower_the_answers_the_fewer_they_ask():
    one = asked(200, 2.0).result
    four = asked(200, 2.0, groups__web__minimum=4).result
    assert one.arrived < 0.3 * four.arrived
    # Nobody waits longer than there are clients to wait
    assert one.state.series["waiting"].max() <= 200 * 1.1


def test_where_nobody_serves_they_wait_until_they_give_up():
    nap = [{"name": "nap", "kind": "sleep", "from": "2025-07-07T01:00", "for": "1 h"}]
    found = asked(50, 1.0, groups__web__work__timeout="20 s", groups__web__calendar=nap).result
    asleep = slice(60 * 6 + 60, 119 * 6)
    assert found.state.sent["mean"][asleep].mean() / 10 == pytest.approx(50 / 21, rel=0.02)


def test_all_that_they_ask_is_counted():
    rehearsal = asked(60, 2.0)
    found = rehearsal.result
    assert found.arrived == pytest.approx(found.state.sent["drawn"].sum())
    assert found.arrived == pytest.approx(found.tally("served") + found.tally("failed") + found.tally("backlog"), rel=1e-9)
    assert rehearsal.demand_rate.max() > 0


def test_by_hand_on_one_group_as_in_a_demand():
    test = {"kind": "load", "at": "2025-07-07T00:00", "clients": 30, "waits": True, "think": 2, "hold": "3 h"}
    by_hand = rehearse(
        plan(
            days=3 / 24,
            demands__even__layers=[{"kind": "level", "rate": 0}],
            groups__web__work__arrivals="by_chance",
            groups__web__work__timeout="5 min",
            groups__web__hands=[test],
        ),
        "web",
    ).result
    assert by_hand.arrived == asked(30, 2.0).result.arrived


def test_jobs_and_sessions_take_no_notice_of_answers():
    made = plan(
        days=1 / 24,
        demands__even__layers=[
            {"kind": "level", "rate": 0},
            {"kind": "load_test", "at": "2025-07-07T00:00", "clients": 4, "waits": True, "think": 20, "hold": "1 h"},
        ],
        groups__web__work={"kind": "jobs", "job_seconds": 1, "arrivals": "evenly"},
    )
    assert rehearse(made, "web").result.setup.rate.max() == pytest.approx(0.2)
