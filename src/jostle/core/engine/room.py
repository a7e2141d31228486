"""The room on a host's instances: who opens it and closes it, and who takes of it."""

import math

from jostle.core.compiled import hot, inner, leaf
from jostle.core.decide.code import NOBODY
from jostle.core.engine.code import Put
from jostle.core.engine.deck import Deck
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.work import WorkKind

# What is lost to rounding where room is compared
CRUMB = 1e-9


@hot
def open_room(setup: Setup, state: State, i: int) -> None:
    """Instance i of a host takes copies from now on."""
    if setup.fixed[0].work == WorkKind.HOSTING:
        clear_room(setup, state.deck, i, state.instances[i].kind, state.instances[i].zone)


@leaf
def clear_room(setup: Setup, deck: Deck, i: int, kind: int, zone: int) -> None:
    """Instance i of a host, of a kind and in a zone, has all its room but for what is still held of it."""
    room, helm = deck.rooms[i], deck.helm[0]
    if not room.open:
        at = helm.open
        while at > 0 and deck.open[at - 1] > i:
            deck.open[at] = deck.open[at - 1]
            at -= 1
        deck.open[at] = i
        helm.open += 1
    room.zone, room.open, room.lost = zone, True, False
    room.vcpus, room.memory = setup.kinds[kind].room_vcpus, setup.kinds[kind].room_memory
    for g in range(len(deck.guests)):
        room.vcpus -= deck.held[i, g] * deck.guests[g].vcpus
        room.memory -= deck.held[i, g] * deck.guests[g].memory
    helm.hosts = max(helm.hosts, i + 1)
    helm.moves += 1


@hot
def close_room(setup: Setup, state: State, i: int, lost: bool) -> None:
    """Instance i of a host takes no more copies; those that it has are lost with it, or are to go elsewhere."""
    if setup.fixed[0].work == WorkKind.HOSTING:
        room, helm = state.deck.rooms[i], state.deck.helm[0]
        if room.open or (lost and not room.lost):
            helm.turns += 1
            helm.moves += 1
        if room.open:
            shut(state.deck, i)
        room.lost = room.lost or lost


@hot
def shut(deck: Deck, i: int) -> None:
    """Instance i of a host is no more among those that take copies."""
    kept = 0
    for n in range(deck.helm[0].open):
        if deck.open[n] != i:
            deck.open[kept] = deck.open[n]
            kept += 1
    deck.helm[0].open = kept
    deck.rooms[i].open = False


@hot
def has_room(deck: Deck, h: int, g: int) -> bool:
    """Whether a copy of guest g fits on host h, which is open."""
    room, guest = deck.rooms[h], deck.guests[g]
    return room.vcpus + CRUMB >= guest.vcpus and room.memory + CRUMB >= guest.memory


@hot
def copies_in(deck: Deck, g: int, zone: int) -> int:
    """Copies of guest g on the open hosts of a zone."""
    number = 0
    for n in range(deck.helm[0].open):
        h = deck.open[n]
        if deck.rooms[h].zone == zone:
            number += deck.held[h, g]
    return number


@hot
def is_fitter(setup: Setup, deck: Deck, h: int, best: int, g: int) -> bool:
    """Whether a copy of guest g goes rather to host h than to another that has room too."""
    mine, other = deck.rooms[h], deck.rooms[best]
    if setup.fixed[0].put == Put.SPREAD:
        if mine.zone != other.zone:
            there, elsewhere = copies_in(deck, g, mine.zone), copies_in(deck, g, other.zone)
            if there != elsewhere:
                return there < elsewhere
        if deck.held[h, g] != deck.held[best, g]:
            return deck.held[h, g] < deck.held[best, g]
        return mine.memory > other.memory + CRUMB
    if abs(mine.memory - other.memory) > CRUMB:
        return mine.memory < other.memory
    return deck.held[h, g] < deck.held[best, g]


@leaf
def find_host(setup: Setup, deck: Deck) -> int:
    """The host on which the next copy of a guest is put, NOBODY where none has room for it; looked for once after each move."""
    helm, g, best = deck.helm[0], setup.fixed[0].guest, NOBODY
    guest = deck.guests[g]
    if guest.found_after == helm.moves:
        return guest.found
    for n in range(helm.open):
        h = deck.open[n]
        if has_room(deck, h, g) and (best == NOBODY or is_fitter(setup, deck, h, best, g)):
            best = h
    guest.found, guest.found_after = best, helm.moves
    return best


@leaf
def take_place(deck: Deck, h: int, g: int) -> None:
    """A copy of guest g is put on host h."""
    room, guest = deck.rooms[h], deck.guests[g]
    deck.held[h, g] += 1
    guest.placed += 1
    room.copies += 1
    room.vcpus -= guest.vcpus
    room.memory -= guest.memory
    deck.helm[0].moves += 1


@inner
def put_on_host(setup: Setup, state: State, i: int) -> int:
    """Copy i gets a place. Returns the zone."""
    h = find_host(setup, state.deck)
    state.instances[i].host = h
    take_place(state.deck, h, setup.fixed[0].guest)
    return state.deck.rooms[h].zone


@hot
def leave_host(setup: Setup, state: State, i: int) -> None:
    """Copy i gives its place back: it is there for others from the end of the turn on."""
    one, g, deck = state.instances[i], setup.fixed[0].guest, state.deck
    if one.host != NOBODY and g != NOBODY:
        deck.back[one.host, g] += 1
        deck.guests[g].placed -= 1
        deck.helm[0].vacated += 1


@inner
def free_places(deck: Deck) -> None:
    """What was given back in a turn is there for others."""
    helm = deck.helm[0]
    for h in range(helm.hosts):
        room = deck.rooms[h]
        if room.copies == 0:
            continue
        for g in range(len(deck.guests)):
            number = deck.back[h, g]
            if number > 0:
                deck.back[h, g] = 0
                deck.held[h, g] -= number
                room.copies -= number
                room.vcpus += number * deck.guests[g].vcpus
                room.memory += number * deck.guests[g].memory
                helm.emptied = helm.emptied or (room.copies == 0 and not room.open)
    helm.moves += 1
    helm.vacated = 0


@inner
def largest_room(deck: Deck, memory: float) -> tuple[float, float]:
    """The most memory (GiB) that a host has free, and the most vCPUs of those that have so much memory free."""
    most, vcpus = 0.0, 0.0
    for n in range(deck.helm[0].open):
        room = deck.rooms[deck.open[n]]
        most = max(most, room.memory)
        if room.memory + CRUMB >= memory:
            vcpus = max(vcpus, room.vcpus)
    return most, vcpus


@hot
def write_left(deck: Deck, n: int) -> None:
    """Write in `left` what the host at place n of those that take copies has left."""
    room = deck.rooms[deck.open[n]]
    deck.left[n, 0], deck.left[n, 1] = room.vcpus, room.memory


@hot
def survey(deck: Deck) -> int:
    """Write down what each host that takes copies has left, how many copies surely find a place there, whichever guests they are
    of, and which have room for any at all. Returns how many surely find a place on all of them: one that refuses a copy has taken
    as many as it has room for of the largest."""
    helm = deck.helm[0]
    most_vcpus = most_memory = 0.0
    least_vcpus = least_memory = math.inf
    for g in range(len(deck.guests)):
        guest = deck.guests[g]
        most_vcpus, most_memory = max(most_vcpus, guest.vcpus), max(most_memory, guest.memory)
        least_vcpus, least_memory = min(least_vcpus, guest.vcpus), min(least_memory, guest.memory)
    helm.roomy = number = 0
    for n in range(helm.open):
        write_left(deck, n)
        vcpus, memory = deck.left[n, 0] + CRUMB, deck.left[n, 1] + CRUMB
        deck.fits[n] = int(min(vcpus / most_vcpus, memory / most_memory))
        number += deck.fits[n]
        if vcpus >= least_vcpus and memory >= least_memory:
            deck.roomy[helm.roomy] = n
            helm.roomy += 1
    return number


@inner
def stranded_by(deck: Deck, lost: int) -> int:
    """How many copies would find no place on the others were this host lost, those that take most put first. What is left to each
    is written in `left`, and stands there again in the end."""
    number = furthest = 0
    for r in range(len(deck.guests)):
        g = deck.guests[r].rank
        guest, missing = deck.guests[g], deck.held[lost, g]
        for m in range(deck.helm[0].roomy):
            if missing == 0:
                break
            n = deck.roomy[m]
            furthest = max(furthest, m + 1)
            if deck.open[n] == lost or deck.left[n, 0] + CRUMB < guest.vcpus or deck.left[n, 1] + CRUMB < guest.memory:
                continue
            fit = min((deck.left[n, 0] + CRUMB) / guest.vcpus, (deck.left[n, 1] + CRUMB) / guest.memory)
            put = min(missing, int(fit))
            missing -= put
            deck.left[n, 0] -= put * guest.vcpus
            deck.left[n, 1] -= put * guest.memory
        number += missing
    for m in range(furthest):
        write_left(deck, deck.roomy[m])
    return number


@inner
def stranded(deck: Deck) -> int:
    """How many copies would find no place were a host lost, the worst of all hosts; found anew after each move. Only those hosts
    are gone through that have more copies than the worst so far, and than surely find a place on the others."""
    helm = deck.helm[0]
    if helm.seen != helm.moves and len(deck.guests) > 0:
        helm.seen, helm.stranded = helm.moves, 0
        fit = survey(deck)
        for n in range(helm.open):
            h = deck.open[n]
            if deck.rooms[h].copies > max(helm.stranded, fit - deck.fits[n]):
                helm.stranded = max(helm.stranded, stranded_by(deck, h))
    return helm.stranded
