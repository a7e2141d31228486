"""Spot: how many are bought, where and at what, what the market takes back, and what that costs."""

from decimal import Decimal

import numpy as np
import pytest

from jostle.core.checks.check import check
from jostle.core.costs.ledger import ledger
from jostle.core.costs.price import bills, total
from jostle.core.engine.code import Billed, EventKind
from jostle.core.journal.event import events
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.spend import spend_rate
from jostle.core.rehearsal.verdict import attribution, verdict
from jostle.live.span import lived
from tests.plans import ADD, REMOVE, plan

SPOT = {"level": 0.35, "spread": 0.2, "reclaims": 0.05, "speed": "3 h"}
ZONES = {"a": {"zone": "north"}, "b": {"zone": "skerry"}, "c": {"zone": "west"}}


def made(incidents=(), spot=SPOT, days=1, rate=60, noise=0.3, **settings):
    return plan(
        days=days,
        subnets=ZONES,
        **{"machines__otter-2__spot": spot},
        **{
            "groups__web__launch": {"subnets": list(ZONES)},
            "groups__web__policies": [ADD, REMOVE],
            "groups__web__minimum": 3,
            "groups__web__maximum": 12,
            "groups__web__drain": "60 s",
            "groups__web__buying": {"on_demand": {"first": 2, "share": 0.25}},
            **settings,
        },
        demands__even={
            "layers": [{"kind": "level", "rate": rate}, {"kind": "noise", "spread": noise, "period": 1800}],
            "incidents": list(incidents),
        },
    )


def spots(result):
    """Spells of spot instances that ran."""
    running = result.spells[result.spells["kind"] == Billed.RUNNING]
    return running[result.instances["kind"][running["instance"]] == 1]


def test_the_first_and_a_share_of_the_rest_are_on_demand():
    steady = made(groups__web__policies=[], groups__web__minimum=10, spot={**SPOT, "reclaims": 0})
    found = rehearse(steady, "web").result
    # two, and a quarter of eight
    assert (found.instances["kind"][:10] == 0).sum() == 4
    assert verdict(rehearse(steady, "web"), whole=False).figures.spot_hours == pytest.approx(6 * 24)


def test_money_is_time_by_the_price_of_each_moment():
    rehearsal = rehearse(made(), "web", 3)
    result, market = rehearsal.result, rehearsal.result.setup.market
    by_hand = Decimal()
    for row in spots(result):
        begin, end = float(row["begin"]), float(row["end"]) if row["end"] == row["end"] else result.elapsed
        zone, at = int(result.instances[row["instance"]]["zone"]), begin
        while at < end - 1e-9:
            until = min(end, 300 * (int(at / 300 + 1e-9) + 1))
            by_hand += (
                Decimal(int(market.units[0, zone, int(at / 300 + 1e-9)])) * round((until - at) * 1e6) / (10_000 * 3600 * 10**6)
            )
            at = until
    told = [one for one in bills(result, rehearsal.crew) if one.spot and one.what == "machine"]
    assert abs(sum(one.amount for one in told) - by_hand) < Decimal("1e-18")
    whole = total(result, rehearsal.crew)
    assert abs(ledger(result, rehearsal.crew, rehearsal.clock).total() - whole) < Decimal("1e-13")
    assert result.tally("spend") == pytest.approx(float(whole), rel=1e-9)
    assert spend_rate(rehearsal).sum() * 10 == pytest.approx(float(whole), rel=1e-3)
    parted = attribution(rehearsal).by_purchase
    assert set(parted) == {"spot", "on-demand"}
    assert sum(parted.values()) == pytest.approx(whole, abs=Decimal("1e-6"))


def test_the_same_market_meets_every_arrangement():
    one, other = rehearse(made(), "web", 7).result, rehearse(made(groups__web__maximum=5), "web", 7).result
    assert np.array_equal(one.setup.market.units, other.setup.market.units)
    assert not np.array_equal(one.setup.market.units, rehearse(made(), "web", 8).result.setup.market.units)


def test_prices_wander_around_their_level():
    found = rehearse(made(days=60, spot={**SPOT, "zones": {"skerry": 0.5}}, groups__web__policies=[]), "web").result.setup.market
    prices = found.units[0].mean(axis=1) / 10_000 / 0.36
    assert prices == pytest.approx([0.35, 0.175, 0.35], rel=0.08)
    spread = found.units[0].std(axis=1) / found.units[0].mean(axis=1)
    assert spread == pytest.approx(0.2, rel=0.25)


def test_reclaims_come_as_often_as_the_market_says_and_each_is_replaced():
    risky = made(days=7, spot={**SPOT, "spread": 0, "reclaims": 0.1}, groups__web__policies=[], groups__web__minimum=8)
    found = [verdict(rehearse(risky, "web", seed), whole=False).figures for seed in range(1, 9)]
    hours, reclaims = sum(one.spot_hours for one in found), sum(one.reclaims for one in found)
    assert reclaims == pytest.approx(0.1 * hours, abs=4 * np.sqrt(0.1 * hours))
    assert min(one.min_count for one in found) == 8


def test_a_reclaimed_one_drains_for_the_notice_at_most():
    long = made(
        spot={**SPOT, "reclaims": 0.3, "notice": "90 s"},
        groups__web__drain="30 min",
        groups__web__policies=[],
        groups__web__minimum=9,
        groups__web__buying={"on_demand": {"first": 2, "share": 0.25}, "caps": {"risk": 0.9}},
    )
    result = rehearse(long, "web").result
    left = result.events[(result.events["kind"] == EventKind.INSTANCE_LEAVES) & (result.events["before"] == 9)]
    assert len(left) > 3
    for row in left:
        gone = result.instances[row["who"]]["gone"]
        assert not gone > row["time"] + 90 + 10


def test_a_session_on_spot_is_cut_off_where_its_notice_is_shorter():
    work = {"kind": "sessions", "seats": 20, "length": "20 min"}
    spot = {**SPOT, "reclaims": 0.3}
    more = {"rate": 0.04, "groups__web__work": work, "groups__web__drain": "2 h", "groups__web__buying": {}}
    cut, kept = (
        verdict(rehearse(made(spot={**spot, "notice": notice}, **more), "web"), whole=False).figures
        for notice in ("2 min", "2 h")
    )
    assert cut.cut_off > 10 * kept.cut_off
    assert cut.reclaims > 5


def test_no_price_above_the_cap_is_paid_at_a_launch():
    capped = made(groups__web__buying={"on_demand": {"first": 2}, "caps": {"price": 0.33}})
    result = rehearse(capped, "web", 2).result
    bought = result.events[result.events["kind"] == EventKind.SPOT_BOUGHT]
    assert len(bought) > 0
    assert bought["after"].max() <= 0.33 * 0.36 * 10_000


@pytest.mark.parametrize("caps", [{"price": 0.34}, {"price": 0.3}, {"risk": 0.02}])
@pytest.mark.parametrize("seed", range(1, 7))
def test_nor_of_those_that_are_there_at_the_start(caps, seed):
    spot = {**SPOT, "spread": 0.5, "reclaims": 0.02}
    buying = {"on_demand": {"first": 1, "share": 0}, "caps": caps}
    result = rehearse(made(spot=spot, groups__web__buying=buying, groups__web__minimum=6), "web", seed).result
    market, first = result.setup.market, result.instances[:6]
    mine = first["zone"][first["kind"] == 1]
    assert (market.units[0, mine, 0] <= caps.get("price", 9.0) * 0.36 * 10_000).all()
    hourly = 1 - (1 - market.chances[0, mine, 0]) ** 12
    assert (hourly <= caps.get("risk", 1.0) + 1e-12).all()
    sold = market.offered[0, :, 0] & (market.units[0, :, 0] <= caps.get("price", 9.0) * 0.36 * 10_000)
    if not sold.any():
        assert len(mine) == 0


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_whoever_buys_spot_pays_no_less_than_foresight(seed):
    """Which pays, for two throughout, the lowest price that is asked at each instant."""
    promise = {"kind": "answers", "share": "95 %", "within": "1 s"}
    asked = {"groups__web__promises": [promise], "spot": {**SPOT, "reclaims": 0.0}, "rate": 30, "noise": 0.001}
    bought = rehearse(made(groups__web__buying={"on_demand": {"first": 0, "share": 0}}, **asked), "web", seed)
    told = verdict(bought).figures
    assert told.foresight_cost <= told.cost
    market = bought.result.setup.market
    lowest = np.where(market.offered, market.units, 10**9).min(axis=(0, 1))[:288] / 10_000
    assert float(told.foresight_cost) == pytest.approx(2 * (np.minimum(lowest, 0.36) * 300 / 3600).sum(), rel=1e-3)
    on_demand = rehearse(made(groups__web__buying=None, **asked), "web", seed)
    assert verdict(on_demand).figures.foresight_cost > 2 * told.foresight_cost


def test_where_there_is_no_spot_it_is_on_demand_for_a_while_and_then_looked_for_again():
    gone = made(
        [{"kind": "no_spot", "at": "2025-07-07T02:00", "for": "2 h"}],
        rate=30,
        groups__web__policies=[],
        groups__web__calendar=[
            {"name": "early", "kind": "floor", "count": 9, "from": "2025-07-07T03:00", "for": "30 min"},
            {"name": "on", "kind": "floor", "count": 11, "from": "2025-07-07T03:20", "for": "10 min"},
            {"name": "late", "kind": "floor", "count": 12, "from": "2025-07-07T05:00", "for": "30 min"},
        ],
        groups__web__buying={"on_demand": {"first": 1}, "look_again": "30 min"},
    )
    rehearsal = rehearse(gone, "web")
    told = [event for event in events(rehearsal) if event.kind in ("spot", "no spot")]
    early = [event for event in told if "T03:" in event.time]
    assert [event.kind for event in early] == ["no spot"]
    assert "launches are on demand for 30 min" in early[0].text
    assert any(event.kind == "spot" and "T05:" in event.time for event in told)


def test_the_chooser_takes_the_cheapest_or_the_safest_zone():
    spot = {**SPOT, "spread": 0, "reclaims": 0.01, "zones": {"west": 0.7, "north": 1.2}}
    cheap = rehearse(made(spot=spot, groups__web__buying={"choose": "cheapest"}), "web")
    bought = [event.text for event in events(cheap) if event.kind == "spot"]
    assert bought
    assert all("in west, of 3 zones" in text for text in bought)
    assert "€ 0.0882 an hour" in bought[0]


def test_a_storm_takes_its_share_and_a_shock_raises_the_price():
    storm = {"kind": "spot_storm", "at": "2025-07-07T10:00", "for": "10 min", "share": 0.6}
    shock = {"kind": "price_shock", "at": "2025-07-07T15:00", "for": "1 h", "factor": 3, "zone": "west"}
    still = {"spot": {**SPOT, "reclaims": 0}, "groups__web__policies": [], "groups__web__minimum": 10}
    taken = [verdict(rehearse(made([storm], **still), "web", seed), whole=False).figures.reclaims for seed in range(1, 13)]
    # In each of its two steps as many of those that are there, replacements among them, as come to its share
    assert np.mean(taken) == pytest.approx(2 * (1 - 0.4**0.5) * 6, rel=0.25)
    plain, dear = (rehearse(made(bad, **still), "web").result.setup.market.units[0] for bad in ([], [shock]))
    steps = slice(15 * 12, 16 * 12)
    assert dear[2, steps] == pytest.approx(3 * plain[2, steps], rel=0.001)
    assert np.array_equal(dear[:2], plain[:2])


@pytest.mark.parametrize("criterion", ["spot_first", "on_demand_first", "dearest"])
def test_who_leaves_by_how_it_was_bought(criterion):
    leaving = {"criteria": [criterion], "balance_zones": False}
    result = rehearse(made(groups__web__leaving=leaving, spot={**SPOT, "reclaims": 0}), "web", 5).result
    first = result.events[result.events["kind"] == EventKind.INSTANCE_LEAVES][0]
    assert result.instances[first["who"]]["kind"] == (1 if criterion == "spot_first" else 0)


def test_what_is_lived_is_what_was_rehearsed():
    bought = made([{"kind": "spot_storm", "at": "2025-07-07T10:00", "for": "10 min", "share": 0.6}])
    one, other = (verdict(each, whole=False).figures for each in (rehearse(bought, "web", 4), lived(bought, "web", 4).record()))
    assert one == other
    assert verdict(rehearse(bought, "web", 4)).figures.kept_back_by_spot > 0


@pytest.mark.parametrize(
    ("code", "settings"),
    [
        ("cap-below-price", {"groups__web__buying": {"caps": {"price": 0.2}}}),
        ("cap-below-risk", {"groups__web__buying": {"caps": {"risk": 0.01}}}),
        ("spot-one-zone", {"groups__web__launch": {"subnets": ["a"]}}),
        ("spot-interrupts", {"groups__web__work": {"kind": "jobs", "job_seconds": 900}, "rate": 0.002}),
        ("on-demand-much", {"groups__web__buying": {"on_demand": {"first": 9}}}),
        (
            "storm-breaks",
            {
                "groups__web__buying": {"choose": "cheapest"},
                "groups__web__promises": [{"kind": "answers", "share": 0.9999, "within": 3}],
                "groups__web__policies": [],
                "groups__web__minimum": 9,
                "rate": 140,
                "noise": 0,
                "spot": {**SPOT, "reclaims": 0, "zones": {"west": 0.5}},
            },
        ),
    ],
)
def test_what_the_market_may_do_is_found(code, settings):
    rehearsal = rehearse(made(**settings), "web")
    assert code in {finding.code for finding in check(rehearsal, None)}


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        ({"spot": None}, "is not sold as spot; sold are: none yet"),
        ({"groups__web__owned": 3}, "owned instances are bought for good"),
        ({"groups__web__buying": {"on_demand": {"share": 1.2}}}, "a share"),
        ({"groups__web__buying": {"caps": {"price": 0}}}, "greater than 0"),
        ({"spot": {"level": 0}}, "greater than 0"),
    ],
)
def test_what_cannot_be_bought_is_refused(settings, said):
    with pytest.raises(PlanError) as refused:
        made(**settings)
    assert said in str(refused.value)


def test_an_incident_strikes_at_its_time_whatever_the_market_does():
    """Between two instances that change, the market is looked at many times."""
    lost = {"kind": "zone_lost", "at": "2025-07-07T00:31", "for": "20 min", "zone": "north"}
    still = made([lost], {**SPOT, "reclaims": 0}, groups__web__policies=[], groups__web__minimum=8)
    told = [(event.time[11:16], event.kind) for event in events(rehearse(still, "web"))]
    assert told[0] == ("00:31", "incident")
    assert ("00:51", "incident over") in told
