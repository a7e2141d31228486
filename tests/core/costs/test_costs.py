from decimal import Decimal
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.built.play import top_up
from jostle.core.costs.bounds import always_peak_count, bounds, foresight_stays
from jostle.core.costs.market_price import STEP_MICROS, MarketPrice
from jostle.core.costs.price import bill, bills, total
from jostle.core.engine.code import Billed
from jostle.core.engine.result import Result, run
from jostle.core.engine.setup import Setup
from jostle.core.plan.promise import AnswersPromise
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import attribution, verdict
from tests.engines import setup
from tests.plans import ADD, REMOVE, plan

PROMISE = AnswersPromise(kind="answers", share=0.95, within=1.0)
PRICED = {
    "prices": {"disk_gib_month": "0.073", "address_hour": "0.005", "load_balancer_hour": "0.02"},
    "groups__web__load_balancer": True,
    "groups__web__launch": {"disk_gib": 50, "public_address": True},
}


def fixed(made: Setup, count: int) -> Result:
    fixed = made.changed(minimum=count, maximum=count, first_count=count)
    return run(fixed._replace(rules=fixed.rules._replace(policies=made.rules.policies[:0])))


def crew(**settings):
    return crew_of(plan(**settings), "web")


@given(st.lists(st.integers(0, 10**6), max_size=40), st.decimals("0.0001", "99", places=4))
def test_a_bill_is_the_exact_sum(seconds, price):
    expected = sum((Decimal(s) * price / 3600 for s in seconds), Decimal(0))
    found = bill(np.array(seconds, dtype=float), crew(**{"machines__otter-2__price_per_hour": str(price)}).tariff)
    assert abs(found - expected) < Decimal("1e-20")


def test_a_third_of_a_cent_is_not_lost():
    found = bill([1.0], crew(**{"machines__otter-2__price_per_hour": "0.118"}).tariff)
    assert abs(found - Decimal("0.118") / 3600) < Decimal("1e-25")


@pytest.mark.parametrize(
    ("billing", "seconds", "billed"),
    [
        ({}, 10, 10),
        ({"least_billed": "60 s"}, 10, 60),
        ({"least_billed": "60 s"}, 61, 61),
        ({"billed_by": "hour"}, 1, 3600),
        ({"billed_by": "hour"}, 3600, 3600),
        ({"billed_by": "hour"}, 3601, 7200),
    ],
)
def test_short_stays_are_billed_up(billing, seconds, billed):
    machine = {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36", **billing}
    assert bill([seconds], crew(machines={"otter-2": machine}).tariff) == Decimal(billed) * Decimal("0.36") / 3600
    assert seconds + top_up(seconds, billing.get("billed_by") == "hour", 60_000_000 if "least_billed" in billing else 0) == billed


@pytest.mark.parametrize("billing", [{}, {"least_billed": "10 min"}, {"billed_by": "hour"}, {"billed_when_stopped": True}])
def test_the_engines_sum_is_the_exact_one(billing):
    machine = {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36", **billing}
    made = plan(
        **PRICED,
        machines={"otter-2": machine},
        demands__even__layers=[{"kind": "level", "rate": "60/s"}, {"kind": "noise", "spread": "60 %"}],
        groups__web__policies=[{**ADD, "cooldown": 60}, {**REMOVE, "threshold": "60 %", "cooldown": 60}],
        groups__web__owned=2,
    )
    found = rehearse(made, "web").result
    assert len(found.spells) > 40
    assert found.spell_seconds(Billed.STANDING).sum() > 0
    running = found.spells[(found.spells["kind"] == Billed.RUNNING) & np.isnan(found.spells["end"])]
    still = sum(
        top_up(found.elapsed - begin, billing.get("billed_by") == "hour", found.setup.of("least_micros"))
        for begin in running["begin"]
    )
    exact = sum(one.amount for one in bills(found, crew_of(made, "web")))
    assert total(found, crew_of(made, "web")) == pytest.approx(exact, abs=Decimal("1e-20"))
    assert found.tally("spend") + still * found.setup.of("price_machine") == pytest.approx(float(exact), rel=1e-9)


def test_every_part_of_the_cost_adds_up_to_the_whole():
    made = plan(**PRICED, groups__web__policies=[{**ADD, "threshold": "60 %"}], groups__web__owned=1)
    rehearsal = rehearse(made, "web")
    cost = verdict(rehearsal).figures.cost
    parted = attribution(rehearsal)
    for field in type(parted).model_fields:
        assert sum(getattr(parted, field).values()) == round(cost, 6)
    assert set(parted.by_what) == {"machine", "disk", "address", "load balancer"}
    hours = Decimal(str(rehearsal.result.instance_seconds.sum())) / 3600
    assert parted.by_what["disk"] == pytest.approx(hours * 50 * Decimal("0.073") / 730)
    assert set(parted.by_ownership) == {"owned", "overflow", "the group"}


def test_always_peak_is_the_smallest_count_that_keeps_the_promise():
    made = setup([10] * 300 + [150] * 60)
    count = always_peak_count(made, [PROMISE])

    assert fixed(made, count).late_share(PROMISE.within) <= 0.05 < fixed(made, count - 1).late_share(PROMISE.within)


def test_without_a_promise_hardly_anything_may_fail():
    made = setup([10] * 300 + [150] * 60)
    count = always_peak_count(made, [])
    assert fixed(made, count).tally("failed") < 0.001 * made.arrivals.sum() < fixed(made, count - 1).tally("failed")


def test_a_promise_that_no_count_keeps_has_no_bounds():
    hopeless = AnswersPromise(kind="answers", share=0.99, within=0.01)
    found = bounds(setup([10] * 300), [hopeless], crew())
    assert (found.always_peak, found.foresight) == (None, None)


def stayed(made):
    begins, ends = foresight_stays(made, [PROMISE])
    return (ends - begins).sum()


def test_foresight_of_an_even_demand_is_one_count_throughout():
    # 30/s on instances of 20/s: two of them at 75 % keep the promise.
    made = setup([30] * 360)
    assert stayed(made) == pytest.approx(2 * 3600)


def test_foresight_pays_for_boot_warm_up_and_drain_or_bridges_the_gap():
    long_gap = [30] * 120 + [5] * 360 + [30] * 120
    made = setup(long_gap, groups__web__drain="60 s")
    assert stayed(made) == pytest.approx(6000 + 2400 + 100 + 50 + 60)
    short_gap = [30] * 120 + [5] * 12 + [30] * 120
    assert stayed(setup(short_gap, groups__web__drain="60 s")) == pytest.approx(2 * 2520)


@settings(max_examples=25)
@given(st.lists(st.floats(1, 120), min_size=3, max_size=8))
def test_foresight_never_costs_more_than_always_peak(steps):
    made = setup(np.repeat(steps, 90), groups__web__policies=[ADD, REMOVE])
    found = bounds(made, [PROMISE], crew())
    assert found.foresight <= found.always_peak


def test_the_largest_market_prices_have_room():
    dear, steps = 10**16, 2016
    market = MarketPrice(SimpleNamespace(market=SimpleNamespace(units=np.full((1, 1, steps), dear))))
    assert market.owed(1, 0, 0, steps * STEP_MICROS) == dear * steps * STEP_MICROS
    assert market.owed(1, 0, STEP_MICROS // 2, STEP_MICROS) == dear * STEP_MICROS // 2
