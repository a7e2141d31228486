"""What a host and its guests share (`Deck`): the room that each host has left, and who holds what of it."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.decide.rules import rows

# What an instance of the host has left for copies, by its position among the host's instances
ROOM = np.dtype(
    [
        ("vcpus", "f8"),
        ("memory", "f8"),  # GiB
        ("copies", "i4"),
        ("zone", "i2"),
        ("open", "?"),  # whether it takes copies
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
    ],
    align=True,
)
HELM = np.dtype(
    [
        ("hosts", "i8"),  # instances of the host ever
        ("turns", "i8"),  # how often one of them stopped to take copies, or lost those it had
        ("moves", "i8"),  # how often room was taken or given back, or a host opened or closed
        ("seen", "i8"),  # those moves after which it was found
        ("stranded", "i4"),  # how many copies would have no place were a host lost, the worst of them
        ("emptied", "?"),  # whether one that takes no more has lost its last copy
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


class Deck(NamedTuple):
    """Shared by the states of a host and of its guests; arrays are changed in place."""

    helm: np.ndarray  # one row of HELM
    rooms: np.ndarray  # of ROOM
    guests: np.ndarray  # of GUEST
    held: NDArray[np.int32]  # copies, shape (hosts, guests)
    left: NDArray[np.float64]  # room to reckon: vCPUs and GiB, shape (hosts, 2)
    carried: np.ndarray  # of CARRIED, shape (ticks,)


def new_deck(places: list[tuple[float, float]], hosts: int, ticks: int) -> Deck:
    """A deck for guests whose copies take so many vCPUs and GiB, with room for so many instances of the host."""
    guests = rows(len(places), GUEST)
    for row, (vcpus, memory) in zip(guests, places, strict=True):
        row.vcpus, row.memory = vcpus, memory
    guests["rank"] = np.lexsort((-guests["vcpus"], -guests["memory"]))
    held, left = np.zeros((hosts, len(places)), np.int32), np.zeros((hosts, 2))
    return Deck(rows(1, HELM), rows(hosts, ROOM), guests, held, left, rows(ticks, CARRIED))


def grown_deck(deck: Deck, hosts: int) -> Deck:
    """The same deck with room for so many instances of the host."""
    rooms, held = rows(hosts, ROOM), np.zeros((hosts, deck.held.shape[1]), np.int32)
    rooms[: len(deck.rooms)], held[: len(deck.held)] = deck.rooms, deck.held
    return deck._replace(rooms=rooms, held=held, left=np.zeros((hosts, 2)))


NO_DECK = new_deck([], 0, 0)
