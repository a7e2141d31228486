"""A plan that lives: hands do what they say, and after a stop everything is as it was."""

from datetime import datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from jostle.core.plan.plan import with_version
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.demo import MIX
from jostle.formats.shipped import demo_plan
from jostle.live.life import Life
from jostle.live.live import Begun, Live
from jostle.provider.provider import Refused
from tests.plans import only

DEMO = demo_plan()
MORNING = 10 * 3600.0


def begun(groups=("booking-web",), days=3.0, at="2025-07-08T00:00"):
    plan = only(DEMO, *groups)
    return Live.begin(plan, Begun(at=datetime.fromisoformat(at), days=days), Rehearser())


@pytest.fixture
def live():
    made = begun()
    made.go_on(made.first + MORNING, quickly=True)
    return made


def serving(live, group="booking-web"):
    return [one for one in live.life(group).ground.instances() if one.state == "serving"]


def later(live, seconds):
    live.go_on(live.now + seconds)


def test_a_count_that_a_hand_sets_is_ordered_at_once(live):
    life = live.life("booking-web")
    before = life.keeper.wanted
    done = live.lay("booking-web", {"act": "set", "count": before + 4})
    assert done.text == f"count set to {before + 4}"
    assert life.keeper.wanted == before + 4
    assert sum(one.state in ("booting", "serving") for one in life.ground.instances()) == before + 4


def test_a_killed_instance_is_replaced_and_with_one_fewer_it_is_not(live):
    life = live.life("booking-web")
    live.lay("booking-web", {"act": "hold"})
    wanted, victim = life.keeper.wanted, serving(live)[0].number
    live.lay("booking-web", {"act": "kill", "instance": victim + 1})
    assert victim not in [one.number for one in life.ground.instances() if one.state != "gone"]
    later(live, 300)
    assert len(serving(live)) == wanted
    live.lay("booking-web", {"act": "kill", "instance": serving(live)[0].number + 1, "one_fewer": True})
    later(live, 300)
    assert len(serving(live)) == life.keeper.wanted == wanted - 1


def test_a_pinned_instance_stays_whatever_leaves(live):
    kept = serving(live)[0].number
    live.lay("booking-web", {"act": "pin", "instance": kept + 1})
    live.lay("booking-web", {"act": "set", "count": 3})
    later(live, 600)
    assert kept in [one.number for one in serving(live)]
    live.lay("booking-web", {"act": "unpin", "instance": kept + 1})
    assert not next(one for one in serving(live) if one.number == kept).pinned


def test_an_instance_is_restarted_drained_and_loaded(live):
    life = live.life("booking-web")
    first, second, third = (one.number for one in serving(live)[:3])
    live.lay("booking-web", {"act": "restart", "instance": first + 1})
    live.lay("booking-web", {"act": "drain", "instance": second + 1})
    live.lay("booking-web", {"act": "load", "instance": third + 1, "cpu": 0.5, "for": 300})
    states = {one.number: one.state for one in life.ground.instances()}
    assert (states[first], states[second], states[third]) == ("booting", "draining", "serving")
    later(live, 60)
    by_number = {one.number: one for one in life.ground.instances()}
    others = [one.cpu for one in by_number.values() if one.state == "serving" and one.number != third and one.cpu]
    assert by_number[third].cpu > max(others)


def test_a_paused_policy_and_a_held_group_leave_the_count_alone_and_go_on_in_time():
    live = begun(days=4, at="2025-07-10T00:00")
    life = live.life("booking-web")
    live.go_on(live.first + 11.9 * 3600, quickly=True)
    wanted = life.keeper.wanted
    live.lay("booking-web", {"act": "pause", "for": 1200})
    later(live, 1140)
    assert life.keeper.wanted == wanted, "all policies are paused"
    live.lay("booking-web", {"act": "hold"})
    later(live, 600)
    assert life.keeper.wanted == wanted, "the group is held, its policies work again"
    assert not life.paused
    live.lay("booking-web", {"act": "release"})
    later(live, 600)
    assert life.keeper.wanted > wanted


def test_an_arrangement_is_put_to_work_at_the_next_evaluation(live):
    life = live.life("booking-web")
    document = DEMO.groups["booking-web"].model_dump(mode="json") | {"minimum": 20, "start_count": None}
    live.lay("booking-web", {"act": "put to work", "arrangement": 2, "document": document})
    later(live, 60)
    assert life.keeper.wanted >= 20
    assert [leg.arrangement for leg in life.legs] == [1, 2]
    assert life.leg_at(life.time - 120).arrangement == 1
    for leg in life.legs:
        assert len(life.record(leg).result.decisions) == round(life.time / 60)
    other = document | {"work": {**document["work"], "cpu_seconds": 1.0}}
    with pytest.raises(PlanError, match="cannot change while the group lives"):
        live.lay("booking-web", {"act": "put to work", "arrangement": 3, "document": other})


@pytest.mark.parametrize(
    ("hand", "said"),
    [
        ({"act": "kill", "instance": 4000}, "no instance 4000"),
        ({"act": "pause", "policy": "none"}, "has no policy none"),
        ({"act": "load", "instance": 1}, "is draining"),
    ],
)
def test_what_cannot_be_done_is_refused_in_words(live, hand, said):
    first = serving(live)[0].number + 1
    live.lay("booking-web", {"act": "drain", "instance": first})
    hand = {**hand, "instance": first} if hand["act"] == "load" else hand
    with pytest.raises(Refused, match=said):
        live.lay("booking-web", hand)
    with pytest.raises(ValidationError):
        live.lay("booking-web", {"act": "set", "count": -1})
    with pytest.raises(Refused, match="no group quay"):
        live.lay("quay", {"act": "hold"})


HANDS = st.sampled_from(
    [
        {"act": "set", "count": 12},
        {"act": "set", "count": 1},
        {"act": "hold"},
        {"act": "release"},
        {"act": "pause", "for": 900},
        {"act": "resume"},
        {"act": "leave alone"},
        {"act": "keep again"},
        {"act": "silence"},
        {"act": "speak"},
        {"act": "kill"},
        {"act": "drain", "one_fewer": True},
        {"act": "restart"},
        {"act": "pin"},
        {"act": "unpin"},
        {"act": "load", "cpu": 0.7, "for": 600},
    ]
)


@settings(max_examples=15)
@given(st.lists(st.tuples(HANDS, st.integers(0, 3), st.sampled_from([0, 10, 370, 1800])), min_size=1, max_size=12), st.data())
def test_whatever_hands_do_a_stop_loses_nothing_and_the_count_keeps_its_limits(hands, data):
    live = begun(days=1.0)
    live.go_on(live.first + MORNING, quickly=True)
    life = live.life("booking-web")
    for hand, which, after in hands:
        if hand["act"] in ("kill", "drain", "restart", "pin", "unpin", "load"):
            there = serving(live)
            if not there:
                continue
            hand = {**hand, "instance": there[which % len(there)].number + 1}
        live.lay("booking-web", hand)
        later(live, after)
        pinned = [one.number for one in life.ground.instances() if one.pinned]
        counts = life.ground.counts()
        assert 3 <= life.keeper.wanted <= 40
        assert counts.present <= 41 + len(pinned)
    again = begun(days=1.0)
    again.replay(live.log, live.now)
    other = again.life("booking-web")
    for part in ("decisions", "events", "series", "instances", "spells"):
        assert getattr(life.record().result, part).tobytes() == getattr(other.record().result, part).tobytes(), part
    assert life.keeper.memory.row.tobytes() == other.keeper.memory.row.tobytes()


def test_what_is_likely_leaves_what_was_lived_alone(live):
    life: Life = live.life("booking-web")
    before = life.record().result.decisions.tobytes()
    ahead = life.likely(6 * 3600)
    assert len(ahead.result.decisions) == round((life.time + 6 * 3600) / 60)
    assert life.record().result.decisions.tobytes() == before
    assert ahead.result.decisions[: len(life.record().result.decisions)].tobytes() == before
    change = live.next_change()
    assert change is not None
    wanted = life.keeper.wanted
    live.go_on(change - 60)
    assert life.keeper.wanted == wanted
    live.go_on(change)
    assert life.keeper.wanted != wanted


def test_a_protected_instance_is_not_ended_by_hand():
    newest = DEMO.templates["web-front"].versions[-1]
    plan = with_version(DEMO, "web-front", newest.model_copy(update={"protected": True}))
    live = Live.begin(plan, Begun(at=plan.start, days=1), Rehearser())
    with pytest.raises(Refused, match="protected against being ended by hand, as its template says; drain it, or set the count"):
        live.lay("booking-web", {"act": "kill", "instance": 1})
    live.lay("booking-web", {"act": "drain", "instance": 1})
    assert [done.hand["act"] for done in live.log] == ["drain"]


def test_a_group_comes_to_buy_spot_while_it_lives_and_cannot_forget_it(live):
    life = live.life("booking-web")
    document = DEMO.groups["booking-web"].model_dump(mode="json")
    before = life.spent()
    live.lay("booking-web", {"act": "put to work", "arrangement": 2, "document": document | {"buying": MIX, "minimum": 20}})
    later(live, 3600)
    spot = [one for one in life.ground.instances() if one.spot]
    assert spot
    assert all(0 < one.price < 0.118 for one in spot)
    assert sum(int(crew["billed"]) for crew in life.state.crews) == life.state.now["billed"][0]
    assert life.spent() > before
    assert {entry.part.purchase for entry in life.ledger().entries} >= {"spot", "on-demand"}
    again = Live.begin(live.plan, live.begun, Rehearser())
    again.replay(live.log, live.now)
    assert again.life("booking-web").spent() == life.spent()
    with pytest.raises(PlanError, match="buy all on demand instead, by a share of 100 %"):
        live.lay("booking-web", {"act": "put to work", "arrangement": 3, "document": document})
    several = {"types": ["otter-2", "otter-4"]}
    with pytest.raises(PlanError, match="cannot change while the group lives"):
        live.lay("booking-web", {"act": "put to work", "arrangement": 3, "document": document | {"buying": MIX | several}})
