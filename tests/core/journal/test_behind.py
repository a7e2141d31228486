"""What stands behind a load balancer: members that join, serve, drain and fail, with what each is given."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jostle.core.journal.behind import behind
from jostle.core.plan.plan import read_plan
from jostle.core.rehearsal.closer import stood_at
from jostle.core.rehearsal.rehearser import rehearse
from tests.core.engine.test_whole_plans import plans
from tests.plans import ADD, REMOVE, plan

DOOR = {"protocol": "http", "listens": 80, "target": 9000}


def door(**changes):
    base = {"days": 0.5, "groups__web__load_balancer": DOOR, "groups__web__minimum": 3, "groups__web__maximum": 9}
    return rehearse(plan(**(base | changes)), "web")


def at(rehearsal, seconds):
    return behind(rehearsal, stood_at(rehearsal, seconds))


def by_standing(told, standing):
    return [one for one in told.members if one.standing == standing]


def test_without_a_balancer_there_is_nothing_behind_it():
    rehearsal = rehearse(plan(days=0.1), "web")
    assert at(rehearsal, 3600) is None


def test_all_that_serve_get_the_same_and_what_comes_in_is_told():
    told = at(door(demands__even__layers=[{"kind": "level", "rate": 30}]), 3600)
    assert told.door == "takes http on 80 from anywhere and hands it on to 9000"
    assert (told.healthy, told.others) == ("3 of 3 healthy", "")
    assert [one.share for one in told.members] == pytest.approx([1 / 3] * 3)
    assert 20 < float(told.comes.split()[0]) < 40
    assert told.refused == "0 failed in the last minute"
    # Ten a second of 0.1 s each with two clerks: a third more than one are there on average (M/M/2), as they are counted now
    assert all(0.9 < float(one.at_work.split()[0]) < 1.8 for one in told.members)
    assert all(one.answers.startswith("p50 ") for one in told.members)


def test_one_that_joins_passes_its_checks_one_after_the_other():
    surge = {"kind": "surge", "at": "2025-07-07T01:00", "factor": 4, "hold": "2 h"}
    rehearsal = door(
        demands__even__layers=[{"kind": "level", "rate": 25}, surge],
        groups__web__policies=[ADD],
        groups__web__health={"basis": "load_balancer", "interval": "20 s", "healthy_after": 3},
    )
    lives = rehearsal.result.lives
    one = lives[lives["requested"] > 3600][0]
    number, serves = int(one["instance"]) + 1, float(one["serves"])
    seen = {}
    for ago in (70, 50, 30, 10):
        (member,) = [member for member in at(rehearsal, serves - ago).members if member.number == number]
        seen[ago] = (member.standing, member.passed, member.checks, member.share)
    assert seen == {70: ("joins", 0, 3, 0.0), 50: ("joins", 0, 3, 0.0), 30: ("joins", 1, 3, 0.0), 10: ("joins", 2, 3, 0.0)}
    (member,) = [member for member in at(rehearsal, serves + 10).members if member.number == number]
    assert (member.standing, member.passed) == ("serves", 3)


def test_one_that_hangs_fails_its_checks_where_they_see_it_and_is_given_work_until_then():
    breaking = {"kind": "breaking", "at": "2025-07-07T01:00", "share": 0.3, "fault": "hung"}
    for basis, sees in (("load_balancer", True), ("machine", False)):
        rehearsal = door(
            demands__even={"layers": [{"kind": "level", "rate": 30}], "incidents": [breaking]},
            groups__web__health={"basis": basis, "interval": "60 s", "unhealthy_after": 3},
        )
        told = at(rehearsal, 3600 + 100)
        (failing,) = by_standing(told, "fails")
        assert failing.said.startswith("its service hangs since 01:00")
        assert failing.share == pytest.approx(1 / 3)
        assert ("which its checks do not see" in failing.said) is not sees
        assert (failing.passed, failing.checks) == ((1, 3) if sees else (3, 3))
        assert "1 failing" in told.others


def test_one_that_drains_is_given_nothing_more_and_says_until_when():
    rehearsal = door(
        demands__even__layers=[{"kind": "level", "rate": 5}],
        groups__web__start_count=6,
        groups__web__policies=[REMOVE],
        groups__web__drain="10 min",
    )
    lives = rehearsal.result.lives
    first = min(float(one["drains"]) for one in lives if one["drains"] == one["drains"])
    told = at(rehearsal, first + 60)
    leaving = by_standing(told, "drains")
    assert leaving
    assert all(one.share == 0.0 and one.said.startswith("drains, until ") for one in leaving)
    assert told.healthy == f"{len(told.members)} of {len(told.members)} healthy"


def test_a_rule_that_shuts_the_port_out_is_named():
    told = at(
        door(
            firewall={"inside": {"ports": [22], "source": "10.0.0.0/8"}},
            templates__front__firewall=["inside"],
        ),
        600,
    )
    assert told.wrong == "inside does not let port 9000 in"


@settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plans(), st.floats(0.02, 1))
def test_shares_are_all_that_comes_in(made, part):
    group = made.groups["web"]
    if group.hosts or group.host is not None:
        return
    document = made.model_dump(mode="json")
    document["groups"]["web"]["load_balancer"] = DOOR
    rehearsal = rehearse(read_plan(document), "web", 2)
    told = at(rehearsal, part * made.days * 86400)
    shares = sum(one.share for one in told.members)
    serving = by_standing(told, "serves")
    assert shares == pytest.approx(1.0 if serving or shares else 0.0)
    assert all(0 <= one.passed <= one.checks and 0 <= one.share <= 1 + 1e-9 for one in told.members)
    assert told.healthy.endswith(f"of {len(told.members)} healthy")
