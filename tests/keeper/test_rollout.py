"""A version brought in while a group lives: by hand, by the calendar of an arrangement, and at a provider elsewhere."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.api.live_view import group_life
from jostle.core.decide.code import Phase
from jostle.core.journal.event import events
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.live.afar import Afar
from jostle.live.live import Begun, Live
from jostle.provider.client import HttpProvider
from jostle.provider.provider import Refused
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests.core.engine.test_rollout import released
from tests.keeper.test_hands import is_sound
from tests.plans import ADD, REMOVE
from tests.provider.serving import serving
from tests.provider.test_afar import same

HOUR = 3600.0


def begun(second=None, calendar=(), **more):
    """A group of eight on its first version that lives for half a day."""
    made = released(second, groups__web__calendar=list(calendar), **more)
    return Live.begin(made, Begun(at=made.start, days=0.5), Rehearser())


def versions(life):
    """Of those that serve."""
    return sorted(one.version for one in life.ground.instances() if one.state == "serving")


def told(life):
    return [event.text for event in events(life.record(), frozenset({"rollout", "hand"}))]


def test_a_hand_brings_a_version_in_and_its_say_is_heard():
    live = begun()
    life = live.life("web")
    live.go_on(live.now + HOUR)
    assert group_life(life).versions == [2]
    live.lay("web", {"act": "roll out", "version": 2, "canary": False})
    live.go_on(live.now + 600)
    shown = group_life(life)
    assert shown.versions == []
    assert shown.rollout.text.startswith("version 2 brought in: a batch")
    assert 2 in versions(life)
    live.lay("web", {"act": "pause rollout"})
    held = versions(life)
    live.go_on(live.now + HOUR)
    assert group_life(life).rollout.held
    assert abs(versions(life).count(2) - held.count(2)) <= 1
    live.lay("web", {"act": "go on with rollout"})
    live.go_on(live.now + 2 * HOUR)
    assert versions(life) == [2] * 8
    assert told(life)[-1] == "by-hand-1 is done: all are of version 2"
    assert group_life(life).rollout is None
    assert group_life(life).versions == [1]
    for act, said in (
        ({"act": "stop rollout"}, "no rollout of web is under way"),
        ({"act": "roll out", "version": 2}, "runs version 2 already"),
        ({"act": "begin entry", "entry": "by-hand-1"}, "is a rollout"),
    ):
        with pytest.raises(Refused, match=said):
            live.lay("web", act)


def test_a_hand_stops_one_and_turns_it_back():
    live = begun()
    life = live.life("web")
    live.lay("web", {"act": "roll out", "version": 2, "canary": False})
    live.go_on(live.now + 1200)
    live.lay("web", {"act": "stop rollout"})
    live.go_on(live.now + HOUR)
    assert group_life(life).rollout.stopped
    assert set(versions(life)) == {1, 2}
    live.lay("web", {"act": "turn rollout back"})
    live.go_on(live.now + HOUR)
    assert versions(life) == [1] * 8
    assert told(life)[-1] == "by-hand-1 is back: all are of version 1 again"


def test_a_bad_version_is_caught_by_the_canary_of_a_hand():
    live = begun({"failures": "5 %"})
    life = live.life("web")
    live.lay("web", {"act": "roll out", "version": 2})
    live.go_on(live.now + HOUR)
    assert versions(life) == [1] * 8
    assert "its canary does worse" in told(life)[-2]


def test_another_arrangement_in_the_midst_of_one_goes_on_with_it_or_ends_it():
    entry = {"name": "next", "kind": "rollout", "from": "2025-07-07T02:00", "to": 2, "pause": "30 min"}
    live = begun(calendar=[entry])
    life = live.life("web")
    live.go_on(live.now + 2.4 * HOUR)
    there = versions(life)
    assert set(there) == {1, 2}
    document = life.leg.crew.group.model_dump(mode="json", by_alias=True)
    live.lay("web", {"act": "put to work", "arrangement": 2, "document": {**document, "minimum": 9, "start_count": None}})
    assert group_life(life).rollout.name == "next"
    live.go_on(live.now + 4 * HOUR)
    assert versions(life) == [2] * 9
    assert told(life).count("next is done: all are of version 2") == 1
    live.lay(
        "web", {"act": "put to work", "arrangement": 3, "document": {**document, "calendar": [], "version": 2, "minimum": 10}}
    )
    live.go_on(live.now + HOUR)
    assert versions(life) == [2] * 10


def test_a_version_of_another_shape_joins_what_was_lived():
    live = begun({"cpu_factor": 0.5}, groups__web__policies=[ADD, REMOVE])
    life = live.life("web")
    live.go_on(live.now + HOUR)
    late = life.record().result.late_requests(0.5)
    live.lay("web", {"act": "roll out", "version": 2, "canary": False})
    assert life.record().result.late_requests(0.5) == pytest.approx(late, rel=1e-3)
    live.go_on(live.now + 3 * HOUR)
    assert set(versions(life)) == {2}
    result = life.record().result
    told_for = result.tally("served") + result.tally("failed") + result.tally("backlog")
    assert float(result.arrivals.sum()) == pytest.approx(told_for, rel=1e-6, abs=2)


ACTS = st.sampled_from(
    [
        {"act": "roll out", "version": 2},
        {"act": "roll out", "version": 2, "canary": False},
        {"act": "roll out", "version": 1, "canary": False},
        *(
            {"act": act}
            for act in ("pause rollout", "go on with rollout", "stop rollout", "turn rollout back", "hold", "release")
        ),
        *({"act": act} for act in ("leave alone", "keep again", "dry run", "act again")),
        {"act": "set", "count": 10},
        {"act": "set", "count": 3},
        {"act": "kill", "instance": 9},
        {"act": "pin", "instance": 2},
    ]
)


@settings(max_examples=8)
@given(st.lists(st.tuples(st.sampled_from([60, 300, 1200]), ACTS), min_size=2, max_size=14))
def test_drawn_hands_leave_nothing_behind(acts):
    live = begun({"failures": "4 %"}, groups__web__minimum=2, groups__web__start_count=8)
    life = live.life("web")
    for wait, act in acts:
        live.go_on(live.now + wait)
        try:
            live.lay("web", act)
        except Refused:
            continue
        counts = life.ground.counts()
        assert counts.present == sum(one.present for one in counts.versions) or not counts.versions
    life.kept, life.keeper.held, life.keeper.dry = True, False, False
    if life.state.memory.row.rollout[0] >= 0:
        how = life.state.memory.rollouts[int(life.state.memory.row.rollout[0])]
        live.lay("web", {"act": "go on with rollout"}) if how.held or how.phase == Phase.STOPPED else None
    live.go_on(live.now + 4 * HOUR)
    is_sound(life, list(events(life.record())))
    assert int(life.state.memory.row.rollout[0]) == -1
    assert len(set(versions(life))) == 1


@pytest.mark.parametrize("second", [{"failures": "3 %"}, {"cpu_factor": 1.2}])
def test_at_a_provider_elsewhere_it_goes_as_it_was_rehearsed(second):
    metric = "cpu" if "cpu_factor" in second else "failed_share"
    canary = {"count": 1, "of": "instances", "watch": "20 min", "at_least": 20, "metric": metric}
    made = released(second, days=0.17, canary=canary)
    with serving(create_standin(World(made, 5))) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.go_on(0.17 * 24 * HOUR)
        same(kept.figures(), made, 5)
        said = [text for _, text in kept.lines if text.startswith("next")]
        assert said[0] == "next begins: version 2 in the place of 1, a canary of 1 instance first"
        assert said[1:] == [event.text for event in events(rehearse(made, "web", 5), frozenset({"rollout"}))][1:]
        with pytest.raises(Refused, match="version 7 is not known here"):
            kept.provider.more("web", "strange", 1, -1, 7)
        counts = kept.provider.counts("web")
    assert [one.version for one in counts.versions] == [1, 2]
    assert counts.versions[0].answers > 1000


def test_a_provider_that_tells_no_versions_leaves_a_canary_unclear():
    made = released({"failures": "9 %"}, days=0.2, canary={"count": 1, "of": "instances", "watch": "10 min"})
    live = Live.begin(made, Begun(at=made.start, days=0.2), Rehearser())
    life = live.life("web")
    counts = life.ground.counts
    life.ground.counts = lambda: counts()._replace(versions=())
    live.go_on(live.now + 4 * HOUR)
    assert "cannot be told" in told(life)[-1]
    assert versions(life) == sorted([1] * 7 + [2])
    assert np.isfinite(life.record().result.series["cpu"]).any()
