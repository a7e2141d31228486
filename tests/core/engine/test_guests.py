import copy
from collections import Counter
from decimal import Decimal
from itertools import accumulate

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.costs.price import total
from jostle.core.costs.sharing import shares
from jostle.core.decide.code import NOBODY
from jostle.core.engine.carrying import aboard, host_of, numbered, run_aboard, sail
from jostle.core.engine.code import Billed, EventKind, Refusal
from jostle.core.engine.result import Result
from jostle.core.engine.roster import Roster
from jostle.core.plan.place import all_aboard
from jostle.core.plan.plan import read_plan
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.formats.shipped import demo_plan
from tests.independent.market_hall import Hall, Stall
from tests.plans import BASE

DAY = 86400.0


def at(hours):
    return f"2025-07-07T{int(hours):02}:{int(hours % 1 * 60):02}"


def counts(*steps):
    """Hands that set a count at each of these hours."""
    return [{"kind": "set", "at": at(hour), "count": count} for hour, count in steps]


def guest(vcpus, memory, minimum=1, **other):
    place = {"vcpus": vcpus, "memory_gib": memory, "start_time": 10, **other.pop("place", {})}
    work = {"kind": "requests", "cpu_seconds": "10 ms", "arrivals": "evenly"}
    meters = {"period": "60 s", "delay": "30 s"}
    found = {"host": "deck", "place": place, "minimum": minimum, "maximum": 40, "work": work, "demand": "even"}
    return {**found, "drain": 0, "meters": meters, **other}


def deck(guests, zones=("a",), **host):
    """A plan with a host of 4 vCPUs and 16 GiB and its guests."""
    made = copy.deepcopy(BASE)
    made["machines"] = {"otter-4": {"vcpus": 4, "memory_gib": 16, "price_per_hour": "0.24"}}
    made["subnets"] = {f"in-{zone}": {"zone": zone} for zone in zones}
    made["templates"] = {"hall": {"machine": "otter-4", "boot_time": "100 s", "subnets": list(made["subnets"])}}
    made["demands"] = {
        "even": {"layers": [{"kind": "level", "rate": "20/s"}]},
        "none": {"layers": [{"kind": "level", "rate": 0}]},
    }
    made["groups"] = {
        "deck": {
            "template": "hall",
            "minimum": 2,
            "maximum": 12,
            "work": {"kind": "hosting"},
            "demand": "none",
            "drain": "10 min",
        },
        **guests,
    }
    made["groups"]["deck"].update(host)
    return made


def played(made, seed=1):
    rehearser = Rehearser()
    plan = read_plan(made)
    return {name: rehearser.rehearse(plan, name, seed) for name in plan.groups}


def on_hosts(rehearsal, time):
    """How many copies were on each host at a time (s)."""
    result = rehearsal.result
    spells = result.spells
    there = (spells["begin"] <= time) & ~(spells["end"] <= time)
    return Counter(int(host) for host in result.instances["host"][spells["instance"][there]])


def test_spread_puts_copies_apart_and_pack_fills_the_fullest_host():
    put = {put: guest(1, 2, 4, place={"put": put}) for put in ("spread", "pack")}
    made = deck({"other": guest(0.5, 1, 1), **put}, zones=("a", "b"))
    found = played(made)
    assert on_hosts(found["spread"], 3600) == {0: 2, 1: 2}
    assert on_hosts(found["other"], 3600) == {0: 1}
    # The host with `other` is the fullest; it has room for one more copy of one vCPU
    assert on_hosts(found["pack"], 3600) == {0: 1, 1: 2}
    assert found["pack"].result.series["serving"][360] == 3
    assert found["deck"].result.series["waiting"][360] == 1


def test_a_copy_waits_until_a_host_has_a_place_for_it_and_that_is_what_its_group_is_short_of():
    trigger = {"kind": "trigger", "name": "more", "metric": "without_place", "side": "above", "threshold": 0, "window": "60 s"}
    more = {**trigger, "action": "add", "amount": 1, "cooldown": "5 min", "fold": "latest"}
    made = deck({"web": guest(1, 5, 6, start_count=6, hands=counts((6, 8)))}, policies=[more])
    found = played(made)
    web, host = found["web"].result, found["deck"].result
    assert web.series["serving"][2160 - 1] == 6
    refused = web.events[web.events["kind"] == EventKind.LAUNCH_REFUSED][0]
    assert (refused["who"], refused["before"], refused["after"]) == (Refusal.MEMORY, 2, 1024)
    # Metered at 6:01, known half a minute later, asked for at 6:02; then a boot of 100 s and a start of 10 s
    took = web.events[web.events["kind"] == EventKind.LAUNCH_TAKEN]["time"][0] - 6 * 3600
    assert took == 220
    assert web.series["serving"][-1] == 8
    assert host.series["serving"][-1] == 3
    assert host.series["waiting"].max() == 2
    assert host.series["waiting"][-1] == 0
    assert found["web"].result.lives["serves"][-1] - 6 * 3600 == 230


def test_vcpus_are_what_is_missing_where_the_memory_is_there():
    web = played(deck({"web": guest(3, 1, 2, hands=counts((6, 3)))}))["web"].result
    refused = web.events[web.events["kind"] == EventKind.LAUNCH_REFUSED][0]
    assert (refused["who"], refused["before"], refused["after"]) == (Refusal.VCPUS, 1, 1000)


def test_the_copies_of_a_host_that_leaves_start_elsewhere_first():
    made = deck({"web": guest(1, 2, 6)}, minimum=1, start_count=3, hands=counts((6, 2)))
    found = played(made)
    web, host = found["web"].result, found["deck"].result
    moved = web.events[web.events["kind"] == EventKind.COPY_MOVED]
    assert len(moved) == 2
    assert (moved["time"] - 6 * 3600 <= 20).all()
    assert web.series["serving"].min() == 6
    gone = host.instances[~np.isnan(host.instances["gone"])]
    assert len(gone) == 1
    assert gone["gone"][0] - 6 * 3600 <= 60
    assert not (web.events["kind"] == EventKind.COPY_LOST).any()


def test_where_there_is_no_room_elsewhere_copies_stay_until_the_drain_is_over():
    made = deck({"web": guest(1, 8, 4)}, minimum=1, start_count=2, hands=counts((6, 1)))
    found = played(made)
    web, host = found["web"].result, found["deck"].result
    assert web.series["serving"][2160 + 50] == 4
    lost = web.events[web.events["kind"] == EventKind.COPY_LOST]
    assert len(lost) == 2
    assert (lost["time"] == 6 * 3600 + 600).all()
    assert web.series["serving"][-1] == 2
    assert host.series["waiting"][-1] == 2


def test_a_host_that_breaks_loses_its_copies_at_once():
    incident = {"kind": "breaking", "at": at(6), "share": 0.3}
    made = deck({"web": guest(1, 2, 3)}, minimum=3, start_count=3)
    made["demands"]["none"]["incidents"] = [incident]
    found = played(made)
    web = found["web"].result
    lost = web.events[web.events["kind"] == EventKind.COPY_LOST]
    assert len(lost) == 1
    assert lost["time"][0] == 6 * 3600
    assert web.series["serving"][2160] == 2
    assert web.series["serving"][2160 + 12] == 3


def test_the_host_with_the_fewest_copies_leaves_first():
    made = deck({"web": guest(1, 2, 4, place={"put": "pack"})}, minimum=1, start_count=3, hands=counts((6, 2)))
    made["groups"]["deck"]["leaving"] = {"criteria": ["fewest_copies"]}
    found = played(made)
    web, host = found["web"].result, found["deck"].result
    gone = np.flatnonzero(~np.isnan(host.instances["gone"]))
    assert on_hosts(found["web"], 3600) == {0: 4}
    assert len(gone) == 1
    assert gone[0] != 0
    assert not (web.events["kind"] == EventKind.COPY_MOVED).any()


def test_room_for_the_loss_of_a_host_is_known_at_every_instant():
    found = played(deck({"web": guest(1, 5, 3, hands=counts((6, 4)))}, minimum=2))
    series = found["deck"].result.series
    # Two hosts have places for three copies each: three in all find room on one of them, the fourth does not
    assert series["taken"][2000] == 0
    assert series["taken"][-1] == 1


def test_a_host_is_as_busy_as_its_copies():
    found = played(deck({"web": guest(1, 2, 4)}, work={"kind": "hosting", "idle_cpu": 0.05}))
    web, host = found["web"].result, found["deck"].result
    each = float(web.series["cpu"][4000])
    assert host.series["cpu"][4000] == pytest.approx(0.05 + 4 * each / 8, rel=1e-6)


def test_with_no_host_nothing_is_placed_and_a_trigger_brings_the_first():
    trigger = {"kind": "trigger", "name": "more", "metric": "without_place", "side": "above", "threshold": 0, "window": "60 s"}
    more = {**trigger, "action": "add", "amount": 1, "cooldown": "5 min", "fold": "latest"}
    found = played(deck({"web": guest(1, 2, 2)}, minimum=0, start_count=0, policies=[more]))
    assert found["web"].result.series["serving"][0] == 0
    assert found["web"].result.series["serving"][-1] == 2
    assert found["deck"].result.series["serving"][-1] == 1


DRAWN = st.fixed_dictionaries(
    {
        "seed": st.integers(1, 10**6),
        "places": st.lists(
            st.tuples(st.sampled_from([0.25, 0.5, 1.0, 2.0]), st.sampled_from([0.5, 2.5, 6.0])), min_size=1, max_size=3
        ),
        "put": st.sampled_from(["spread", "pack"]),
        "steps": st.lists(st.tuples(st.floats(0.5, 23.0), st.integers(0, 9)), min_size=1, max_size=6),
        "hosts": st.lists(st.tuples(st.floats(0.5, 23.0), st.integers(0, 6)), max_size=4),
        "faults": st.sampled_from([None, "3 h"]),
        "spot": st.booleans(),
    }
)


def drawn_deck(drawn):
    guests = {
        f"g{number}": guest(
            *place,
            0,
            place={"put": drawn["put"]},
            drain=120,
            hands=counts(*((h, (c + number) % 10) for h, c in sorted(drawn["steps"]))),
        )
        for number, place in enumerate(drawn["places"])
    }
    spare = {"kind": "spare", "name": "room", "of": "memory", "share": 0.2, "window": "120 s", "cooldown": "5 min"}
    host = {"minimum": 0, "start_count": 2, "policies": [spare], "hands": counts(*sorted(drawn["hosts"])), "faults": {}}
    if drawn["faults"]:
        host["faults"] = {"every": drawn["faults"]}
    made = deck(guests, zones=("a", "b"), **host)
    if drawn["spot"]:
        made["machines"]["otter-4"]["spot"] = {"level": 0.3, "reclaims": 0.5}
        made["groups"]["deck"]["buying"] = {"on_demand": {"first": 1}}
    return made


@settings(max_examples=25)
@given(DRAWN)
def test_no_place_is_given_twice_and_nothing_is_lost(drawn):
    found = played(drawn_deck(drawn), drawn["seed"])
    host = found["deck"].result
    kinds = host.setup.kinds.view(np.ndarray)[host.instances["kind"]]
    changes = []
    for name, rehearsal in found.items():
        result = rehearsal.result
        present = (result.instances["state"] < 4) | (result.instances["state"] == 8)
        assert present.sum() == result.tally("present")
        if name == "deck":
            continue
        vcpus, memory = result.setup.of("place_vcpus"), result.setup.of("place_memory")
        for spell in result.spells[result.spells["kind"] == Billed.RUNNING]:
            on = host_of(result, int(spell["instance"]))
            assert on is not None
            end = result.elapsed if np.isnan(spell["end"]) else spell["end"]
            changes += [(on, spell["begin"], 1, vcpus, memory), (on, end, -1, -vcpus, -memory)]
            # No copy begins before its host serves, or outlives it by more than the turn in which that is noticed
            lives = host.lives[host.lives["instance"] == on]
            ends = np.where(np.isnan(lives["end"]), host.elapsed, lives["end"])
            assert ((lives["serves"] <= spell["begin"]) & (end <= ends + 60)).any()
    for on in {change[0] for change in changes}:
        held = np.zeros(3)
        for _, _, *more in sorted((c for c in changes if c[0] == on), key=lambda c: (c[1], c[2])):
            held += more
            assert held[1] <= kinds["room_vcpus"][on] + 1e-6
            assert held[2] <= kinds["room_memory"][on] + 1e-6
        assert held == pytest.approx([0, 0, 0], abs=1e-9)
    shared = shares(host, found["deck"].crew, [one.result for name, one in found.items() if name != "deck"])
    assert min(*shared.guests, shared.free) >= -Decimal("1e-9")
    assert sum(shared.guests, shared.free) == pytest.approx(total(host, found["deck"].crew), abs=Decimal("1e-20"))
    assert host.state.deck.held.sum() == sum(
        int((one.result.instances["host"][one.result.instances["state"] < 7] != NOBODY).sum())
        for name, one in found.items()
        if name != "deck"
    )


@settings(max_examples=8)
@given(st.lists(st.integers(1, 900), min_size=1, max_size=40))
def test_where_it_is_left_off_and_gone_on_with_makes_no_difference(steps):
    demo, rehearser = demo_plan().model_copy(update={"days": 2.0}), Rehearser()
    setups = numbered([rehearser.setup_of(demo, name, 1) for name in all_aboard(demo, "deck")])
    whole, roster, ticks = run_aboard(setups), Roster(setups, aboard(setups)), setups[0].ticks
    for state in roster.states:
        for record in (state.series, state.decisions, state.views, state.events, state.deck.carried):
            record.view(np.ndarray).view(np.uint8)[:] = 0xA5
    for until in (*accumulate(steps), ticks):
        assert sail(roster, min(until, ticks)) is None
        assert {int(state.now["tick"][0]) for state in roster.states} == {min(until, ticks)}
    for result, state in zip(whole, roster.states, strict=True):
        apart = Result(result.setup, state)
        for record in ("events", "decisions", "views", "series", "spells", "instances"):
            assert getattr(apart, record).tobytes() == getattr(result, record).tobytes()


@pytest.mark.parametrize("seed", range(1, 6))
@pytest.mark.parametrize("put", ["spread", "pack"])
def test_a_hall_written_apart_agrees(seed, put):
    """Copies placed, what they waited and how many hosts there were, within 3 %."""
    rng = np.random.default_rng(seed)
    places = [(0.5, 1.0), (1.0, 3.0), (0.5, 5.0)]
    plans = [[(hour + 0.25 * g, int(rng.integers(1, 10))) for hour in range(1, 23)] for g in range(len(places))]
    guests = {
        f"g{g}": guest(*place, 1, place={"put": put}, hands=counts(*steps))
        for g, (place, steps) in enumerate(zip(places, plans, strict=True))
    }
    spare = {"kind": "spare", "name": "room", "of": "memory", "share": 0.1, "window": "60 s", "cooldown": "5 min", "slack": 0.2}
    found = played(deck(guests, minimum=1, start_count=2, policies=[spare]))
    hall = Hall(4.0, 16.0, put, [Stall(*place, steps) for place, steps in zip(places, plans, strict=True)], share=0.1, slack=0.2)
    hall.run(DAY)
    host = found["deck"].result
    assert host.series["serving"].mean() == pytest.approx(np.mean(hall.hosts_serving), rel=0.03)
    waited = host.series["waiting"].sum(dtype=float) * 10
    assert waited == pytest.approx(hall.waited, rel=0.03, abs=60)
    placed = sum(found[f"g{g}"].result.series["serving"].sum(dtype=float) * 10 for g in range(3))
    assert placed == pytest.approx(hall.held, rel=0.03)
