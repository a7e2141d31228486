"""Findings about the load balancer, where things stand, credits and networks."""

import pytest

from jostle.core.change.change import Change
from jostle.core.change.group_change import changed_group
from jostle.core.checks.check import check
from jostle.core.plan.plan import with_group
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import ADD, plan

PLACED = {
    "subnets": {
        "north-a": {"zone": "north", "region": "sound"},
        "west-a": {"zone": "west", "region": "sound"},
        "far-a": {"zone": "far", "region": "isles"},
    },
    "databases": {"bookings": {"subnets": ["north-a"]}, "away": {"subnets": ["far-a"]}, "west": {"subnets": ["west-a"]}},
    "templates__front__subnets": ["north-a"],
    "days": 0.05,
}
FIREWALL = {"firewall": {"inside": {"ports": [9000], "source": "10.0.0.0/8"}}, "templates__front__firewall": ["inside"]}


def findings(**settings):
    rehearsal = rehearse(plan(**settings), "web")
    return rehearsal, {finding.code: finding for finding in check(rehearsal, None)}


@pytest.mark.parametrize(
    ("code", "settings"),
    [
        ("target-shut-out", {**FIREWALL, "groups__web__load_balancer": {"target": 8080}}),
        (
            "zone-unasked",
            {"templates__front__subnets": ["north-a", "west-a"], "groups__web__load_balancer": {"subnets": ["west-a"]}},
        ),
        ("above-baseline", {"machines__otter-2__baseline": 0.3, "groups__web__policies": [ADD]}),
    ],
)
def test_each_is_found_and_mended(code, settings):
    rehearsal, found = findings(**{**PLACED, **settings})
    finding = found[code]
    document = rehearsal.crew.group.model_dump(mode="json", by_alias=True)
    changes = [Change(path=path, value=value) for path, value in finding.mend.settings.items()]
    mended = with_group(rehearsal.plan, "web", changed_group(document, changes, rehearsal.plan.start))
    assert code not in {one.code for one in check(rehearse(mended, "web"), None)}


@pytest.mark.parametrize(
    ("code", "settings"),
    [
        ("regions-apart", {"groups__web__database": "away"}),
        ("regions-apart", {"templates__front__subnets": ["north-a", "far-a"]}),
        ("database-apart", {"groups__web__database": "west"}),
        ("balancer-idle", {"groups__web__load_balancer": {}, "groups__web__work": {"kind": "jobs", "job_seconds": 9}}),
        ("credits-gone", {"machines__otter-2__baseline": 0.1, "machines__otter-2__first_credits": 0}),
        ("network-full", {"machines__otter-2__network_mbit": 1, "groups__web__work__kib_out": 40}),
    ],
)
def test_each_is_found(code, settings):
    assert code in findings(**{**PLACED, **settings})[1]


def test_what_stands_together_is_not_spoken_of():
    sound = findings(
        **{**PLACED, "groups__web__database": "bookings", "groups__web__load_balancer": {"target": 9000}},
        **FIREWALL,
    )[1]
    spoken = {
        "regions-apart",
        "database-apart",
        "zone-unasked",
        "target-shut-out",
        "balancer-idle",
        "network-full",
        "credits-gone",
    }
    assert not spoken & set(sound)


@pytest.mark.parametrize(
    ("settings", "path", "said"),
    [
        ({"groups__web__load_balancer": {"listens": 70000}}, ("load_balancer", "listens"), "65535"),
        ({"groups__web__load_balancer": {"weights": {"7": 0.5}}}, ("load_balancer", "weights"), "versions 1 to 1"),
        ({"groups__web__load_balancer": {"weights": {"1": 1.5}}}, ("load_balancer", "weights"), "1"),
        ({"groups__web__load_balancer": {"subnets": ["nowhere"]}}, ("load_balancer", "subnets"), "no subnet"),
        ({"groups__web__database": "tides"}, ("database",), "no database has this name"),
        ({"machines__otter-2__baseline": 0}, ("otter-2", "baseline"), "greater than 0"),
        ({"machines__otter-2__baseline": 0.2, "machines__otter-2__most_credits": 60}, ("otter-2", "most_credits"), "30 min"),
        ({"machines__otter-2__network_mbit": -1}, ("otter-2", "network_mbit"), "cannot be negative"),
        ({"prices": {"gib_out": -1}}, ("prices", "gib_out"), "0"),
        ({"prices": {"free_gib_out": -1}}, ("prices", "free_gib_out"), "0"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(settings, path, said):
    with pytest.raises(PlanError) as refused:
        plan(**settings)
    problem = refused.value.problems[0]
    assert set(path) <= set(map(str, problem.path))
    assert said in problem.message


def test_an_entry_that_would_have_to_begin_before_the_span_is_found_and_mended():
    early = {"name": "early", "kind": "floor", "count": 3, "from": "2025-07-07T00:01", "for": "2 h", "ready_by": True}
    rehearsal, found = findings(groups__web__calendar=[early], days=0.2)
    assert "begin before the span does" in found["ready-early"].text
    document = rehearsal.crew.group.model_dump(mode="json", by_alias=True)
    changes = [Change(path=path, value=value) for path, value in found["ready-early"].mend.settings.items()]
    mended = with_group(rehearsal.plan, "web", changed_group(document, changes, rehearsal.plan.start))
    assert "ready-early" not in {one.code for one in check(rehearse(mended, "web"), None)}
    later = {**early, "from": "2025-07-07T01:00"}
    assert "ready-early" not in findings(groups__web__calendar=[later], days=0.2)[1]
