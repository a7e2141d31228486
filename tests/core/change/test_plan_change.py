"""A group renamed or taken out: what names it goes with it, and the plan can still be read."""

from jostle.core.change.plan_change import renamed_group, without_group
from jostle.core.plan.plan import read_plan
from tests.plans import plan

MADE = {
    "groups__web__minimum": 2,
    "budgets": [{"at_most": 500}, {"group": "web", "at_most": 100}],
    "watches": [{"kind": "short"}, {"kind": "at_maximum", "group": "web"}],
}


def test_a_renamed_group_keeps_its_budgets_and_watches():
    renamed = renamed_group(plan(**MADE), "web", "shop")
    again = read_plan(renamed.model_dump(mode="json"))
    assert list(again.groups) == ["shop"]
    assert [one.group for one in (*again.budgets, *again.watches)] == [None, "shop", None, "shop"]


def test_what_is_about_a_group_alone_goes_with_it():
    again = read_plan(without_group(plan(**MADE), "web").model_dump(mode="json"))
    assert again.groups == {}
    assert [one.group for one in (*again.budgets, *again.watches)] == [None, None]
