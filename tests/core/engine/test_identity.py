"""Names of instances, and those that are kept: zone and disk wait for the next who bears one."""

from decimal import Decimal

import numpy as np
import pytest

from jostle.core.checks.check import check
from jostle.core.costs.ledger import ledger
from jostle.core.costs.part import DETACHED
from jostle.core.costs.price import bills, total
from jostle.core.engine.code import Billed
from jostle.core.journal.event import events
from jostle.core.journal.life import life_of
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.name import given_name
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.spend import spend_rate
from jostle.core.rehearsal.verdict import verdict
from jostle.live.span import lived
from tests.core.engine.test_spot import made
from tests.plans import ADD, REMOVE

KEPT = {"names": "{group}-{zone}-{number}", "kept": True, "attach_time": "40 s"}
FAULTS = {"every": "6 h"}


def holders(identity, days=2, **given):
    """A group whose instances break, come and go."""
    settings = {
        "groups__web__policies": [ADD, REMOVE],
        "groups__web__faults": FAULTS,
        "groups__web__buying": None,
        "groups__web__identity": identity,
        "groups__web__calendar": [
            {"name": "day", "kind": "floor", "from": "2025-07-07T08:00", "until": "18:00", "count": 7, "repeat": "FREQ=DAILY"}
        ],
        "prices__disk_gib_month": "0.1",
        "templates__front__disk_gib": 40,
    }
    return made(days=days, **settings | given)


def lives(rehearsal):
    """Name, begin, serving and end of each start, in the order of launches."""
    rows = rehearsal.result.lives
    return [(given_name(rehearsal, int(row["instance"])), row) for row in rows]


def test_names_follow_their_pattern_and_are_told_everywhere():
    rehearsal = rehearse(holders({"names": "{group}-{zone}-{number}-{tail}"}), "web", 3)
    result = rehearsal.result
    names = [given_name(rehearsal, who) for who in range(int(result.tally("launched")))]
    assert len(set(names)) == len(names)
    assert names[0].startswith("web-north-1-")
    assert len(names[0]) == len("web-north-1-") + 6
    assert [name.split("-")[2] for name in names] == [str(1 + n) for n in range(len(names))]
    told = " ".join(one.text for one in events(rehearsal))
    assert names[0] in told
    assert "instance 1 " not in told
    assert life_of(rehearsal, 0).title == names[0]


def test_a_number_is_given_again_once_nobody_bears_it():
    rehearsal = rehearse(holders({"used_again": True}), "web", 3)
    most = max(int(given_name(rehearsal, who).split("-")[1]) for who in range(int(rehearsal.result.tally("launched"))))
    assert most <= 12 < int(rehearsal.result.tally("launched"))
    spans = {}
    for name, row in lives(rehearsal):
        end = row["end"] if row["end"] == row["end"] else np.inf
        assert all(row["begin"] >= until or end <= since for since, until in spans.get(name, []))
        spans.setdefault(name, []).append((float(row["begin"]), float(end)))


def test_one_in_the_place_of_another_has_its_name_and_its_zone():
    rehearsal = rehearse(holders(KEPT), "web", 3)
    zones = {}
    for name, row in lives(rehearsal):
        zone = int(rehearsal.result.instances["zone"][row["instance"]])
        assert zones.setdefault(name, zone) == zone
        assert name.split("-")[1] == rehearsal.crew.launch.zones[zone]
    assert len(zones) < int(rehearsal.result.tally("launched")) / 2


def test_its_disk_is_attached_in_so_long_and_paid_for_until_then():
    rehearsal = rehearse(holders(KEPT), "web", 3)
    result, crew = rehearsal.result, rehearsal.crew
    apart = result.spells[result.spells["kind"] == Billed.DETACHED]
    assert len(apart) > 10
    by_hand = Decimal()
    for row in apart:
        end = float(row["end"]) if row["end"] == row["end"] else result.elapsed
        by_hand += Decimal(round((end - float(row["begin"])) * 10**6)) / 10**6 * crew.tariff.disk / 3600
    of_disks = sum(one.amount for one in bills(result, crew) if one.what == DETACHED)
    assert of_disks == pytest.approx(by_hand, abs=Decimal("1e-15"))
    assert of_disks > 0
    whole = total(result, crew)
    assert sum(one.amount for one in bills(result, crew)) == pytest.approx(whole, abs=Decimal("1e-15"))
    assert abs(ledger(result, crew, rehearsal.clock).total() - whole) < Decimal("1e-12")
    assert float(spend_rate(rehearsal).sum()) * rehearsal.clock.tick == pytest.approx(float(whole), rel=1e-4)
    assert result.tally("spend") == pytest.approx(float(whole), rel=1e-4)


def test_the_time_to_attach_comes_beside_the_boot():
    def ready(attach):
        rehearsal = rehearse(holders({**KEPT, "attach_time": attach}, **{"machines__otter-2__boot_spread": 0}), "web", 3)
        rows = rehearsal.result.lives
        begun = rows[(rows["requested"] > 0) & np.isfinite(rows["booted"])]
        took = begun["booted"] - begun["requested"]
        bearers, waited = {}, []
        for name, row in lives(rehearsal):
            bearers.setdefault(name, []).append(row)
        for each in bearers.values():
            waited += [float(row["booted"] - row["requested"]) for row in each[1:] if np.isfinite(row["booted"])]
        return set(np.round(took, 3).tolist()), set(np.round(waited, 3).tolist())

    boots, again = ready("40 s")
    assert again == {max(boots)}
    assert max(boots) - min(boots) == pytest.approx(40)
    assert ready("0 s")[0] == {min(boots)}


def test_a_lost_zone_keeps_its_names_waiting():
    lost = {"kind": "zone_lost", "zone": "north", "at": "2025-07-07T02:00", "for": "3 h"}
    kept, free = (
        rehearse(holders(identity, incidents=[lost], groups__web__faults={}, groups__web__policies=[]), "web", 3).result
        for identity in (KEPT, {"names": "{group}-{number}"})
    )
    at = int(3 * 3600 / kept.setup.tick)
    assert int(kept.series["serving"][at]) == 2
    assert int(free.series["serving"][at]) == 3
    assert int(kept.series["serving"][int(5.5 * 3600 / kept.setup.tick)]) == 3


@pytest.mark.parametrize("disks", ["kept", "deleted"])
def test_the_disk_of_one_that_is_not_wanted_stays_or_is_deleted(disks):
    rehearsal = rehearse(holders({**KEPT, "disks": disks}, groups__web__faults={}), "web", 3)
    apart = (rehearsal.result.spells["kind"] == Billed.DETACHED).sum()
    assert (apart > 0) == (disks == "kept")


@pytest.mark.parametrize("identity", [KEPT, {"used_again": True}, {**KEPT, "disks": "deleted"}])
def test_what_is_lived_is_what_was_rehearsed(identity):
    plan = holders(identity, days=1)
    one, other = (rehearse(plan, "web", 4), lived(plan, "web", 4).record())
    assert verdict(one, whole=False).figures == verdict(other, whole=False).figures
    assert [name for name, _ in lives(one)] == [name for name, _ in lives(other)]


def test_without_an_identity_all_is_as_it_was():
    one, other = (verdict(rehearse(holders(identity), "web"), whole=False).figures for identity in (None, {}))
    assert one == other


def test_the_page_says_it():
    page = group_page(crew_of(holders(KEPT), "web"), "EUR")
    text = {one.key: one.text for part in page.sections for one in part.sentences}
    assert text["identity"] == (
        "Instances are called {group}-{zone}-{number}; one in the place of another keeps its name, zone and disk, "
        "attached in 40 s; the disk of one that is not wanted any more stays, and is paid for."
    )


@pytest.mark.parametrize(
    ("identity", "given", "said"),
    [
        ({"names": "{group}"}, {}, "such names cannot be told apart; write {number} or {tail} in them"),
        ({"names": "{host}-{number}"}, {}, "{host} is no part of a name; there is {group}, {zone}, {number}, {tail}"),
        ({"names": "Web {number}"}, {}, "write lower-case letters, digits and hyphens"),
        ({**KEPT, "attach_time": "10 min"}, {}, "is longer than health checks are patient with a launch: 5 min"),
        (KEPT, {"groups__web__buying": {"swap": {}}}, "leave out the swaps, or keep none"),
    ],
)
def test_bad_identities_are_named(identity, given, said):
    with pytest.raises(PlanError) as refused:
        holders(identity, **given)
    assert said in str(refused.value)


@pytest.mark.parametrize(
    ("code", "identity", "given"),
    [
        ("kept-on-spot", KEPT, {"groups__web__buying": {}}),
        ("kept-leaves-newest", KEPT, {"groups__web__leaving": {"criteria": ["newest"]}}),
        ("kept-in-zones", KEPT, {}),
    ],
)
def test_what_does_not_go_with_kept_names_is_found(code, identity, given):
    found = {one.code for one in check(rehearse(holders(identity, **given), "web"), None)}
    assert code in found
    bare = holders({"names": "{group}-{number}"}, **given)
    assert code not in {one.code for one in check(rehearse(bare, "web"), None)}
