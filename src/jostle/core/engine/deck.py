"""What a host and its guests share (`Deck`): the room that each host has left, and who holds what of it."""

from enum import IntEnum
from typing import Annotated, NamedTuple

import numpy as np

from jostle.core.built.laid import FloatGrid, IntGrid, Longs, Many, One
from jostle.core.decide.code import NOBODY
from jostle.core.decide.rules import rows

# What an instance of the host has left for copies, by its position among the host's instances
ROOM = np.dtype(
    [
        ("vcpus", "f8"),
        ("memory", "f8"),  # GiB
        ("copies", "i4"),
        ("zone", "i2"),
        ("open", "?"),  # whether it takes copies, and stands in `open`
        ("lost", "?"),  # whether what it carried is lost
    ],
    align=True,
)
# A guest: what a copy of it takes, and how it stands
GUEST = np.dtype(
    [
        ("vcpus", "f8"),
        ("memory", "f8"),
        ("rank", "i4"),  # guests by what a copy takes, the largest first: the number of the one at this place
        ("placed", "i4"),  # copies that have a place
        ("found", "i8"),  # the host on which the next is put, or NOBODY,
        ("found_after", "i8"),  # when that was last looked for: after so many of the helm's moves
        ("turns", "i8"),  # of those of the helm, the ones that it has seen to
        ("moves", "i8"),  # of those, the ones after which it has looked for places
    ],
    align=True,
)
HELM = np.dtype(
    [
        ("hosts", "i8"),  # instances of the host ever
        ("open", "i8"),  # those of them that take copies
        ("turns", "i8"),  # how often one of them stopped to take copies, or lost those it had
        ("moves", "i8"),  # how often room was taken or given back, or a host opened or closed
        ("seen", "i8"),  # those moves after which it was found
        ("roomy", "i8"),  # hosts with room for any copy when that was looked for
        ("stranded", "i4"),  # how many copies would have no place were a host lost, the worst of them
        ("vacated", "i4"),  # places given back in this turn
        ("emptied", "?"),  # whether one that takes no more has lost its last copy
        ("stage", "i1"),  # a `Stage`
        ("next", "i4"),  # who is to be asked next: the guests in their order, then the host, number 0
        ("asked", "i4"),  # who waits for its keeper to decide, NOBODY for none
        ("owing", "i4"),  # how many are still to bring those that are there to the count
        ("begun", "i8"),  # the tick with which the turn begins,
        ("goal", "i8"),  # and that before which it ends
        ("decided", "i8"),  # the tick after which all were asked last
        ("heeded", "i8"),  # those of `turns` that the guests have seen to
    ],
    align=True,
)
# What a tick was like for all guests together
CARRIED = np.dtype(
    [
        ("burnt", "f8"),  # vCPUs that copies burn
        ("vcpus", "f8"),  # that they hold
        ("memory", "f8"),  # GiB
        ("wanted_vcpus", "f8"),  # by those without a place
        ("wanted_memory", "f8"),
        ("waiting", "i4"),  # copies without a place
    ],
    align=True,
)


class Stage(IntEnum):
    """How far a turn of a host and its guests is."""

    BEGINS = 0
    PLAYS = 1
    DECIDES = 2


class Deck(NamedTuple):
    """Shared by the states of a host and of its guests; arrays are changed in place."""

    helm: Annotated[np.ndarray, One(HELM)]
    rooms: Annotated[np.ndarray, Many(ROOM)]
    open: Longs  # positions of those that take copies, in their order
    guests: Annotated[np.ndarray, Many(GUEST)]
    held: IntGrid  # copies, shape (hosts, guests)
    back: IntGrid  # of them those that have left in this turn
    left: FloatGrid  # room to reckon: vCPUs and GiB, shape (hosts, 2),
    fits: Longs  # and copies that surely find a place there, by the place of the host in `open`;
    roomy: Longs  # and the places of those with room for any copy
    carried: Annotated[np.ndarray, Many(CARRIED)]  # shape (ticks of a turn at most,)


def new_deck(places: list[tuple[float, float]], hosts: int, ticks: int) -> Deck:
    """A deck for guests whose copies take so many vCPUs and GiB, with room for so many instances of the host, and turns of so
    many ticks."""
    guests = rows(len(places), GUEST)
    for row, (vcpus, memory) in zip(guests, places, strict=True):
        row.vcpus, row.memory, row.found_after = vcpus, memory, NOBODY
    guests["rank"] = np.lexsort((-guests["vcpus"], -guests["memory"]))
    held, back = (np.zeros((hosts, len(places)), np.int32) for _ in range(2))
    helm, (takes, fits, roomy) = rows(1, HELM), np.zeros((3, hosts), np.int64)
    helm["asked"] = NOBODY
    return Deck(helm, rows(hosts, ROOM), takes, guests, held, back, np.zeros((hosts, 2)), fits, roomy, rows(ticks, CARRIED))


def grown_deck(deck: Deck, hosts: int) -> Deck:
    """The same deck with room for so many instances of the host."""
    rooms, held = rows(hosts, ROOM), np.zeros((hosts, deck.held.shape[1]), np.int32)
    back = held.copy()
    rooms[: len(deck.rooms)], held[: len(deck.held)], back[: len(deck.back)] = deck.rooms, deck.held, deck.back
    takes, fits, roomy = np.zeros((3, hosts), np.int64)
    takes[: len(deck.open)] = deck.open
    return deck._replace(rooms=rooms, open=takes, held=held, back=back, left=np.zeros((hosts, 2)), fits=fits, roomy=roomy)


NO_DECK = new_deck([], 0, 0)
