"""A load balancer whose port no firewall rule lets in: nothing gets through, and its members say why."""

import pytest

from jostle.core.engine.code import EventKind
from jostle.core.journal.behind import behind
from jostle.core.journal.event import events
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.live.live import Begun, Live
from tests.plans import ADD, plan

RULES = {"web": {"ports": [443], "source": "0.0.0.0/0"}, "inside": {"ports": [8080], "source": "10.0.0.0/8"}}
LB = {"basis": "load_balancer", "interval": "20 s", "unhealthy_after": 3, "grace": "10 min"}


def made(rules=("web",), check="/ready", **more):
    settings = {
        "days": 0.25,
        "firewall": RULES,
        "templates__front__firewall": list(rules),
        "templates__front__health_check": check,
        "groups__web__load_balancer": {"target": 8080},
        "groups__web__minimum": 2,
        "groups__web__policies": [ADD],
    }
    return plan(**settings | more)


def test_nothing_gets_through_and_every_member_says_why():
    found = rehearse(made(), "web")
    told = behind(found, found.result)
    assert told.wrong == "web does not let port 8080 in"
    assert told.healthy.startswith("0 of ")
    assert {one.standing for one in told.members} == {"fails"}
    assert all("shut out since " in one.said and "web does not let port 8080 in" in one.said for one in told.members)
    assert float(found.result.series["served"].sum()) == 0.0
    assert found.result.series["failed"][-100:].sum() > 0
    lines = [event.text for event in events(found, frozenset(("broke",)))]
    assert lines == ["instance 1 fails its checks: web does not let port 8080 in", *lines[1:]]


@pytest.mark.parametrize(("rules", "check"), [(("web", "inside"), "/ready"), (("web", "inside"), "/ready on 443")])
def test_where_a_rule_lets_it_in_all_serve(rules, check):
    found = rehearse(made(rules, check), "web")
    told = behind(found, found.result)
    assert told.wrong == ""
    assert {one.standing for one in told.members} == {"serves"}


def test_a_check_on_a_port_of_its_own_that_is_shut_fails_them_too():
    found = rehearse(made(("inside",), "/ready on 443"), "web")
    told = behind(found, found.result)
    assert told.wrong == "inside does not let port 443 in"
    assert found.result.series["serving"][-1] == 0


def test_by_the_checks_of_the_load_balancer_they_are_replaced_without_end():
    found = rehearse(made(groups__web__health=LB), "web")
    rows = found.result.events
    assert (rows["kind"] == EventKind.INSTANCE_REPLACED).sum() > 10
    assert found.result.series["serving"][-1] == 0


def test_a_rule_that_is_added_is_seen_at_once_by_the_same_rehearser():
    rehearser = Rehearser()
    shut, open_to_it = rehearser.rehearse(made(), "web"), rehearser.rehearse(made(("web", "inside")), "web")
    assert shut.result.series["serving"][-1] == 0 < open_to_it.result.series["serving"][-1]
    assert rehearser.rehearse(made(), "web").result.series["serving"][-1] == 0


def test_jobs_and_groups_without_a_load_balancer_do_not_mind():
    jobs = {"groups__web__work": {"kind": "jobs", "job_seconds": 9}, "groups__web__policies": []}
    assert rehearse(made(**jobs), "web").result.series["serving"][-1] == 2
    assert rehearse(made(groups__web__load_balancer=None), "web").result.series["serving"][-1] >= 2


@pytest.mark.parametrize("health", [{}, LB])
def test_it_is_lived_as_it_was_rehearsed(health):
    plan_made = made(groups__web__health=health)
    live = Live.begin(plan_made, Begun(at=plan_made.start, days=plan_made.days, seed=1), Rehearser())
    live.go_on(live.ends)
    lived, rehearsed = live.life("web").record().result, rehearse(plan_made, "web").result
    assert lived.series.tobytes() == rehearsed.series.tobytes()
