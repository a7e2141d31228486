"""A host and its guests, played side by side in turns: as far as nothing happens to the host, and nobody is asked."""

import math
from copy import deepcopy

import numpy as np

from jostle.core.compiled import leaf, part
from jostle.core.decide.code import NOBODY
from jostle.core.engine.advance import begin, begins, next_to, play_on, tick_due
from jostle.core.engine.carry_out import reconcile
from jostle.core.engine.deck import NO_DECK, Deck, Stage, grown_deck, new_deck
from jostle.core.engine.guest import find_places, heed_hosts
from jostle.core.engine.note import room_left
from jostle.core.engine.outset import new_state, uncleared_series
from jostle.core.engine.record import copied, grown
from jostle.core.engine.result import Result
from jostle.core.engine.room import clear_room, find_host, free_places, take_place
from jostle.core.engine.roster import Roster, take_up
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.engine.work import tell_apart
from jostle.core.reference import by_reference


@leaf
def carry_on(setup: Setup, state: State, addresses: np.ndarray, step: int, until: int) -> int:
    """Play a host and its guests, whose addresses follow on its own, to tick `until`, in turns of `step` ticks at most.

    Returns -1; the number of the one whose record is full or, under a keeper, where a fault was found; or, under a keeper, the
    number of the one that is to be asked, those of all before it added."""
    setup, state = by_reference(setup, state)
    stopped = take_turns(setup, state, addresses, step, until)
    for g in range(len(addresses)):
        own_setup, own = take_up(addresses[g], (setup, state))
        tell_apart(own_setup, own)
    return stopped


@part
def take_turns(setup: Setup, state: State, addresses: np.ndarray, step: int, until: int) -> int:
    """The same, where what each instance has under way is not written down.

    In a turn all go the same way, each by itself; what one gives back is there for the others from its end on. Then each has
    come, or leave, whom it is to, one after the other, the host last. A turn that was left in its midst is gone on with, and
    comes to the same."""
    now, helm = state.now[0], state.deck.helm[0]
    helm.asked = NOBODY
    while now.tick < until or helm.stage == Stage.DECIDES:
        if helm.stage == Stage.BEGINS:
            if begins(setup, state, now.tick) and not begin(setup, state, now.tick):
                return 0
            heed(setup, state, addresses)
            helm.heeded, helm.begun, helm.goal, helm.stage = helm.turns, now.tick, setup.fixed[0].ticks, Stage.PLAYS
        if helm.stage == Stage.PLAYS:
            quiet = now.tick if helm.turns != helm.heeded else tick_due(setup, state, now.tick, next_to(now.tick, step))
            helm.goal = min(helm.goal, quiet)
            stopped = play_all(setup, state, addresses, min(helm.goal, until))
            if stopped != NOBODY:
                return stopped
            if now.tick < helm.goal:
                return NOBODY
            if helm.vacated > 0:
                free_places(state.deck)
                if helm.emptied:
                    helm.emptied = False
                    now.next_due = min(now.next_due, now.tick * setup.fixed[0].tick)
            helm.stage, helm.next = Stage.DECIDES, 1
        if helm.owing > 0 or (setup.fixed[0].kept and helm.goal > helm.decided):
            asked = ask_all(setup, state, addresses)
            if asked != NOBODY:
                return asked
        helm.decided, helm.stage = helm.goal, Stage.BEGINS
    return NOBODY


@part
def heed(setup: Setup, state: State, addresses: np.ndarray) -> None:
    """Each guest sees to its copies whose host leaves or is lost, and looks for places for those without one."""
    helm = state.deck.helm[0]
    for g in range(1, len(addresses)):
        guest = state.deck.guests[g - 1]
        if guest.turns != helm.turns or guest.moves != helm.moves:
            own_setup, own = take_up(addresses[g], (setup, state))
            time = own.now[0].tick * setup.fixed[0].tick
            if guest.turns != helm.turns:
                heed_hosts(own_setup, own, time)
                guest.turns = helm.turns
            if own.now[0].waiting > 0:
                find_places(own_setup, own, time)
            guest.moves = helm.moves


@part
def play_all(setup: Setup, state: State, addresses: np.ndarray, goal: int) -> int:
    """Play the guests to a tick, and then the host. Returns the number of the first that did not come so far, or NOBODY."""
    for n in range(1, len(addresses) + 1):
        g = n if n < len(addresses) else 0
        own_setup, own = take_up(addresses[g], (setup, state))
        if not play_on(own_setup, own, goal):
            return g
    return NOBODY


@part
def ask_all(setup: Setup, state: State, addresses: np.ndarray) -> int:
    """Have the count brought about by each that owes that, or by the keeper of each whose time it is, from the next on. Returns
    the number of one whose record is full, or that of one that a keeper is to ask, those of all before it added; or NOBODY."""
    helm, crowd = state.deck.helm[0], len(addresses)
    while helm.next <= crowd:
        g = helm.next % crowd
        own_setup, own = take_up(addresses[g], (setup, state))
        if own.now[0].owes:
            if not room_left(own_setup, own):
                return g
            reconcile(own_setup, own, helm.goal * setup.fixed[0].tick, own.now[0].owed_by)
            own.now[0].owes = False
            helm.owing -= 1
        helm.next += 1
        if own_setup.fixed[0].kept and helm.goal % own_setup.fixed[0].evaluate_ticks == 0:
            helm.asked = g
            return crowd + g
    return NOBODY


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
    while (stopped := carry_on(roster.setups[0], roster.states[0], roster.addresses, step, until)) != NOBODY:
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
