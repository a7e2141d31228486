"""A week that is lived is the week that was rehearsed, to the last digit: decisions, events, figures, cost."""

import random
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given, settings

from jostle.core.costs.price import total
from jostle.core.journal.event import events
from jostle.core.plan.group import Group
from jostle.core.plan.place import all_aboard
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import attribution, verdict
from jostle.formats.shipped import demo_plan
from jostle.live.hand import OneInstance, PutToWork
from jostle.live.life import Life, begun_together
from tests.core.engine.test_whole_plans import plans, whole_plans

DEMO = demo_plan()


def lived_alike(plan, group, seed, stops=()):
    """Lives through the span of a plan, with those who live together with a group, and compares all that is left of it with its
    rehearsal; returns the group's life."""
    rehearser = Rehearser()
    lives = begun_together(plan, all_aboard(plan, group), {}, seed, rehearser)
    for until, decided in (*stops, (lives[0].clock.seconds, False)):
        lives[-1].go_on(until, decided)
    for life in lives:
        same_as_rehearsed(life.record(), rehearser.rehearse(plan, life.group, seed))
    return next(one for one in lives if one.group == group)


def same_as_rehearsed(lived, rehearsed):
    assert lived.result.decisions.tobytes() == rehearsed.result.decisions.tobytes()
    assert lived.result.views.tobytes() == rehearsed.result.views.tobytes()
    assert lived.result.events.tobytes() == rehearsed.result.events.tobytes()
    assert lived.result.series.tobytes() == rehearsed.result.series.tobytes()
    assert verdict(lived, whole=False) == verdict(rehearsed, whole=False)
    assert attribution(lived) == attribution(rehearsed)


@pytest.mark.parametrize("group", [name for name, group in DEMO.groups.items() if not group.host])
def test_a_week_of_the_demo_or_some_days_of_its_other_groups(group):
    plan = DEMO if group == "booking-web" else DEMO.model_copy(update={"days": 2.0 if group == "deck" else 4.0})
    life = lived_alike(plan, group, 1)
    told = [event.text for event in events(life.record(), frozenset({"count"}))]
    assert told, "a week without a change of count shows nothing"
    assert life.keeper.read == len(life.state.sight.metered)


@pytest.mark.parametrize("group", ["booking-web", "live-track", "deck"])
def test_the_engine_may_decide_for_a_while_and_the_keeper_go_on(group):
    plan = DEMO.model_copy(update={"days": 2.0})
    lived_alike(plan, group, 2, [(43200.0 + 30, True), (86400.0 + 3600, False), (1.5 * 86400.0 + 50, True)])


@settings(whole_plans, max_examples=25)
@given(plans())
def test_drawn_plans(drawn):
    lived_alike(drawn.model_copy(update={"groups": {"web": drawn.groups["web"].model_copy(update={"hands": []})}}), "web", 1)


def hosted(**host):
    """The demo's host with its guests for a day, its instances otherwise."""
    names = ["deck", "chat", "timetable", "weather"]
    groups = {name: DEMO.groups[name] for name in names}
    groups["deck"] = Group.model_validate(groups["deck"].model_dump(by_alias=True, exclude_unset=True) | host)
    return DEMO.model_copy(update={"days": 1.0, "groups": groups})


@pytest.mark.parametrize(
    "host",
    [
        {"faults": {"every": "5 h", "hung": 0.5}},
        {"faults": {"every": "7 h"}, "leaving": {"criteria": ["fewest_copies", "newest"]}, "drain": "3 min"},
        {"minimum": 0, "maximum": 3},
    ],
)
@pytest.mark.parametrize("seed", [1, 2])
def test_a_host_that_breaks_or_is_short_and_its_guests(host, seed):
    chance = random.Random(seed)
    stops = sorted((chance.uniform(0, 80000), chance.random() < 0.5) for _ in range(6))
    lived_alike(hosted(**host), "deck", seed, stops)


def test_what_a_host_and_its_guests_cost_by_the_hour_adds_up_to_the_bills():
    plan, rehearser = hosted(faults={"every": "7 h"}), Rehearser()
    lives = begun_together(plan, all_aboard(plan, "deck"), {}, 3, rehearser)
    lives[0].go_on(43200 + 70, decided=True)
    half = [life.spent() for life in lives]
    lives[0].go_on(86400, decided=True)
    spent = [life.spent() for life in lives]
    assert sum(spent) == pytest.approx(total(lives[0].result, lives[0].leg.crew), abs=Decimal("1e-15"))
    assert all(0 < before < after for before, after in zip(half, spent, strict=True))
    aboard = lives[0].record().aboard
    assert spent[1:] == pytest.approx(list(aboard.shares.guests), rel=Decimal("0.02"))
    books = [life.ledger() for life in lives]
    assert [book.total() for book in books] == spent
    assert all(entry.amount >= 0 for book in books for entry in book.entries)
    later = [life.ledger(43200.0) for life in lives]
    for book, rest in zip(books, later, strict=True):
        assert rest.total() == sum(e.amount for e in book.entries if book.hours[e.hour].begin >= later[0].hours[0].begin)


def test_what_is_foretold_of_a_host_leaves_all_as_it_is():
    plan = hosted()
    lives = begun_together(plan, all_aboard(plan, "deck"), {}, 1, Rehearser())
    lives[0].go_on(36000, decided=True)
    before = [life.result.events.tobytes() for life in lives]
    document = plan.groups["deck"].model_dump(mode="json", by_alias=True) | {"minimum": 6, "start_count": 6}
    hand = PutToWork(act="put to work", arrangement=2, document=document)
    likely = lives[0].foretold(hand, 7200.0)
    assert likely.result.series["desired"][-1 - int((86400 - 43200) / 10)] >= 6
    assert lives[1].likely(3600.0).aboard.names[0] == "deck"
    assert [life.result.events.tobytes() for life in lives] == before
    lives[0].lay(hand)
    assert lives[0].keeper.wanted >= 2
    lives[0].go_on(43200)
    assert lives[0].state.series["serving"][4300] >= 6
    smaller = plan.groups["chat"].model_dump(mode="json", by_alias=True)
    smaller["place"]["memory_gib"] = 0.5
    with pytest.raises(PlanError, match=r"place.*cannot change while the group lives"):
        lives[1].lay(PutToWork(act="put to work", arrangement=2, document=smaller))


def test_an_instance_of_a_host_that_is_killed_takes_its_copies_along_and_they_come_elsewhere():
    plan = hosted()
    lives = begun_together(plan, all_aboard(plan, "deck"), {}, 1, Rehearser())
    host, guests = lives[0], lives[1:]
    host.go_on(36000 + 130)
    carried = {one.number: one.copies for one in host.ground.instances()}
    victim = max(carried, key=carried.get)
    there = {life.group: [one for one in life.ground.instances() if one.host == victim] for life in guests}
    assert carried[victim] == sum(len(some) for some in there.values()) > 0
    host.lay(OneInstance(act="kill", instance=victim + 1))
    host.go_on(36000 + 150)
    for life in guests:
        assert not [one for one in life.ground.instances() if one.host == victim and one.state == "serving"]
    host.go_on(36000 + 1800)
    for life in guests:
        serving = [one for one in life.ground.instances() if one.state == "serving"]
        assert len(serving) == life.keeper.wanted
        assert all(one.host != victim for one in serving)


def test_a_silent_meter_leaves_the_count_as_it_is_and_is_not_zero():
    plan = DEMO.model_copy(update={"days": 4.0})
    life = Life(plan, "booking-web", 1, 1, Rehearser())
    life.go_on(3.49 * 86400, decided=True)
    wanted = life.keeper.wanted
    life.ground.silent = True
    life.go_on(3.53 * 86400)
    assert life.keeper.wanted == wanted, "the release at noon was not seen"
    life.ground.silent = False
    life.go_on(3.54 * 86400)
    assert life.keeper.wanted > wanted
    assert np.isfinite(life.keeper.sight.samples).any()
