"""A group kept over HTTP: what is lived is what was rehearsed, whoever is killed in between."""

import random
from threading import Event, Thread

import httpx2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.plan.place import all_aboard
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.formats.shipped import demo_plan
from jostle.live.afar import Afar, keep_together
from jostle.live.patience import LetGo, Patience
from jostle.provider.client import HttpProvider
from jostle.provider.message import Answered, Fault, Fewer, More, OneAct, Steer
from jostle.provider.provider import NotThere, Refused
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests.patience import PATIENCE
from tests.plans import ADD, REMOVE, plan
from tests.provider.serving import free_port, serving

HOUR = 3600.0
WORKS = {
    "requests": ({"kind": "requests", "cpu_seconds": 0.1}, 30),
    "jobs": ({"kind": "jobs", "job_seconds": 60}, 0.05),
    "sessions": ({"kind": "sessions", "seats": 20, "length": "8 min"}, 0.12),
}
APART = ("always_peak_cost", "foresight_cost", "promises", "promises_kept")


def lively(kind="requests", hours=3, **more):
    work, rate = WORKS[kind]
    rush = {"kind": "surge", "at": "2025-07-07T00:40", "factor": 3, "hold": "40 min"}
    return plan(
        days=hours / 24,
        subnets={"a": {"zone": "north"}, "b": {"zone": "skerry"}},
        demands__even__layers=[{"kind": "level", "rate": rate}, rush, {"kind": "noise", "spread": 0.1}],
        groups__web__work=work,
        groups__web__launch={"subnets": ["a", "b"]},
        groups__web__policies=[ADD, REMOVE],
        groups__web__owned=2,
        groups__web__drain="90 s",
        groups__web__calendar=[{"name": "early", "kind": "floor", "count": 3, "from": "2025-07-07T00:10", "for": "20 min"}],
        groups__web__faults={"every": "3 h", "hung": 0.3},
        **more,
    )


def same(lived, made, seed=1, group="web"):
    """Whether what was lived is what is rehearsed, in every figure."""
    rehearsed = verdict(rehearse(made, group, seed), whole=False).figures.model_dump(mode="json")
    told = lived.model_dump(mode="json")
    assert {name: told[name] for name in told if name not in APART} == {
        name: rehearsed[name] for name in rehearsed if name not in APART
    }


@pytest.mark.parametrize("kind", WORKS)
def test_what_is_lived_over_http_is_what_was_rehearsed(kind):
    made = lively(kind)
    with serving(create_standin(World(made, 5))) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.go_on(3 * HOUR)
        same(kept.figures(), made, 5)


def aboard(hours):
    """The demo's host with its guests for some hours of a Monday morning."""
    demo = demo_plan()
    names = all_aboard(demo, "deck")
    start = demo.start.replace(hour=7)
    return demo.model_copy(update={"start": start, "days": hours / 24, "groups": {name: demo.groups[name] for name in names}})


def all_kept(plan, url, until):
    kept = [Afar(plan, name, HttpProvider(url)) for name in plan.groups]
    keep_together(kept, until)
    return kept


def test_a_host_and_its_guests_over_http_are_what_was_rehearsed():
    made = aboard(1)
    with serving(create_standin(World(made, 2))) as url:
        told = {one.group: one.figures() for one in all_kept(made, url, HOUR)}
        notes = HttpProvider(url).instances("deck")
    for name in made.groups:
        same(told[name], made, 2, name)
    assert sum(one.copies for one in notes) >= 3
    assert told["chat"].cost > 0


def test_a_world_with_a_host_comes_back_from_its_folder_and_goes_on_as_it_would_have(tmp_path):
    made, chance = aboard(1), random.Random(4)
    remembered = {}
    for number in range(4):
        world = World(made, 1, tmp_path)
        with serving(create_standin(world)) as url:
            kept = [
                Afar(made, name, HttpProvider(url), remembered.get(name), keep=lambda note, n=name: remembered.update({n: note}))
                for name in made.groups
            ]
            keep_together(kept, HOUR if number == 3 else chance.uniform(0, HOUR / 4) + kept[0].provider.clock().groups["deck"])
            if number == 1:
                world.snapshot()
            if number == 3:
                for one in kept:
                    same(one.figures(), made, 1, one.group)


class KeeperDiesError(Exception):
    pass


def dies(*args):
    raise KeeperDiesError


def test_a_keeper_killed_at_drawn_instants_orders_nothing_twice():
    made, chance = lively(), random.Random(3)
    with serving(create_standin(World(made))) as url:
        notes = []
        kept = Afar(made, "web", HttpProvider(url), keep=notes.append)
        for turn in range(20):
            kept.go_on(chance.uniform(0, 3 * HOUR / 20) + kept.provider.clock().groups["web"])
            if turn % 3:
                # It dies after its orders: before it remembers them, or before its answer.
                whose, act = ((kept, "keep"), (kept.provider, "answer"))[turn % 3 - 1]
                setattr(whose, act, dies)
                with pytest.raises(KeeperDiesError):
                    kept.go_on(3 * HOUR)
            kept = Afar(made, "web", HttpProvider(url), notes[-1] if notes else None, keep=notes.append)
        kept.go_on(3 * HOUR)
        same(kept.figures(), made)


def test_a_world_that_is_dropped_at_drawn_instants_comes_back_from_its_folder(tmp_path):
    made, chance = lively("sessions"), random.Random(4)
    notes = [None]
    for number in range(6):
        with serving(create_standin(World(made, 1, tmp_path))) as url:
            kept = Afar(made, "web", HttpProvider(url), notes[-1], keep=notes.append)
            kept.go_on(3 * HOUR if number == 5 else chance.uniform(0, HOUR) + kept.provider.clock().groups["web"])
            if number == 5:
                same(kept.figures(), made)


def test_a_provider_that_is_away_is_waited_for_and_nothing_is_done_twice(tmp_path):
    made, port, away = lively(), free_port(), []
    gone = Event()

    def lost(said):
        away.append(said)
        gone.set()

    with serving(create_standin(World(made, 1, tmp_path)), port) as url:
        kept = Afar(made, "web", HttpProvider(url), patience=Patience(3 * PATIENCE, lost))
        kept.go_on(HOUR)
    keeping = Thread(target=kept.go_on, args=(3 * HOUR,), daemon=True)
    keeping.start()
    assert gone.wait(PATIENCE)
    with serving(create_standin(World(made, 1, tmp_path)), port):
        keeping.join(3 * PATIENCE)
        assert not keeping.is_alive()
        same(kept.figures(), made)
    assert len(away) == 1
    assert "cannot be reached" in away[0]
    kept.patience = Patience(0.0)
    with pytest.raises(ConnectionError):
        kept.go_on(3 * HOUR)


def test_a_group_is_kept_as_the_clock_goes_until_it_is_let_go():
    made, world = lively(), None
    world = World(made)
    with serving(create_standin(world)) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.provider.clock(pace=3600)
        keeping = Thread(target=pytest.raises, args=(LetGo, kept.keep_on), daemon=True)
        keeping.start()
        lived = World(made).places["web"].ground.ends
        while world.places["web"].ground.time < lived:
            assert keeping.is_alive()
            with world.changed:
                world.changed.wait(1)
        kept.patience.over.set()
        keeping.join(PATIENCE)
        assert not keeping.is_alive()
        assert kept.stood.time == pytest.approx(3 * HOUR, abs=kept.every)
        assert any(": add" in said for _, said in kept.lines)
        same(kept.figures(), made)


def test_a_keeper_that_comes_late_takes_what_is_there():
    made, notes = lively(), []
    with serving(create_standin(World(made))) as url:
        kept = Afar(made, "web", HttpProvider(url), keep=notes.append)
        kept.go_on(HOUR)
        there = kept.provider.counts("web").present
        assert there != kept.crew.group.first_count
        assert Afar(made, "web", HttpProvider(url)).keeper.wanted == there
        # What another version remembered in another form is not read.
        other = notes[-1]._replace(before=b"", after=b"")
        assert Afar(made, "web", HttpProvider(url), other).keeper.wanted == there


def test_snapshots_stand_for_what_went_before(tmp_path):
    made = lively("requests")
    world = World(made, 1, tmp_path)
    notes = []
    with serving(create_standin(world)) as url:
        kept = Afar(made, "web", HttpProvider(url), keep=notes.append)
        kept.go_on(HOUR)
        world.fault(Fault(kind="slow_boots", group="web", length=600, amount=3))
        world.snapshot()
        kept.go_on(2 * HOUR)
        before = kept.figures()
    back = World(made, 1, tmp_path)
    assert len(list(tmp_path.iterdir())) == 2
    with serving(create_standin(back)) as url:
        again = Afar(made, "web", HttpProvider(url), notes[-1])
        assert again.figures() == before
        again.go_on(3 * HOUR)
        assert again.figures().served > before.served
    with pytest.raises(PlanError, match="was written for another plan or seed"):
        World(made, 2, tmp_path)


@pytest.mark.parametrize("lacks", [False, True])
def test_a_snapshot_of_another_form_is_refused_and_left_as_it_was(tmp_path, lacks):
    made = lively("requests")
    World(made, 1, tmp_path).snapshot()
    kept = tmp_path / "snapshot.npz"
    with np.load(kept) as found:
        arrays = {name: found[name] for name in found.files}
    now = arrays.pop("web/now")
    np.savez(kept, **(arrays if lacks else {**arrays, "web/now": now[list(now.dtype.names[1:])]}))
    before = kept.read_bytes()
    with pytest.raises(PlanError, match="was written by another version of Jostle; name another folder"):
        World(made, 1, tmp_path)
    assert kept.read_bytes() == before


def test_a_line_that_was_never_finished_is_left_out(tmp_path):
    made = lively()
    world = World(made, 1, tmp_path)
    world.set_clock(60, None)
    world.more("web", More(key="one", number=1))
    log = next(tmp_path.glob("*.jsonl"))
    whole = log.read_bytes()
    log.write_bytes(whole + b'{"k":"more","g":"web","t":60.0,"b":{"key":"two","num')
    back = World(made, 1, tmp_path)
    assert back.more("web", More(key="one", number=1)) is True
    assert back.more("web", More(key="two", number=1)) is False
    assert back.places["web"].ground.counts().present == world.places["web"].ground.counts().present + 1
    assert log.read_bytes().startswith(whole)


def test_a_full_disk_does_nothing_and_says_so(tmp_path, monkeypatch):
    import os

    world = World(lively(), 1, tmp_path)
    world.set_clock(60, None)
    before = world.places["web"].ground.counts()
    real = os.write
    monkeypatch.setattr(os, "write", lambda file, line: real(file, line[: len(line) // 2]))
    with serving(create_standin(world)) as url:
        refused = httpx2.post(f"{url}/groups/web/more", json={"key": "k", "number": 2}, timeout=PATIENCE)
        assert refused.status_code == 507
        assert "nothing was done" in refused.json()["detail"]
        monkeypatch.undo()
        assert world.places["web"].ground.counts() == before
        assert httpx2.post(f"{url}/groups/web/more", json={"key": "k", "number": 2}, timeout=PATIENCE).json()["again"] is False
    back = World(lively(), 1, tmp_path)
    assert back.places["web"].ground.counts() == world.places["web"].ground.counts()


def test_an_answer_that_is_lost_is_asked_for_again_under_its_key():
    world = World(lively())
    world.set_clock(60, None)
    before = world.places["web"].ground.counts().present
    world.fault(Fault(kind="lost_answer", group="web", length=30))
    with serving(create_standin(world)) as url:
        provider = HttpProvider(url)
        with pytest.raises(ConnectionError, match="took too long"):
            provider.more("web", "k", 2, -1)
        assert provider.counts("web").present == before + 2
    with pytest.raises(ConnectionError):
        provider.counts("web")


def test_a_zone_lost_and_refusals_are_lived_through():
    made = lively()
    world = World(made)
    with serving(create_standin(world)) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.go_on(0.4 * HOUR)
        world.fault(Fault(kind="zone_lost", group="web", zone="north", length=900))
        world.fault(Fault(kind="no_capacity", group="web", length=900))
        kept.go_on(0.6 * HOUR)
        assert {one.zone for one in kept.provider.instances("web") if one.state == "serving"} == {1}
        kinds = [event.kind for _, event, _ in world.happened("web", 0)]
        assert {"incident", "refused"} <= set(kinds)
        kept.go_on(3 * HOUR)
        assert "taken" in [event.kind for _, event, _ in world.happened("web", 0)]


def test_the_demand_is_steered_and_meters_are_late_or_silent():
    made = lively()
    world = World(made)
    plain, steered = rehearse(made, "web").result, None
    with serving(create_standin(world)) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.go_on(0.25 * HOUR)
        world.steer(Steer(group="web", factor=2, length=1200))
        kept.go_on(1 * HOUR)
        steered = world.places["web"].record().result
        ticks = slice(100, 200)
        assert steered.arrivals[ticks].sum() == pytest.approx(2 * plain.arrivals[ticks].sum(), rel=0.05)
        assert steered.arrivals[:80].sum() == plain.arrivals[:80].sum()
        known = len(kept.provider.readings("web", 0).metered)
        world.fault(Fault(kind="late_readings", group="web", length=600, amount=300))
        kept.provider.clock()
        assert len(kept.provider.readings("web", 0).metered) == known - 5
        world.fault(Fault(kind="silent_meters", group="web", length=600))
        assert len(kept.provider.readings("web", 0).metered) == 0
        before = kept.keeper.wanted
        kept.go_on(1.1 * HOUR)
        assert kept.keeper.wanted == before


@pytest.mark.parametrize(
    ("path", "body", "status", "said"),
    [
        ("/groups/nobody/more", {"key": "k", "number": 1}, 404, "there is no group nobody; there is: web"),
        ("/groups/web/more", {"key": "", "number": 1}, 422, "key"),
        ("/groups/web/more", {"key": "k", "number": 10**9}, 422, "number"),
        ("/groups/web/instances/77", {"key": "k", "act": "pin"}, 404, "there is no instance 78"),
        ("/groups/web/instances/0", {"key": "k", "act": "polish"}, 422, "act"),
        ("/groups/web/answered", {"time": 7200}, 409, "is due at 60 s, and it is 0 s"),
        ("/groups/web/answered", {"time": "soon"}, 422, "time"),
        ("/faults", {"kind": "zone_lost", "group": "web", "zone": "moon"}, 409, "it has zones north, skerry"),
        ("/faults", {"kind": "zone_lost", "group": "web"}, 409, "say which zone is lost"),
        ("/load", {"group": "web", "factor": -1, "length": 60}, 422, "factor"),
        ("/clock", {"pace": 99999}, 422, "pace"),
    ],
)
def test_what_cannot_be_is_refused_in_words(path, body, status, said):
    with serving(create_standin(World(lively()))) as url:
        refused = httpx2.post(f"{url}{path}", json=body, timeout=PATIENCE)
    assert refused.status_code == status
    assert refused.headers["content-type"] == "application/problem+json"
    assert said in refused.json()["detail"]


def test_another_plan_is_not_kept_by_mistake():
    made = lively()
    with serving(create_standin(World(made))) as url:
        with pytest.raises(Refused, match="is not that of the plan"):
            Afar(plan(groups__web__evaluate_every="2 min"), "web", HttpProvider(url))
        with pytest.raises(NotThere, match="has no group jetty"):
            HttpProvider(url).instances("jetty")


@settings(max_examples=15)
@given(data=st.data())
def test_whatever_is_ordered_comes_back_from_the_log(data, tmp_path_factory):
    """Drawn orders, faults and stops: the world that comes back from its folder is the one that went."""
    made, folder = lively(hours=1), tmp_path_factory.mktemp("world")
    world = World(made, 1, folder)
    for number in range(data.draw(st.integers(1, 12))):
        what = data.draw(st.sampled_from(["on", "more", "fewer", "kill", "fault", "steer", "snapshot", "back"]))
        there = [one.number for one in world.places["web"].ground.instances() if one.state in ("booting", "serving", "warming")]
        key = f"order {number}"
        if what == "on":
            place = world.places["web"]
            world.set_clock(place.ground.time + data.draw(st.sampled_from([10.0, 60.0, 300.0])), None)
            while place.due and place.ground.time < world.goal:
                world.answer("web", Answered(time=place.ground.time))
        elif what == "more":
            world.more("web", More(key=key, number=data.draw(st.integers(0, 3))))
        elif what == "fewer" and there:
            world.fewer("web", Fewer(key=key, leaving=[{"number": data.draw(st.sampled_from(there))}]))
        elif what == "kill" and there:
            world.one("web", data.draw(st.sampled_from(there)), OneAct(key=key, act="kill"))
        elif what == "fault":
            kind = data.draw(st.sampled_from(["no_capacity", "slow_boots", "silent_meters"]))
            world.fault(Fault(kind=kind, group="web", length=120))
        elif what == "steer":
            world.steer(Steer(group="web", factor=2, length=120))
        elif what == "snapshot":
            world.snapshot()
        back = World(made, 1, folder)
        assert back.places["web"].ground.instances() == world.places["web"].ground.instances()
        assert back.places["web"].record().result.events.tolist() == world.places["web"].record().result.events.tolist()
        if what == "back":
            world = back
    numbers = [one.number for one in world.places["web"].ground.instances()]
    assert len(set(numbers)) == len(numbers)


def test_a_page_from_elsewhere_neither_steers_nor_listens():
    with serving(create_standin(World(lively("requests"), 1))) as url:
        foreign = {"Origin": "http://elsewhere.example"}
        with httpx2.Client(base_url=url, trust_env=False) as client:
            before = client.get("/clock").json()
            for method, path in (("POST", "/groups/web/more"), ("GET", "/clock"), ("GET", "/events")):
                refused = client.request(
                    method, path, headers=foreign, json={"key": "k", "number": 1} if method == "POST" else None
                )
                assert refused.status_code == 403
                assert "another site's page" in refused.json()["detail"]
            assert client.get("/clock").json() == before
