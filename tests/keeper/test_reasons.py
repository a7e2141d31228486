"""Why a lived day cost what it did: parts that add up to the last digit, and what was needed of it."""

from datetime import date, datetime
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.costs.price import total
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.live.difference import difference
from jostle.live.live import Begun, Live
from jostle.live.need import BESIDE, MOVING, NEEDED, OVERFLOW, SPARE, all_kept_back, foresight_cost, need
from tests.plans import ADD, REMOVE, plan

MONDAY, TUESDAY = date(2025, 7, 7), date(2025, 7, 8)
DEMAND = [
    {"kind": "level", "rate": "40/s"},
    {"kind": "daily", "points": [{"at": "04:00", "factor": 0.3}, {"at": "12:00", "factor": 1.6}, {"at": "20:00", "factor": 0.8}]},
    {"kind": "noise", "spread": 0.2},
]


def made(**more):
    return plan(
        **{
            "days": 2,
            "demands__even__layers": DEMAND,
            "groups__web__policies": [ADD, REMOVE],
            "groups__web__maximum": 8,
            "groups__web__promises": [{"kind": "answers", "share": "95 %", "within": "800 ms"}],
            "prices": {"disk_gib_month": 0.07, "load_balancer_hour": 0.02},
            "groups__web__load_balancer": {},
            **more,
        }
    )


def lived(made_plan, *acts, until=2.0, alone=()):
    live = Live.begin(made_plan, Begun(at=made_plan.start, days=2, seed=9, left_alone=list(alone)), Rehearser())
    for hour, act in acts:
        live.go_on(live.first + hour * 3600, quickly=True)
        live.lay("web", act)
    live.go_on(live.first + until * 86400, quickly=True)
    return live


def of_day(live, day):
    book = live.lives["web"].ledger()
    inside = {k for k, hour in enumerate(book.hours) if datetime.fromtimestamp(hour.begin, live.plan.zone).date() == day}
    return sum((entry.amount for entry in book.entries if entry.hour in inside), Decimal())


@pytest.fixture(scope="module")
def steered():
    group = made().groups["web"].model_copy(update={"maximum": 6})
    return lived(
        made(),
        (5, {"act": "trouble", "kind": "slow_boots", "amount": 4, "for": 7200}),
        (8, {"act": "put to work", "arrangement": 2, "document": group.model_dump(mode="json")}),
        (14, {"act": "set", "count": 2}),
        (30, {"act": "set", "count": 1}),
    )


@pytest.mark.parametrize("day", [MONDAY, TUESDAY])
def test_the_parts_add_up_and_all_is_explained(steered, day):
    found = difference(steered, "web", day)
    assert found.lived.amount == of_day(steered, day)
    assert found.stages[0].amount + sum(amount for _, amount, _ in found.parts) == found.lived.amount
    assert [what for what, *_ in found.parts] == [
        "the demand that came",
        "boots, faults and prices as they were",
        "arrangements put to work",
        "load and trouble that were tried",
        "hands",
        "not explained",
    ]
    assert found.parts[-1][1:] == (0, 0)
    assert {what for what, amount, _ in found.parts if amount} >= {"the demand that came", "hands"}


def test_what_was_rehearsed_is_the_rehearsal(steered):
    first = difference(steered, "web", MONDAY).stages[0]
    alone = rehearse(made().model_copy(update={"days": 1.0}), "web", 1)
    assert float(first.amount) == pytest.approx(float(total(alone.result, alone.crew)), rel=1e-9)


def test_a_day_under_way_and_a_group_left_alone_are_explained_too():
    live = lived(made(), until=0.6, alone=["web"])
    found = difference(live, "web", MONDAY)
    assert found.parts[-1][1] == 0
    assert {what: amount for what, amount, _ in found.parts}["hands"] != 0


def test_what_was_needed_adds_up_to_what_was_spent(steered):
    life = steered.lives["web"]
    parts = need(life, lambda hour: True)
    assert abs(sum(parts.values()) - life.ledger().total()) < Decimal("1e-18")
    assert set(parts) == {NEEDED, SPARE, OVERFLOW, MOVING, BESIDE}
    assert parts[OVERFLOW] == 0
    assert min(parts[NEEDED], parts[SPARE], parts[MOVING], parts[BESIDE]) > 0


@given(minimum=st.integers(1, 4), owned=st.one_of(st.none(), st.integers(1, 4)), hours=st.integers(1, 20))
@settings(max_examples=8)
def test_the_parts_of_drawn_groups_add_up(minimum, owned, hours):
    live = lived(made(groups__web__minimum=minimum, groups__web__owned=owned), until=hours / 24)
    life = live.lives["web"]
    early = need(life, lambda hour: hour.begin < live.first + 7200)
    late = need(life, lambda hour: hour.begin >= live.first + 7200)
    assert abs(sum(early.values()) + sum(late.values()) - life.ledger().total()) < Decimal("1e-18")
    assert all(amount >= 0 for amount in (*early.values(), *late.values()))


def test_a_group_that_is_always_too_many_has_spare_and_foresight_spends_less():
    live = lived(made(groups__web__policies=[], groups__web__start_count=8, groups__web__minimum=8), until=1)
    life = live.lives["web"]
    parts = need(life, lambda hour: True)
    assert parts[MOVING] == 0
    assert parts[SPARE] > parts[NEEDED]
    assert foresight_cost(life) < life.ledger().total()


def test_sleep_keeps_back_what_the_same_span_would_have_cost_awake():
    night = [{"name": "night", "kind": "sleep", "from": "2025-07-07T00:00", "until": "06:00", "repeat": "FREQ=DAILY"}]
    asleep = made(groups__web__calendar=night)
    (one,) = all_kept_back(lived(asleep, until=1).lives["web"])
    costs = []
    for each in (asleep, made()):
        played = rehearse(each.model_copy(update={"days": 1.0}), "web", 9)
        costs.append(total(played.result, played.crew))
    assert (one.group, one.by, one.amount) == ("web", "sleep", costs[1] - costs[0])
    assert one.amount > 0
    assert all_kept_back(lived(made(), until=1).lives["web"]) == []
