"""A host and its guests, played side by side: the guests go as far as nothing happens to their host, and it follows."""

import math

import numpy as np

from jostle.core.compiled import inner, leaf
from jostle.core.decide.code import NOBODY
from jostle.core.engine.advance import advance, begin, begins, play_on
from jostle.core.engine.deck import Deck, grown_deck, new_deck
from jostle.core.engine.guest import find_places, heed_hosts
from jostle.core.engine.result import Result
from jostle.core.engine.room import clear_room, find_host, take_place
from jostle.core.engine.roster import Roster, take_up
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State, grown, new_state


@inner
def goal_of(setup: Setup, state: State, step: int, until: int) -> int:
    """The tick up to which nothing happens to the instances of a host: the end of the step, or before what is next due."""
    fixed, now = setup.fixed[0], state.now[0]
    goal = min(until, (now.tick // step + 1) * step)
    if fixed.spot:
        goal = min(goal, (now.tick // fixed.market_ticks + 1) * fixed.market_ticks)
    if now.next_due < goal * fixed.tick:
        goal = max(now.tick + 1, int(np.ceil(now.next_due / fixed.tick - 1e-9)))
    return goal


@leaf
def carry_on(setup: Setup, state: State, addresses: np.ndarray, step: int, until: int) -> int:
    """Play a host and its guests, whose addresses follow on its own, to tick `until`, `step` ticks at a time.
    Returns -1, or the number of the one whose record is full or, under a keeper, where a fault was found. What each instance has
    under way is written down by the next `advance` of each."""
    like, now, helm = (setup, state), state.now[0], state.deck.helm[0]
    while now.tick < until:
        if begins(setup, state, now.tick) and not begin(setup, state, now.tick):
            return 0
        goal = goal_of(setup, state, step, until)
        for g in range(1, len(addresses)):
            own_setup, own = take_up(addresses[g], like)
            if own.now[0].turns != helm.turns:
                heed_hosts(own_setup, own, own.now[0].tick * setup.fixed[0].tick)
            if own.now[0].waiting > 0 and own.now[0].moves != helm.moves:
                find_places(own_setup, own, own.now[0].tick * setup.fixed[0].tick)
            if not play_on(own_setup, own, goal):
                return g
        if helm.emptied:
            helm.emptied = False
            now.next_due = min(now.next_due, goal * setup.fixed[0].tick)
        if not play_on(setup, state, goal):
            return 0
    return -1


def places_of(setups: list[Setup]) -> list[tuple[float, float]]:
    """vCPUs and GiB that a copy of each guest takes, the first setup being that of the host."""
    return [(setup.of("place_vcpus"), setup.of("place_memory")) for setup in setups[1:]]


def numbered(setups: list[Setup]) -> list[Setup]:
    """The same with the guests numbered among those of the host, which comes first."""
    return [setups[0], *(setup.changed(guest=number) for number, setup in enumerate(setups[1:]))]


def aboard(setups: list[Setup]) -> list[State]:
    """The states of a host and its guests before the first tick: of each guest those copies serve that find a place, one guest
    after the other."""
    host = new_state(setups[0])
    deck = new_deck(places_of(setups), len(host.instances), setups[0].ticks)
    for i in range(int(host.now["serving"][0])):
        clear_room(setups[0], deck, i, int(host.instances["kind"][i]), int(host.instances["zone"][i]))
    return [host._replace(deck=deck), *(_put_aboard(setup, deck) for setup in setups[1:])]


def _put_aboard(setup: Setup, deck: Deck) -> State:
    """The state of a guest, with a place for each copy that serves."""
    wanted = 0 if setup.of("cold") else int(setup.of("first_count"))
    hosts: list[int] = []
    while len(hosts) < wanted and (host := int(find_host(setup, deck))) != NOBODY:
        take_place(deck, host, int(setup.of("guest")), 1)
        hosts.append(host)
    state = new_state(setup.changed(first_count=len(hosts)))
    state.memory.row["desired"] = int(setup.of("first_count"))
    zones = deck.rooms["zone"][hosts]
    state.instances["host"][: len(hosts)], state.instances["zone"][: len(hosts)] = hosts, zones
    state.zones["present"] = state.zones["serving"] = np.bincount(zones, minlength=len(state.zones))
    return state._replace(deck=deck)


def run_aboard(setups: list[Setup], until: int | None = None) -> list[Result]:
    """The results of a host, which comes first, and of its guests, up to a tick (the end if left out)."""
    setups = numbered(setups)
    roster = Roster(setups, aboard(setups))
    sail(roster, setups[0].ticks if until is None else until)
    return [Result(setup, state) for setup, state in zip(setups, roster.states, strict=True)]


def sail(roster: Roster, until: int) -> None:
    """Play a host and its guests to a tick, making room as needed, or until a fault waits for a keeper."""
    step = math.gcd(*(int(setup.of("evaluate_ticks")) for setup in roster.setups))
    while (full := carry_on(roster.setups[0], roster.states[0], roster.addresses, step, until)) >= 0:
        if roster.states[full].now["found"][0]:
            break
        make_room(roster, full)
    for setup, state in zip(roster.setups, roster.states, strict=True):
        advance(setup, state, 0)


def make_room(roster: Roster, full: int) -> None:
    """Twice the room for the record of one of them; where that is the host, all of them see the room of its new instances."""
    state = grown(roster.states[full])
    if full > 0:
        roster.put(full, state)
        return
    deck = grown_deck(state.deck, len(state.instances))
    roster.put(0, state._replace(deck=deck))
    for guest in range(1, len(roster.states)):
        roster.put(guest, roster.states[guest]._replace(deck=deck))


def host_of(result: Result, copy: int) -> int | None:
    """The instance of its host that a copy is on or was on; None where it never had a place."""
    host = int(result.instances["host"][copy])
    return None if host == NOBODY else host
