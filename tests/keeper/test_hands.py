"""Whatever hands do, and whatever goes wrong: no order is done twice, no pinned one is taken, nothing is lost sight of."""

from datetime import datetime

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.api.live_journal import journal, standing
from jostle.core.engine.code import Life as Stage
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.live import Begun, Live
from jostle.provider.provider import Refused
from tests.plans import HOLD, plan

QUIET = {"kind": "sleep", "name": "quiet", "from": "2025-07-07T01:00", "for": "40 min"}
SUBNETS = {"a": {"zone": "east"}, "b": {"zone": "west"}}
BUSY = {
    "groups__web__minimum": 2,
    "groups__web__maximum": 8,
    "groups__web__start_count": 4,
    "groups__web__policies": [HOLD],
    "groups__web__drain": "3 min",
    "groups__web__faults": {"every": "3 h", "frozen": "40 %"},
    "groups__web__health": {"basis": "heartbeat"},
    "groups__web__mending": {"restarts": 1},
    "groups__web__calendar": [QUIET],
    "subnets": SUBNETS,
    "templates__front__subnets": ["a", "b"],
}
COUNTS = st.builds(lambda count: {"act": "set", "count": count}, st.integers(0, 12)) | st.builds(
    lambda by: {"act": "change count", "by": by}, st.integers(-3, 3)
)
ONE = st.builds(
    lambda act, number, fewer: {"act": act, "instance": number, "one_fewer": fewer},
    st.sampled_from(["kill", "drain", "restart", "pin", "unpin"]),
    st.integers(1, 9),
    st.booleans(),
)
WHOLE = st.sampled_from(
    [
        *({"act": act} for act in ("hold", "release", "dry run", "act again", "leave alone", "keep again", "pause", "resume")),
        *({"act": act} for act in ("silence", "speak", "end group", "begin again", "stop load")),
        {"act": "act as", "policy": "hold"},
        {"act": "begin entry", "entry": "quiet"},
        {"act": "end entry", "entry": "quiet"},
        {"act": "load service", "clients": 80, "for": 900},
        {"act": "trouble", "kind": "zone_lost", "zone": "west", "for": 600},
        {"act": "trouble", "kind": "no_capacity", "for": 900},
    ]
)
STEPS = st.lists(st.tuples(st.sampled_from([10, 60, 300, 1200]), COUNTS | ONE | WHOLE), min_size=1, max_size=14)


class Watched:
    """Passes everything on to a provider, and sees that no order is given under a key twice."""

    def __init__(self, provider):
        self.provider, self.keys = provider, set()

    def __getattr__(self, name):
        asked = getattr(self.provider, name)

        def ask(group, *given):
            if name in ("more", "fewer", "mend"):
                assert given[0] not in self.keys, f"{given[0]} is ordered twice"
                self.keys.add(given[0])
            return asked(group, *given)

        return ask


def begun(**more):
    made = plan(**(BUSY | more))
    return Live.begin(made, Begun(at=made.start, days=0.4), Rehearser())


def is_sound(life, told):
    """What holds at every instant."""
    group, wanted = life.leg.crew.group, life.keeper.wanted
    asleep = bool(life.keeper.memory.row[0].asleep)
    assert 0 <= wanted <= group.maximum
    assert wanted >= group.minimum or asleep or life.ended
    record = life.record().result
    rows, spells = record.instances, record.spells
    alive = set(life.state.alive[: int(life.state.now["living"][0])].tolist())
    gone = {number for number, row in enumerate(rows) if row["state"] == Stage.GONE}
    assert set(range(len(rows))) - alive <= gone, "one is neither among the living nor gone"
    running = set(spells["instance"][np.isnan(spells["end"])].tolist())
    there = {n for n, row in enumerate(rows) if row["state"] not in (Stage.GONE, Stage.REQUESTED)}
    assert running == there, "what is paid for is what is there"
    changed = record.decisions["decided"] != record.decisions["desired"]
    assert int(changed.sum()) <= sum(line.kind == "count" for line in told)


@settings(max_examples=25)
@given(STEPS)
def test_drawn_hands_faults_and_trouble(steps):
    live = begun()
    life = live.life("web")
    pinned = set()
    for wait, hand in steps:
        life.keeper.provider = Watched(life.keeper.provider)
        live.go_on(live.now + wait)
        states = {one.number: one.state for one in life.ground.instances()}
        asleep = bool(life.keeper.memory.row[0].asleep)
        replaced = {int(row["who"]) for row in life.record().result.events if row["kind"] in (8, 10)}
        assert (
            asleep
            or life.ended
            or {n for n in pinned - replaced if states.get(n) not in ("serving", "booting", "warming")} <= set()
        )
        try:
            live.lay("web", hand)
        except (Refused, PlanError):
            continue
        match hand["act"]:
            case "pin":
                pinned.add(hand["instance"] - 1)
            case "unpin" | "kill" | "drain":
                pinned.discard(hand["instance"] - 1)
            case "end group":
                pinned.clear()
        if asleep:
            pinned.clear()
        is_sound(life, journal(standing(live), False, live.first, 10**6))
    live.go_on(live.now + 60)
    again = begun()
    again.replay(live.log, live.now)
    one, other = (each.life("web").record().result for each in (live, again))
    assert one.decisions.tobytes() == other.decisions.tobytes()
    assert one.events.tobytes() == other.events.tobytes()
    assert again.life("web").ledger().total() == life.ledger().total()


def later(live, seconds):
    live.go_on(live.now + seconds)


def said(live, kind):
    return [line.text for line in journal(standing(live), False, live.first) if line.kind == kind]


def test_a_dry_run_says_what_it_would_do_once_and_orders_nothing():
    live = begun(groups__web__faults={}, groups__web__start_count=2)
    life = live.life("web")
    live.lay("web", {"act": "dry run"})
    later(live, 1800)
    assert life.keeper.wanted == 2
    assert life.record().result.instances["state"].tolist() == [Stage.SERVING] * 2
    assert any(text.startswith("would go from 2 to ") and text.endswith(": hold") for text in said(live, "would"))
    assert len(said(live, "would")) < 10
    live.lay("web", {"act": "act again"})
    later(live, 1200)
    assert life.keeper.wanted > 2


def test_a_dry_run_says_whom_it_would_mend():
    live = begun(groups__web__mending={"restarts": 0})
    live.lay("web", {"act": "dry run"})
    later(live, 6 * 3600)
    assert any(text.startswith("would replace instance ") for text in said(live, "would"))
    assert not said(live, "replaced")


def test_the_keeper_sees_to_what_breaks_and_leaves_alone_what_it_is_not_to_keep():
    live = begun()
    later(live, 9 * 3600)
    assert said(live, "restarts")
    alone = begun()
    alone.lay("web", {"act": "leave alone"})
    later(alone, 9 * 3600)
    assert not said(alone, "restarts")
    assert said(alone, "broke")
    alone.lay("web", {"act": "keep again"})
    assert said(alone, "restarts") + said(alone, "replaced")


def test_what_is_gone_or_there_without_an_order_is_said_and_the_provider_is_followed():
    live = begun(groups__web__faults={}, groups__web__policies=[])
    life = live.life("web")
    later(live, 120)
    life.ground.handle("somebody else", "kill", 0)
    later(live, 60)
    assert said(live, "differs") == [
        "instance 1 is no longer there, and nothing here ordered that; another comes where one is wanted"
    ]
    later(live, 600)
    assert sum(one.state == "serving" for one in life.ground.instances()) == 4
    life.ground.more("somebody else too", 2, -1)
    later(live, 60)
    assert said(live, "differs")[0].startswith("instances 6, 7 are there, and nothing here ordered that")
    later(live, 600)
    assert sum(one.state == "serving" for one in life.ground.instances()) == life.keeper.wanted


def test_a_policy_acts_when_a_hand_says_so():
    live = begun(groups__web__faults={}, groups__web__start_count=2)
    later(live, 300)
    live.lay("web", {"act": "pause"})
    live.lay("web", {"act": "set", "count": 8})
    later(live, 900)
    wanted = live.life("web").keeper.wish(live.life("web").time, 0)
    live.lay("web", {"act": "act as", "policy": "hold"})
    assert live.life("web").keeper.wanted == wanted < 8
    with pytest.raises(Refused, match="asks for nothing else"):
        live.lay("web", {"act": "act as", "policy": "hold"})
    with pytest.raises(Refused, match="has no policy nap; it has hold"):
        live.lay("web", {"act": "act as", "policy": "nap"})


def test_an_entry_begins_and_ends_when_a_hand_says_so():
    live = begun(groups__web__faults={}, groups__web__policies=[])
    life = live.life("web")
    later(live, 300)
    live.lay("web", {"act": "begin entry", "entry": "quiet"})
    later(live, 120)
    assert life.keeper.wanted == 0
    assert life.holding(life.leg.crew.group.calendar[0]) == datetime(2025, 7, 7, 0, 5)
    live.lay("web", {"act": "end entry", "entry": "quiet"})
    later(live, 120)
    assert life.keeper.wanted == 4
    with pytest.raises(Refused, match="quiet does not hold now"):
        live.lay("web", {"act": "end entry", "entry": "quiet"})
    with pytest.raises(Refused, match="has no entry nap in its calendar; it has quiet"):
        live.lay("web", {"act": "begin entry", "entry": "nap"})


def test_a_group_ends_with_its_pinned_and_stopped_ones_and_begins_again():
    live = begun(groups__web__faults={}, groups__web__owned=3, groups__web__policies=[], groups__web__calendar=[])
    life = live.life("web")
    live.lay("web", {"act": "pin", "instance": 1})
    live.lay("web", {"act": "set", "count": 2})
    later(live, 600)
    live.lay("web", {"act": "end group"})
    assert {one.state for one in life.ground.instances()} <= {"draining", "gone"}
    later(live, 600)
    assert life.ground.instances() == []
    spent = life.ledger().total()
    later(live, 3600)
    assert life.ledger().total() == spent
    with pytest.raises(Refused, match="has ended"):
        live.lay("web", {"act": "end group"})
    live.lay("web", {"act": "begin again"})
    later(live, 600)
    assert sum(one.state == "serving" for one in life.ground.instances()) == 2


def test_single_instances_live_apart_and_are_paid_for():
    live = begun(groups__web__faults={})
    later(live, 330)
    launch = live.plan.templates["front"].versions[0].model_dump(mode="json")
    launch = {name: value for name, value in launch.items() if name not in ("note", "author", "made")} | {"boot_time": 40.0}
    hand = {
        "act": "launch singles",
        "count": 2,
        "template": "front",
        "version": 1,
        "launch": launch,
        "instead": {"boot_time": "40 s"},
    }
    done = live.lay("single-1", hand)
    assert done.text == "2 single instances started from front version 1, boot_time 40 s for this launch"
    life = live.life("single-1")
    assert {one.state for one in life.ground.instances()} == {"booting"}, "they are asked for at once"
    later(live, 7200)
    assert [one.state for one in life.ground.instances()] == ["serving", "serving"]
    live.lay("single-1", {"act": "kill", "instance": 1})
    later(live, 1200)
    assert [one.number for one in life.ground.instances()] == [1]
    ran = life.ledger()
    assert float(ran.total()) == pytest.approx(0.36 * (7200 + 8400) / 3600)
    assert "single-1" in live.everyone
    assert "single-1" not in live.lives
    with pytest.raises(Refused, match="there already"):
        live.lay("single-1", hand)
    with pytest.raises(PlanError, match="no machine has this name"):
        live.lay("single-2", hand | {"launch": launch | {"machine": "gull"}})
    again = begun(groups__web__faults={})
    again.replay(live.log, live.now)
    assert again.life("single-1").ledger().total() == ran.total()


def test_a_hold_outlives_another_arrangement():
    live = begun(groups__web__faults={})
    live.lay("web", {"act": "hold"})
    document = live.plan.groups["web"].model_dump(mode="json", by_alias=True) | {"maximum": 9}
    live.lay("web", {"act": "put to work", "arrangement": 2, "document": document})
    assert live.life("web").keeper.held


def test_what_a_start_drops_and_the_market_takes_back_is_no_surprise():
    live = begun(groups__web__faults={}, groups__web__policies=[], groups__web__first_start={"surplus": 2})
    later(live, 1800)
    assert said(live, "surplus")
    assert said(live, "differs") == []
