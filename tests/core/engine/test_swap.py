"""Swaps: a cheaper one serves before the dearer one leaves, no more at once than said, and never those that are to stay."""

import numpy as np
import pytest

from jostle.core.checks.check import check
from jostle.core.engine.code import EventKind
from jostle.core.journal.event import events
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import attribution, verdict
from tests.core.engine.test_spot import SPOT, made
from tests.keeper.test_lived import lived_alike

# No spot in the first hours: what is launched then is on demand, and only a swap makes it spot again
DRY = [{"kind": "no_spot", "at": "2025-07-07T00:20", "for": "3 h"}]
CALM = {**SPOT, "reclaims": 0, "spread": 0.02}
BUYING = {"on_demand": {"first": 2, "share": 0}, "choose": "cheapest", "look_again": "4 h"}
SWAP = {"every": "10 min", "saves": 0.15, "at_once": 2}


def dried(swap=SWAP, spot=CALM, **settings):
    """A group of eight of which six come on demand for want of spot, when a zone is lost for a while."""
    lost = {"kind": "zone_lost", "at": "2025-07-07T00:30", "for": "20 min", "zone": "north"}
    buying = {**BUYING, "swap": swap}
    steady = {"groups__web__policies": [], "groups__web__minimum": 8, "groups__web__mending": {"restarts": 0}}
    return made([*DRY, lost], spot, **steady, groups__web__buying=buying, **settings)


def rows(rehearsal, kind):
    return rehearsal.result.events[rehearsal.result.events["kind"] == kind]


def test_those_beyond_the_mix_become_spot_again():
    without, swapped = (rehearse(dried(swap), "web") for swap in (None, SWAP))
    on_demand = [
        int((one.result.instances["kind"][np.isnan(one.result.instances["gone"])] == 0).sum()) for one in (without, swapped)
    ]
    assert on_demand[0] > 2
    assert on_demand[1] == 2, "the first two stay on demand"
    figures = verdict(swapped).figures
    assert figures.swaps == len(rows(swapped, EventKind.SWAP_ENDS)) == on_demand[0] - 2
    assert figures.kept_back_by_swaps == verdict(without).figures.cost - figures.cost
    assert figures.kept_back_by_swaps > 0
    assert verdict(without).figures.kept_back_by_swaps is None
    assert sum(attribution(swapped).by_purchase.values()) == round(figures.cost, 6)


def test_the_new_one_serves_before_the_old_one_leaves():
    rehearsal = rehearse(dried(), "web")
    after_the_storm = rehearsal.result.series["serving"][round(3600 / 10) :]
    assert after_the_storm.min() >= 8, "a swap never lowers what serves"
    instances = rehearsal.result.instances
    for row in rows(rehearsal, EventKind.SWAP_ENDS):
        new, old = instances[row["who"]], instances[row["before"]]
        assert new["serves"] <= old["drains"] == row["time"]


@pytest.mark.parametrize("at_once", [1, 2, 3])
def test_no_more_at_once_than_said(at_once):
    rehearsal = rehearse(dried({**SWAP, "at_once": at_once}), "web")
    billed = rehearsal.result.series["billed"][round(3.4 * 360) :]
    begins = rows(rehearsal, EventKind.SWAP_BEGINS)["time"]
    assert billed.max() <= 8 + 2 * at_once
    assert np.unique(begins, return_counts=True)[1].max() <= at_once
    assert np.all(begins % 600 == 0)


def test_none_is_swapped_for_less_than_it_must_save_or_for_too_much_risk():
    dear = rehearse(dried(spot={**CALM, "level": 0.97}), "web")
    assert verdict(dear, whole=False).figures.swaps == 0
    risky = {**CALM, "reclaims": 0.2}
    assert verdict(rehearse(dried({**SWAP, "risk": 0.05}, risky), "web"), whole=False).figures.swaps == 0
    assert verdict(rehearse(dried({**SWAP, "risk": 0.3}, risky), "web"), whole=False).figures.swaps > 0


def test_spot_moves_to_the_cheapest_zone_where_that_is_chosen():
    apart = {**CALM, "zones": {"north": 0.5}, "spread": 0}
    shock = [{"kind": "no_spot", "at": "2025-07-07T00:00", "for": "2 h", "zone": "north"}]
    steady = {"groups__web__policies": [], "groups__web__minimum": 6, "groups__web__leaving": {"balance_zones": False}}
    for choose, where in (("cheapest", {0}), ("balanced", {0, 1, 2})):
        plan = made(shock, apart, **steady, groups__web__buying={**BUYING, "choose": choose, "swap": SWAP})
        there = rehearse(plan, "web").result.instances
        kept = there[np.isnan(there["gone"]) & (there["kind"] == 1)]
        assert set(kept["zone"].tolist()) <= where
        assert len(kept) == 4


def test_a_pinned_one_stays():
    rehearsal = rehearse(dried(groups__web__leaving={"pinned": 8}), "web")
    pinned = rehearsal.result.instances["pinned"]
    assert pinned.sum() > 0
    assert not pinned[rows(rehearsal, EventKind.SWAP_ENDS)["before"]].any()


def test_the_journal_says_what_comes_in_whose_place_and_what_that_saves():
    rehearsal = rehearse(dried(), "web")
    told = [event.text for event in events(rehearsal, frozenset({"swap begins", "swapped", "leaves"}))]
    assert any("comes as spot in" in text and "an hour in the place of instance" in text and "% less" in text for text in told)
    assert any("serves in the place of instance" in text for text in told)
    assert any("leaves: a cheaper one serves in its place" in text for text in told)
    words = next(s for s in group_page(rehearsal.crew, "EUR").sections if s.key == "runs").sentences
    assert any("Every 10 min one is swapped for spot that saves 15 % of its price or more" in one.text for one in words)


def test_swaps_that_do_not_pay_for_their_overlap_are_found():
    """A market that takes back within the half hour what it has just sold, to those that boot for long."""
    wild = {**SPOT, "reclaims": 4, "spread": 0.02, "level": 0.8}
    slow = {"templates__front__boot_time": "20 min"}
    rehearsal = rehearse(dried({**SWAP, "risk": 9, "saves": 0.1}, wild, **slow), "web")
    buying = {**BUYING, "caps": {"risk": 9}, "swap": {**SWAP, "risk": 9, "saves": 0.1}}
    rehearsal = rehearse(
        made(DRY, wild, **slow, groups__web__policies=[], groups__web__minimum=8, groups__web__buying=buying), "web"
    )
    assert len(rows(rehearsal, EventKind.SWAP_BEGINS))
    found = next(one for one in check(rehearsal, None) if one.code == "swaps-dear")
    assert found.mend.settings == {"buying.swap": None}
    assert "swaps-dear" not in [one.code for one in check(rehearse(dried(), "web"), None)]


def test_lived_is_rehearsed_through_swaps():
    life = lived_alike(dried(), "web", 2)
    assert int(life.state.now["swaps"][0]) > 0
    assert not life.remarks, "a swap is nothing that the keeper wonders at"


@pytest.mark.parametrize("swap", [{"every": 5}, {"saves": 0}, {"saves": 1.2}, {"at_once": 0}, {"risk": 0}, {"often": 3}])
def test_what_cannot_be_is_refused(swap):
    with pytest.raises(PlanError, match="swap"):
        dried(swap)
