import json

import pytest
from jsonschema import Draft202012Validator

from jostle.core.plan.place import Place
from jostle.core.plan.plan import Plan, read_plan, with_group
from jostle.core.plan.problem import PlanError, validated
from jostle.core.plan.setting import setting, with_setting
from tests.plans import ADD, HOLD, data, plan


def problems(document):
    with pytest.raises(PlanError) as caught:
        read_plan(document)
    return {problem.place: problem.message for problem in caught.value.problems}


def test_start_is_wall_clock_time_of_the_plans_zone():
    assert plan().start.isoformat() == "2025-07-07T00:00:00+01:00"
    assert plan(start="2025-01-07T00:00").start.isoformat() == "2025-01-07T00:00:00+00:00"
    assert plan(start="2025-07-07T00:00-03:00").start.isoformat() == "2025-07-07T00:00:00-03:00"


def test_several_errors_come_at_once_each_with_its_place():
    found = problems(
        data(
            groups__web__maximum=0,
            groups__web__policies=[{**ADD, "threshold": 70}],
            machines={"otter-2": {"vcpus": "two", "memory_gib": 8, "price_per_hour": "free"}},
            time_zone="Atlantic/Nowhere",
        )
    )
    assert set(found) == {
        "groups.web.maximum",
        "groups.web.policies.0.threshold",
        "machines.otter-2.vcpus",
        "machines.otter-2.price_per_hour",
        "time_zone",
    }
    assert "did you mean 70 %?" in found["groups.web.policies.0.threshold"]


def test_an_unknown_field_is_named_with_the_one_that_was_meant():
    assert problems(data(groups__web__policies=[{**ADD, "cooldwn": 3}])) == {
        "groups.web.policies.0.cooldwn": "is not a field here; did you mean cooldown?"
    }


@pytest.mark.parametrize(("was", "now"), [("tenancy", "host_use"), ("placement", "nearness"), ("on_shutdown", "if_it_stops")])
def test_what_was_called_otherwise_before_is_named_as_it_is_now(was, now):
    said = f"is not a field here; did you mean {now}?"
    assert problems(data(groups__web__launch={was: "apart"})) == {f"groups.web.launch.{was}": said}
    found = problems(data(templates__front={"machine": "otter-2", was: "apart"}))
    assert list(found.values()) == [said]


@pytest.mark.parametrize(
    "path",
    ["days", "machines.otter-2.speed", "machines.otter-2.memory_gib", "templates.front.boot_time", "groups.web.work.cpu_seconds"],
)
@pytest.mark.parametrize("value", [1e-308, 1e-12])
def test_next_to_nothing_is_no_quantity(path, value):
    found = problems(data(**{path.replace(".", "__"): value}))
    assert len(found) == 1
    (message,) = found.values()
    assert "next to nothing" in message or "greater than or equal to 0.001" in message


def test_a_copy_takes_no_less_than_a_thousandth():
    with pytest.raises(PlanError, match=r"vcpus: 1e-308: that is next to nothing"):
        validated(Place, {"vcpus": 1e-308, "memory_gib": 1})
    with pytest.raises(PlanError, match=r"greater than or equal to 0\.001"):
        validated(Place, {"vcpus": 1, "memory_gib": "0.0001"})


def test_a_policy_without_kind_or_of_an_unknown_kind():
    nameless = {k: v for k, v in ADD.items() if k != "kind"}
    assert "is missing" in problems(data(groups__web__policies=[nameless]))["groups.web.policies.0.kind"]
    found = problems(data(groups__web__policies=[{**ADD, "kind": "magnet"}]))
    assert "'trigger', 'hold', 'spare'" in found["groups.web.policies.0.kind"]


@pytest.mark.parametrize(
    ("path", "value", "place", "said"),
    [
        ("groups.web.template", "frnt", "groups.web.template", "no launch template has this name; there is: front"),
        ("groups.web.demand", "odd", "groups.web.demand", "no demand has this name; there is: even"),
        ("templates.front.machine", "otter-9", "templates.front.machine", "there is: otter-2"),
        ("groups.web.evaluate_every", "45 s", "groups.web.evaluate_every", "whole multiple of the tick of 10 s"),
        ("groups.web.meters.period", "25 s", "groups.web.meters.period", "whole multiple"),
        ("tick", "7 s", "tick", "1, 2, 5, 10, 15, 20, 30 or 60 s"),
        ("groups.web.minimum", 11, "groups.web.maximum", "cannot be below the minimum of 11"),
        ("groups.web.start_count", 11, "groups.web.start_count", "1 to 10"),
        ("days", 401, "days", "400"),
        ("jostle", 2, "jostle", "1"),
        ("currency", "Euro", "currency", "pattern"),
        ("demands.even.layers", [{"kind": "noise", "spread": 0.1}], "demands.even", "needs a level"),
    ],
)
def test_what_does_not_fit_together_is_said(path, value, place, said):
    found = problems(with_setting(data(), path, value))
    assert said in found[place]


def test_a_hold_policy_refuses_a_metric_that_does_not_share_out():
    found = problems(data(groups__web__policies=[{**HOLD, "metric": "latency_p95", "level": "400 ms"}]))
    assert "requests_per_instance" in found["groups.web.policies.0.metric"]


def test_thresholds_are_read_in_the_unit_of_their_metric():
    policies = [
        {**ADD, "name": "a", "metric": "latency_p95", "threshold": "400 ms"},
        {**ADD, "name": "b", "metric": "requests_per_instance", "threshold": "1200/min"},
        {**ADD, "name": "c", "metric": "backlog", "threshold": 50},
    ]
    read = plan(groups__web__policies=policies).groups["web"].policies
    assert [policy.threshold for policy in read] == [0.4, 20.0, 50.0]


def test_two_policies_of_one_name_are_refused():
    assert "called add" in problems(data(groups__web__policies=[ADD, ADD]))["groups.web.policies"]


def test_a_plan_survives_being_written_and_read():
    first = plan(groups__web__policies=[ADD, HOLD])
    assert read_plan(json.loads(first.model_dump_json())) == first


def test_the_published_schema_accepts_the_plan_and_refuses_an_unknown_key():
    validator = Draft202012Validator(Plan.model_json_schema())
    assert validator.is_valid(data(groups__web__policies=[ADD, HOLD]))
    assert not validator.is_valid(data() | {"grups": {}})


def test_a_setting_is_found_by_position_name_or_kind():
    document = data(groups__web__policies=[ADD, HOLD], groups__web__promises=[{"kind": "cost", "at_most": 9}])
    assert setting(document, "groups.web.policies.add.threshold") == "70 %"
    assert setting(document, "groups.web.policies.1.level") == "50 %"
    assert setting(document, "groups.web.promises.cost.at_most") == 9
    changed = with_setting(document, "groups.web.policies.hold.level", "60 %")
    assert setting(changed, "groups.web.policies.hold.level") == "60 %"
    assert setting(document, "groups.web.policies.hold.level") == "50 %"


@pytest.mark.parametrize("path", ["groups.wob.maximum", "groups.web.policies.nobody.level", "name.of.what"])
def test_a_path_that_leads_nowhere_says_what_there_is(path):
    with pytest.raises(PlanError, match=r"there is|leads nowhere"):
        with_setting(data(groups__web__policies=[ADD]), path, 1)


def test_one_group_is_replaced_with_its_problems_named_within_it():
    whole = plan()
    group = data()["groups"]["web"]
    assert with_group(whole, "web", {**group, "maximum": 4}).groups["web"].maximum == 4
    with pytest.raises(PlanError) as caught:
        with_group(whole, "web", {**group, "maximum": "many", "demand": "none"})
    assert {p.place for p in caught.value.problems} == {"maximum", "demand"}


HOST = {"template": "front", "minimum": 1, "maximum": 4, "work": {"kind": "hosting"}}
GUEST = {
    "host": "deck",
    "place": {"vcpus": 0.5, "memory_gib": 2},
    "minimum": 1,
    "maximum": 4,
    "work": {"kind": "jobs", "job_seconds": 5},
    "demand": "even",
}


@pytest.mark.parametrize(
    ("guest", "host", "place", "said"),
    [
        ({"host": "inn"}, {}, "host", "no host has this name; there is: deck"),
        ({"host": "chat"}, {}, "host", "cannot be its own host"),
        ({"host": "web"}, {}, "host", "does requests and carries nobody; there is: deck"),
        ({"place": None}, {}, "place", "say what a copy takes"),
        ({"place": {"vcpus": 0.5, "memory_gib": 9}}, {}, "place.memory_gib", "no host has room for it: otter-2 has 8 GiB"),
        (
            {"place": {"vcpus": 2, "memory_gib": 2}},
            {"work": {"kind": "hosting", "idle_cpu": 0.1}},
            "place.vcpus",
            "1.8 vCPUs for",
        ),
        ({"work": {"kind": "hosting"}}, {}, "work.kind", "a guest cannot be a host"),
        ({"template": "front"}, {}, "template", "leave out the template, or the host"),
        ({"owned": 2}, {}, "owned", "places are not owned"),
        ({"identity": {}}, {}, "identity", "copies have no names of their own"),
        ({"buying": {}}, {}, "buying", "its host buys"),
        ({"demand": ""}, {}, "demand", "name the demand"),
    ],
)
def test_a_guest_that_cannot_be_is_named_with_what_would_do(guest, host, place, said):
    found = problems(data(groups__deck={**HOST, **host}, groups__chat={**GUEST, **guest}))
    assert said in found[f"groups.chat.{place}"]


def test_a_guest_of_a_guest_and_a_host_on_a_shared_quota_are_refused():
    found = problems(data(groups__deck=HOST, groups__chat=GUEST, groups__inner={**GUEST, "host": "chat"}))
    assert found["groups.inner.host"] == "is a guest itself, of deck; name that"
    machine = {"vcpus": 2, "memory_gib": 8, "price_per_hour": 1, "quota": 9}
    found = problems(data(groups__deck=HOST, **{"machines__otter-2": machine}))
    assert "a quota that web draw on too" in found["groups.deck.template"]
    found = problems(data(groups__deck={**HOST, "policies": [{"kind": "spare", "name": "room", "share": 0.2}]}))
    assert "say of what: memory or cpu" in found["groups.deck.policies"]


def test_a_change_of_a_host_is_held_against_its_guests():
    made = plan(groups__deck=HOST, groups__chat=GUEST)
    smaller = {**HOST, "work": {"kind": "hosting", "idle_memory_mib": 7000}}
    with pytest.raises(PlanError, match="no host has room for it"):
        with_group(made, "deck", smaller)
