"""An edit acts on what is there when it comes, and on nothing that it does not name."""

import pytest

from jostle.core.change.change import Change
from jostle.core.change.group_change import changed_group
from jostle.core.plan.plan import with_group
from jostle.core.plan.problem import PlanError
from tests.plans import ADD, plan

BANDS = [{"beyond": 0.8, "amount": 2}, {"beyond": 0.9, "amount": 4}]
NIGHTS = {"name": "nights", "kind": "sleep", "from": "2025-07-07T19:00", "for": 3600, "repeat": "FREQ=WEEKLY;BYDAY=MO,TU,FR"}


def changed(made, *changes):
    document = changed_group(made.groups["web"].model_dump(mode="json"), [Change(**one) for one in changes], made.start)
    return with_group(made, "web", document).groups["web"]


def test_each_band_that_is_taken_out_is_the_last_of_those_that_are_left():
    made = plan(groups__web__policies=[{**ADD, "bands": BANDS}])
    less = {"op": "remove", "path": "policies.add.bands"}
    assert [band.beyond for band in changed(made, less).policies[0].bands] == [0.8]
    assert changed(made, less, less).policies[0].bands == []
    with pytest.raises(PlanError, match="no band to take out any more"):
        changed(made, less, less, less)


def test_each_band_that_is_added_lies_beyond_the_last_up_to_a_most():
    made = plan(groups__web__policies=[ADD])
    more = {"op": "add", "path": "policies.add.bands"}
    bands = changed(made, *[more] * 8).policies[0].bands
    assert [band.beyond for band in bands] == sorted({band.beyond for band in bands})
    assert [band.amount for band in bands] == list(range(bands[0].amount, bands[0].amount + 8))
    with pytest.raises(PlanError, match="the most there may be"):
        changed(made, *[more] * 9)


def test_days_that_are_not_named_stay_as_they_are():
    made = plan(groups__web__calendar=[NIGHTS])
    without_friday, with_sunday = (
        {"path": "calendar.nights.repeat", "value": value} for value in ({"out": ["FR"]}, {"in": ["SU"]})
    )
    assert changed(made, without_friday, with_sunday).calendar[0].repeat == "FREQ=WEEKLY;BYDAY=MO,TU,SU"
    until = {"path": "calendar.nights.repeat", "value": {"in": [], "last": "2025-08-01"}}
    ended = changed(made, until, without_friday).calendar[0].repeat
    assert ended.startswith("FREQ=WEEKLY;BYDAY=MO,TU;UNTIL=20250801")
    nothing = {"path": "calendar.nights.repeat", "value": {"out": ["MO", "TU", "FR"]}}
    assert changed(made, nothing).calendar[0].repeat is None


def test_a_promise_is_taken_out_by_what_it_says():
    made = plan(groups__web__promises=[{"kind": "answers", "share": 0.95, "within": 0.4}, {"kind": "serving", "at_most": 600}])
    first = made.groups["web"].promises[0].model_dump(mode="json")
    cost = {"kind": "cost", "at_most": 70.0}
    more, less = {"op": "add", "path": "promises", "value": cost}, {"op": "remove", "path": "promises", "value": first}
    left = changed(made, more, less).promises
    assert [one.kind for one in left] == [*(one.kind for one in made.groups["web"].promises[1:]), "cost"]
    with pytest.raises(PlanError, match="none of the promises any more"):
        changed(made, less, less)


@pytest.mark.parametrize(("path", "value", "start"), [("minimum", 4, 4), ("maximum", 2, 2), ("minimum", 1, 3), ("maximum", 9, 3)])
def test_the_starting_count_goes_with_the_ends_that_pass_it(path, value, start):
    made = plan(groups__web__minimum=1, groups__web__maximum=6, groups__web__start_count=3)
    assert changed(made, {"path": path, "value": value}).start_count == start
