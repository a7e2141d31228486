"""The market of the catalogue, and how a group goes about in it: shocks and gaps, the order of zones, caps in money, waiting."""

from decimal import Decimal

import numpy as np
import pytest

from jostle.core.checks.check import check
from jostle.core.engine.code import EventKind, Refusal
from jostle.core.engine.market import UNIT
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.core.tuning.space import TYPES, Varied, among_choices, applied, as_it_is, checked_space, said
from jostle.live.span import lived
from tests.core.engine.test_spot import SPOT, made
from tests.core.engine.test_types import several

STEADY = {**SPOT, "spread": 0, "reclaims": 0}
ALL_SPOT = {"on_demand": {"first": 0}}


def bought(result):
    return result.instances[: int(result.tally("launched"))]


def test_shocks_come_as_often_and_last_as_long_as_said():
    shocks = {"every": "1 d", "for": "4 h", "times": "250 %"}
    units = []
    for seed in range(1, 9):
        market = rehearse(made(spot={**STEADY, "shocks": shocks}, days=14), "web", seed).result.setup.market
        units.append(market.units[0])
    dear = np.array(units) > 1.5 * np.median(units)
    # Four hours of every twenty-eight
    assert dear.mean() == pytest.approx(4 / 28, rel=0.2)
    assert np.array(units)[dear].mean() == pytest.approx(2.5 * np.array(units)[~dear].mean(), rel=1e-3)
    begun = (np.diff(dear.astype(int), axis=2) == 1).sum()
    assert begun == pytest.approx(8 * 3 * 14 * 24 / 28, rel=0.2)


def test_where_there_are_gaps_none_is_to_be_had_and_no_change_of_the_group_moves_them():
    gone = {**STEADY, "gaps": "6 h"}
    one, other = (rehearse(made(spot=gone, days=7, groups__web__maximum=most), "web").result.setup.market for most in (6, 12))
    assert 0 < (~one.offered).mean() < 0.2
    assert np.array_equal(one.offered, other.offered)
    drawn = rehearse(made(spot=STEADY, days=7), "web").result.setup.market
    assert np.array_equal(drawn.units, one.units)
    assert drawn.offered.all()


def test_the_first_zone_that_has_it_is_taken():
    """The price of the first is over the cap for six hours."""
    shock = {"kind": "price_shock", "zone": "north", "at": "2025-07-07T00:00", "for": "6 h", "factor": 3}
    plan = made(
        spot=STEADY,
        incidents=[shock],
        groups__web__policies=[],
        groups__web__minimum=0,
        groups__web__start_count=0,
        groups__web__calendar=[
            {"name": "early", "kind": "floor", "from": "2025-07-07T01:00", "until": "04:00", "count": 4},
            {"name": "none", "kind": "set", "from": "2025-07-07T05:00", "count": 0},
            {"name": "late", "kind": "floor", "from": "2025-07-07T08:00", "until": "12:00", "count": 4},
        ],
        groups__web__buying={**ALL_SPOT, "choose": "in_order", "caps": {"price": 0.7}},
    )
    result = rehearse(plan, "web").result
    assert [int(one["zone"]) for one in bought(result)] == [1] * 4 + [0] * 4


def test_of_a_zone_the_cheapest_machine_is_taken():
    plan = several("seal-2", spot=STEADY, buying={**ALL_SPOT, "choose": "in_order"}, groups__web__policies=[])
    result = rehearse(plan, "web").result
    units = result.setup.market.units[:, 0, 0]
    for one in bought(result)[3:]:
        assert int(one["zone"]) == 0
        assert int(one["kind"]) // 2 == int(np.argmin(units))


def test_a_cap_may_be_an_amount():
    level = made().machines["otter-2"].price_per_hour * Decimal("0.35")
    under, over = (
        verdict(rehearse(made(spot=STEADY, groups__web__buying={**ALL_SPOT, "caps": {"amount": amount}}), "web"), whole=False)
        for amount in (str(level + Decimal("0.001")), str(level - Decimal("0.001")))
    )
    assert under.figures.no_spot == 0
    assert over.figures.no_spot > 0
    low = rehearse(made(spot=STEADY, groups__web__buying={**ALL_SPOT, "caps": {"amount": "0.01"}}), "web")
    found = next(one for one in check(low, None) if one.code == "cap-below-price")
    assert float(found.mend.settings["buying.caps.amount"]) == pytest.approx(1.3 * float(level), rel=0.01)
    page = group_page(crew_of(made(groups__web__buying={"caps": {"amount": "0.0425"}}), "web"), "EUR")
    text = {one.key: one.text for part in page.sections for one in part.sentences}
    assert "at 100 % of the on-demand price at the most, no more than € 0.0425 and with up to" in text["buying"]


def test_a_launch_waits_for_spot_before_it_is_on_demand():
    gone = {"kind": "no_spot", "at": "2025-07-07T00:00", "for": "1 d"}
    plan = made(
        spot=STEADY,
        incidents=[gone],
        rate=2000,
        groups__web__minimum=0,
        groups__web__start_count=0,
        groups__web__calendar=[{"name": "early", "kind": "floor", "from": "2025-07-07T01:00", "until": "04:00", "count": 4}],
        groups__web__policies=[],
        groups__web__buying={**ALL_SPOT, "wait": "10 min"},
    )
    result = rehearse(plan, "web").result
    refused = result.events[result.events["kind"] == EventKind.LAUNCH_REFUSED]
    assert set(refused["who"].tolist()) == {Refusal.MARKET}
    assert float(refused["time"][0]) == 3600
    begun = result.spells["begin"][:4]
    assert set(begun.tolist()) == {3600 + 600.0}
    assert set(bought(result)["kind"].tolist()) == {0}
    assert verdict(rehearse(plan, "web"), whole=False).figures == verdict(lived(plan, "web", 1).record(), whole=False).figures


def test_pinned_ones_are_swapped_only_where_the_group_says_so():
    def swaps(pinned):
        plan = made(
            spot={**STEADY, "level": 0.3},
            incidents=[{"kind": "no_spot", "at": "2025-07-07T00:00", "for": "2 h"}],
            groups__web__policies=[],
            groups__web__leaving={"pinned": 3},
            groups__web__buying={**ALL_SPOT, "swap": {"pinned": pinned, "saves": 0.2}},
            groups__web__minimum=3,
        )
        return int(rehearse(plan, "web").result.tally("swaps"))

    assert swaps(False) == 0
    assert swaps(True) == 3


def test_machines_that_may_serve_vary_in_a_search():
    plan = several("seal-2", "heron-4")
    document = plan.groups["web"].model_dump(mode="json")
    every = among_choices(TYPES, document)
    assert (every.low, every.high) == (0, 3)
    assert checked_space([every], plan, "web") == [every]
    assert as_it_is(document, TYPES) == 3
    assert applied(document, {TYPES: 2.0})["buying"]["types"] == ["otter-2", "heron-4"]
    assert said(plan, "web", {TYPES: 1.0}) == {TYPES: "otter-2 or seal-2"}
    turned = several("seal-2", buying={"types": ["seal-2", "otter-2"]})
    over_all = among_choices(TYPES, turned.groups["web"].model_dump(mode="json"))
    with pytest.raises(PlanError, match="name otter-2 first, which the template launches"):
        checked_space([over_all], turned, "web")
    with pytest.raises(PlanError, match="name two to 5 machines as types"):
        checked_space([Varied(path=TYPES, low=0, high=1, step=1)], made(), "web")


@pytest.mark.parametrize(
    ("spot", "said"),
    [
        ({"shocks": {"times": 0}}, "greater than 0"),
        ({"shocks": {"every": "10 min"}}, "greater than or equal to 3600"),
        ({"gaps": {"for": "1 s"}}, "greater than or equal to 300"),
        ({"gaps": {"often": 3}}, "is not a field here"),
    ],
)
def test_bad_stretches_are_named(spot, said):
    with pytest.raises(PlanError) as refused:
        made(spot={**SPOT, **spot})
    assert said in str(refused.value)


def test_prices_stay_whole_units():
    market = rehearse(made(spot={**SPOT, "shocks": "150 %"}), "web").result.setup.market
    assert market.units.dtype == np.int64
    assert market.units.min() >= 1
    assert UNIT == 10_000
