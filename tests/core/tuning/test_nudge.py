"""How close trouble is: what breaks first, and when."""

from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.core.tuning.nudge import nudges
from tests.plans import ADD, plan

STEADY = {
    "demands__even__layers": [{"kind": "level", "rate": "30/s"}],
    "groups__web__start_count": 2,
    "groups__web__minimum": 2,
    "groups__web__maximum": 2,
    "groups__web__promises": [{"kind": "answers", "share": "95 %", "within": "1 s"}],
}


def told(made):
    return {one.kind: one for one in nudges(made, "web", Rehearser())}


def test_the_demand_that_breaks_it_is_found():
    found = told(plan(**STEADY))
    demand = found["demand"]
    assert not demand.holds
    held, broke = (float(part.split(" %")[0].split()[-1]) / 100 for part in demand.text.split(";"))
    for more, kept in ((held, True), (broke, False)):
        scaled = plan(**{**STEADY, "demands__even__layers": [{"kind": "level", "rate": 30 * (1 + more)}]})
        judged = verdict(rehearse(scaled, "web"))
        assert all(promise.kept for promise in judged.promises) is kept, more
    assert found["boots"].holds
    assert "zone" not in found


def test_room_to_grow_holds_to_the_last_step():
    roomy = plan(**{**STEADY, "groups__web__maximum": 10, "groups__web__policies": [{**ADD, "threshold": "50 %"}]})
    assert told(roomy)["demand"].text == "It holds to 40 % more demand at the least."


def test_what_is_broken_as_it_is_says_so_and_nothing_else():
    broken = plan(**{**STEADY, "groups__web__maximum": 1, "groups__web__minimum": 1, "groups__web__start_count": 1})
    found = nudges(broken, "web", Rehearser())
    assert [one.kind for one in found] == ["as it is"]
    assert "Mon 7 Jul" in found[0].text


def test_a_lost_zone_breaks_what_has_no_room():
    surge = {"kind": "surge", "at": "2025-07-07T12:00", "factor": 1.2, "hold": 3600}
    zones = {
        "subnets": {"a": {"zone": "north"}, "b": {"zone": "skerry"}},
        "groups__web__launch": {"subnets": ["a", "b"]},
        "demands__even__layers": [{"kind": "level", "rate": "26/s"}, surge],
        "groups__web__promises": [{"kind": "answers", "share": "99.99 %", "within": "2 s"}],
    }
    zone = told(plan(**{**STEADY, **zones}))["zone"]
    assert not zone.holds
    assert zone.text.startswith("With zone north lost for an hour at the busiest time it breaks Mon 7 Jul 1")
