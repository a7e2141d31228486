"""Counts in vCPUs or in units: what is launched and removed for them, and that the rest is as with instances."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.checks.check import check
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.live.span import lived
from tests.core.engine.test_spot import SPOT
from tests.core.engine.test_types import CALM, RATES, WORKS, several
from tests.plans import ADD, REMOVE

TWICE = [{**policy, "amount": 2 * policy["amount"]} for policy in (ADD, REMOVE)]


def counted(*types, count_in="vcpus", buying=None, **given):
    return several(*types, buying={"count_in": count_in, **(buying or {})}, **given)


def figures_of(plan, seed=3):
    return verdict(rehearse(plan, "web", seed), whole=False).figures


def test_units_of_one_each_are_instances():
    for_all = {"groups__web__minimum": 4}
    assert figures_of(several("seal-2", "heron-4", **for_all)).model_copy(update={"counted_in": "units"}) == figures_of(
        counted("seal-2", "heron-4", count_in="weights", **for_all)
    )


def test_twice_as_many_vcpus_are_as_many_machines_of_two():
    """Every number of the group doubled, on machines of two vCPUs: the same week."""
    plain = several("seal-2", groups__web__policies=[ADD, REMOVE], groups__web__minimum=3, groups__web__maximum=12)
    twice = counted(
        "seal-2",
        buying={"on_demand": {"first": 4, "share": 0.25}},
        groups__web__policies=TWICE,
        groups__web__minimum=6,
        groups__web__maximum=24,
    )
    one, other = figures_of(plain), figures_of(twice)
    assert other.unit_hours == pytest.approx(2 * one.instance_hours)
    doubled = {"counted_in": "instances", "unit_hours": one.unit_hours, "min_count": one.min_count, "max_count": one.max_count}
    assert (other.min_count, other.max_count) == (2 * one.min_count, 2 * one.max_count)
    assert other.model_copy(update=doubled) == one


def test_a_launch_may_bring_more_than_was_asked_for_by_less_than_a_machine():
    plan = counted(
        "heron-4",
        spot=CALM,
        groups__web__policies=[],
        groups__web__minimum=7,
        groups__web__start_count=7,
        buying={"on_demand": {"first": 7}},
    )
    result = rehearse(plan, "web").result
    # The cheapest on demand for what it does has four
    assert set(result.instances["kind"][:2].tolist()) == {2}
    assert result.series["serving"][-1] == 2
    assert result.series["units"][-1] == 8
    assert result.series["desired"][-1] == 7


def test_a_policy_sees_and_counts_units():
    hold = {"kind": "hold", "name": "cpu", "metric": "cpu", "level": "50 %", "cooldown": 300}
    plan = counted("heron-4", rate=150, noise=0, spot=CALM, groups__web__policies=[hold], groups__web__maximum=80)
    result = rehearse(plan, "web").result
    weights = result.setup.kinds["weight"]
    assert weights.tolist() == [2, 2, 4, 4]
    half = len(result.series) // 2
    assert np.nanmean(result.series["cpu"][half:]) == pytest.approx(0.5, abs=0.06)
    assert float(result.state.sight.metered[-1]) == float(result.series["units"][-1])
    assert result.series["units"][-1] > result.series["serving"][-1]


def test_what_one_needs_is_told_by_unit():
    spare = {"kind": "spare", "name": "room", "share": "20 %"}
    plan = counted("heron-4", rate=100, noise=0, spot=CALM, groups__web__policies=[spare], groups__web__maximum=80)
    result = rehearse(plan, "web").result
    capacity = result.series["capacity"][-1]
    # A fifth is free of what two vCPUs each are reckoned to do; heron-4 does a quarter more with each
    assert 100 / 0.8 - 1 <= capacity <= 1.25 * 100 / 0.8 + result.setup.kinds["capacity"][2]


@settings(max_examples=15)
@given(
    seed=st.integers(0, 10_000),
    weights=st.tuples(*[st.integers(1, 5)] * 3),
    choose=st.sampled_from(["balanced", "cheapest", "safest"]),
    amount=st.integers(1, 5),
    swap=st.booleans(),
    kind=st.sampled_from(["requests", "jobs", "sessions"]),
)
def test_there_is_never_less_than_decided_nor_a_machine_more(seed, weights, choose, amount, swap, kind):
    names = ["otter-2", "seal-2", "heron-4"]
    plan = counted(
        *names[1:],
        count_in="weights",
        spot={**SPOT, "reclaims": 0},
        rate=RATES[kind],
        groups__web__work=WORKS[kind],
        groups__web__promises=[],
        groups__web__policies=[{**policy, "amount": amount} for policy in (ADD, REMOVE)],
        groups__web__minimum=5,
        groups__web__maximum=40,
        buying={
            "weights": dict(zip(names, weights, strict=True)),
            "choose": choose,
            **({"swap": {"saves": 0.1, "at_once": 2}} if swap else {}),
        },
    )
    result = rehearse(plan, "web", seed).result
    rows = result.decisions
    there = (rows["serving"] + rows["pending"])[1:]
    assert (there >= rows["decided"][:-1]).all()
    least = min(weights)
    if not swap:
        assert (there - rows["decided"][:-1]).max() < max(weights)
    assert (result.series["units"] >= least * result.series["serving"]).all()
    assert (result.series["units"] <= max(weights) * result.series["serving"]).all()


@pytest.mark.parametrize("swap", [None, {"saves": 0.1}])
def test_what_is_lived_is_what_was_rehearsed(swap):
    storm = {"kind": "spot_storm", "at": "2025-07-07T10:00", "for": "10 min", "share": 0.6}
    plan = counted("seal-2", "heron-4", incidents=[storm], groups__web__maximum=40, buying={"swap": swap})
    one, other = (verdict(each, whole=False).figures for each in (rehearse(plan, "web", 4), lived(plan, "web", 4).record()))
    assert one == other


def test_the_quota_is_of_machines_and_leaves_so_many_units():
    quotas = {"machines__otter-2__quota": 3, "machines__heron-4__quota": 1}
    plan = counted("heron-4", spot=CALM, rate=2000, groups__web__maximum=40, **quotas)
    rehearsal = rehearse(plan, "web")
    rows = rehearsal.result.decisions
    assert set(rows["quota"].tolist()) == {3 * 2 + 4}
    assert rehearsal.result.series["units"].max() <= 10
    found = next(one for one in check(rehearsal, None) if one.code == "over-quota")
    assert "otter-2 and heron-4 is 10 vCPUs" in found.text


@pytest.mark.parametrize(
    ("buying", "said"),
    [
        ({"weights": {"heron-4": 2}}, "weights count only with count_in: weights"),
        ({"count_in": "weights", "weights": {"walrus-2": 2}}, "is no machine of this group; it has otter-2 and heron-4"),
        ({"count_in": "weights", "weights": {"heron-4": 0}}, "greater than or equal to 1"),
        ({"count_in": "weights", "weights": {"heron-4": 1.5}}, "fractional part"),
        ({"count_in": "cores"}, "instances"),
    ],
)
def test_bad_weights_are_named(buying, said):
    with pytest.raises(PlanError) as refused:
        several("heron-4", buying=buying)
    assert said in str(refused.value)


def test_weights_that_do_not_follow_the_machines_are_found_with_their_mend():
    plan = counted("heron-4", count_in="weights")
    found = {one.code: one for one in check(rehearse(plan, "web"), None)}
    assert found["weights-differ"].mend.settings == {"buying.weights": {"otter-2": 1, "heron-4": 2}}
    assert "does 2.5 times as much" in found["weights-differ"].text
    assert "types-differ" not in found
    mended = counted("heron-4", count_in="weights", buying={"weights": {"otter-2": 1, "heron-4": 2}})
    assert "weights-differ" not in {one.code for one in check(rehearse(mended, "web"), None)}


def test_the_page_says_what_is_counted():
    page = group_page(crew_of(counted("heron-4", groups__web__minimum=6), "web"), "EUR")
    text = {one.key: one.text for part in page.sections for one in part.sentences}
    assert text["runs"].startswith("6 to 12 vCPUs of front")
    assert text["buying"].endswith("It counts vCPUs.")
    page = group_page(crew_of(counted("heron-4", count_in="weights", buying={"weights": {"heron-4": 2}}), "web"), "EUR")
    text = {one.key: one.text for part in page.sections for one in part.sentences}
    assert text["buying"].endswith("It counts units: otter-2 is 1; heron-4 is 2.")
