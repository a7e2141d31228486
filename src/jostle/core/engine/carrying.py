"""A host and its guests, played side by side in turns: as far as nothing happens to the host, and nobody is asked."""

import math
from copy import deepcopy

import numpy as np

from jostle.core.built.play import carry_on, clear_room, find_host, take_place
from jostle.core.decide.code import NOBODY
from jostle.core.engine.deck import NO_DECK, Deck, grown_deck, new_deck
from jostle.core.engine.outset import new_state, uncleared_series
from jostle.core.engine.record import copied, grown
from jostle.core.engine.result import Result
from jostle.core.engine.roster import Roster
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


def places_of(setups: list[Setup]) -> list[tuple[float, float]]:
    """vCPUs and GiB that a copy of each guest takes, the first setup being that of the host."""
    return [(setup.of("place_vcpus"), setup.of("place_memory")) for setup in setups[1:]]


def numbered(setups: list[Setup]) -> list[Setup]:
    """The same with the guests numbered among those of the host, which comes first."""
    return [setups[0], *(setup.changed(guest=number) for number, setup in enumerate(setups[1:]))]


def turn_of(setups: list[Setup]) -> int:
    """Ticks of a turn, at most: whoever decides does so at the end of one."""
    return math.gcd(*(int(setup.of("evaluate_ticks")) for setup in setups))


def aboard(setups: list[Setup], series: np.recarray | None = None) -> list[State]:
    """The states of a host and its guests before the first tick, as `new_state` makes them, `series` giving room to each of them,
    shape (groups, ticks): of each guest those copies serve that find a place, one guest after the other."""
    own = [None] * len(setups) if series is None else list(series)
    host = new_state(setups[0], series=own[0])
    deck = new_deck(places_of(setups), len(host.instances), turn_of(setups))
    for i in range(int(host.now["serving"][0])):
        clear_room(setups[0], deck, i, int(host.instances["kind"][i]), int(host.instances["zone"][i]))
    return [host._replace(deck=deck), *(_put_aboard(setup, deck, room) for setup, room in zip(setups[1:], own[1:], strict=True))]


def _put_aboard(setup: Setup, deck: Deck, series: np.recarray | None) -> State:
    """The state of a guest, with a place for each copy that serves."""
    wanted = 0 if setup.of("cold") else int(setup.of("first_count"))
    hosts: list[int] = []
    while len(hosts) < wanted and (host := int(find_host(setup, deck))) != NOBODY:
        take_place(deck, host, int(setup.of("guest")))
        hosts.append(host)
    state = new_state(setup.changed(first_count=len(hosts)), series=series)
    state.memory.row["desired"] = int(setup.of("first_count"))
    zones = deck.rooms["zone"][hosts]
    state.instances["host"][: len(hosts)], state.instances["zone"][: len(hosts)] = hosts, zones
    state.zones["present"] = state.zones["serving"] = np.bincount(zones, minlength=len(state.zones))
    return state._replace(deck=deck)


def run_aboard(setups: list[Setup], until: int | None = None) -> list[Result]:
    """The results of a host, which comes first, and of its guests, up to a tick (the end if left out)."""
    setups = numbered(setups)
    series = None if until is not None else uncleared_series(setups)
    roster = Roster(setups, aboard(setups, series))
    sail(roster, setups[0].ticks if until is None else until)
    return [Result(setup, state) for setup, state in zip(setups, roster.states, strict=True)]


def sail(roster: Roster, until: int) -> int | None:
    """Play a host and its guests to a tick, making room as needed. Returns the number of one that waits for its keeper, to be
    asked or to have a fault seen to; None where they came so far."""
    step, crowd = turn_of(roster.setups), len(roster.setups)
    while (stopped := carry_on(roster.addresses, step, until)) != NOBODY:
        who = int(stopped) % crowd
        if stopped >= crowd or roster.states[who].now["found"][0]:
            return who
        for number, state in enumerate(with_room(roster.states, who)):
            roster.put(number, state)
    return None


def with_room(states: list[State], full: int) -> list[State]:
    """The states with twice the room for the record of one of them; where that is the host, all of them see the room of its new
    instances."""
    found = [grown(state) if number == full else state for number, state in enumerate(states)]
    if full > 0:
        return found
    deck = grown_deck(found[0].deck, len(found[0].instances))
    return [state._replace(deck=deck) for state in found]


def copied_aboard(states: list[State]) -> list[State]:
    """The same states of a host and its guests, to go another way from here together."""
    other = deepcopy(states[0].deck)
    return [copied(state._replace(deck=NO_DECK))._replace(deck=other) for state in states]


def host_of(result: Result, copy: int) -> int | None:
    """The instance of its host that a copy is on or was on; None where it never had a place."""
    host = int(result.instances["host"][copy])
    return None if host == NOBODY else host
