"""How fast a policy that adds brings a group up."""

import pytest

from jostle.core.journal.climb import climb
from jostle.core.plan.policy import Site
from jostle.core.rehearsal.rehearsal import crew_of
from tests.plans import ADD, REMOVE, plan


def told(policy, **settings):
    crew = crew_of(plan(groups__web__policies=[policy], **settings), "web")
    return climb(crew, crew.group.policies[0])


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        ({"amount": 3}, "4, 7, 10, the maximum, 10 min after the first."),
        ({"amount": 4, "cooldown": "90 s"}, "5, 9, 10, the maximum, 4 min after the first."),
        ({"amount": 20}, "10, the maximum, at once."),
        ({"amount": 100, "of": "percent"}, "2, 4, 8, 10, the maximum, 15 min after the first."),
        ({"amount": 1}, "2, 3, 4, 5, 6, …, 10, the maximum, 40 min after the first."),
    ],
)
def test_counts_and_the_time_to_the_maximum(settings, said):
    assert told({**ADD, **settings}) == f"Fired again and again from 1: {said}"


def test_bands_climb_faster():
    bands = [{"beyond": "80 %", "amount": 3}, {"beyond": "90 %", "amount": 9}]
    assert told({**ADD, "bands": bands}).endswith("; with its largest step 10, the maximum, at once.")


def test_a_ladder_is_fitted_to_the_maximum():
    crew = crew_of(plan(groups__web__policies=[ADD], groups__web__maximum=7), "web")
    policy = crew.group.policies[0]
    ladder = next(act for act in policy.acts(Site(crew.group.work, [], [], 6)) if act.text == "+ ladder").values
    assert [ladder["amount"], *(band["amount"] for band in ladder["bands"])] == [1, 2, 4]
    levels = [band["beyond"] for band in ladder["bands"]]
    assert policy.threshold < levels[0] < levels[1] < 1
    climbs = told({**ADD, **ladder}, groups__web__maximum=7)
    assert climbs.endswith(
        "7, the maximum, 25 min after the first; with its largest step 5, 7, the maximum, 5 min after the first."
    )


def test_what_does_not_add_has_none():
    assert told(REMOVE) is None
    assert told(ADD, groups__web__maximum=1) is None
