import json

import pytest
from jsonschema import Draft202012Validator

from jostle.core.plan.plan import Plan, read_plan, with_group
from jostle.core.plan.problem import PlanError
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
