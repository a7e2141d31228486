"""What is carried and sent is paid for to the byte, by the hour as in all."""

from decimal import Decimal

import pytest

from jostle.core.costs.ledger import ledger
from jostle.core.costs.price import bills, total
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.spend import spend_rate
from tests.plans import plan

GIB = 2**30
PRICES = {"load_balancer_hour": "0.02", "load_balancer_gib": "0.008", "gib_out": "0.09"}
WORKS = {
    "requests": {"kind": "requests", "cpu_seconds": 0.01, "arrivals": "evenly", "kib_in": 2, "kib_out": 30},
    "sessions": {"kind": "sessions", "seats": 50, "length": "10 min", "kib_in": 0.5, "kib_out": 6},
    "jobs": {"kind": "jobs", "job_seconds": 2, "concurrency": 40, "arrivals": "evenly", "kib_in": 9, "kib_out": 5},
}


def rehearsed(kind, balancer=None, **settings):
    rate = 0.05 if kind == "sessions" else 10
    made = plan(
        prices=PRICES,
        days=0.2,
        demands__even__layers=[{"kind": "level", "rate": rate}],
        groups__web__work=WORKS[kind],
        groups__web__load_balancer=balancer,
        **settings,
    )
    return rehearse(made, "web")


def by_what(rehearsal):
    return {one.what: one.amount for one in bills(rehearsal.result, rehearsal.crew) if one.instance is None}


def test_a_load_balancer_carries_both_ways_and_a_public_one_sends_to_the_world():
    rehearsal = rehearsed("requests", {})
    told, served = by_what(rehearsal), rehearsal.result.tally("served")
    assert told["data out"] == pytest.approx(Decimal(served * 30 * 1024 / GIB * 0.09), rel=Decimal("1e-6"))
    assert told["load balancer data"] == pytest.approx(Decimal(served * 32 * 1024 / GIB * 0.008), rel=Decimal("1e-6"))
    private = by_what(rehearsed("requests", {"public": False}))
    assert "data out" not in private
    assert private["load balancer data"] == told["load balancer data"]


def test_without_one_a_public_address_sends_to_the_world():
    assert by_what(rehearsed("requests")) == {}
    assert set(by_what(rehearsed("requests", templates__front__public_address=True))) == {"data out"}


def test_sessions_send_by_the_second():
    rehearsal = rehearsed("sessions", {})
    seconds = float(rehearsal.result.state.series["seated"].sum(dtype="f8")) * 10
    assert by_what(rehearsal)["data out"] == pytest.approx(Decimal(seconds * 6 * 1024 / GIB * 0.09), rel=Decimal("1e-6"))


@pytest.mark.parametrize("kind", WORKS)
def test_hours_add_up_to_the_bill_and_the_running_spend_to_both(kind):
    rehearsal = rehearsed(kind, {}, templates__front__public_address=True)
    whole = total(rehearsal.result, rehearsal.crew)
    assert round(ledger(rehearsal.result, rehearsal.crew, rehearsal.clock).total() - whole, 15) == 0
    assert round(sum(one.amount for one in bills(rehearsal.result, rehearsal.crew)) - whole, 15) == 0
    assert rehearsal.result.tally("spend") == pytest.approx(float(whole), rel=1e-6)
    assert spend_rate(rehearsal).sum() * rehearsal.clock.tick == pytest.approx(float(whole), rel=1e-6)


def test_bounds_pay_for_all_that_comes():
    rehearsal = rehearsed("requests", {})
    bounds = rehearsal.bounds
    traffic = sum(by_what(rehearsal).values())
    assert bounds.foresight > traffic > 0
    assert bounds.always_peak >= bounds.foresight
