"""What a host costs, shared out to the guests by what they held of it; what nobody held is told by itself.

A copy holds the mean of its parts of the vCPUs and of the memory that an instance has for copies, for as long as it is there.
"""

from collections import defaultdict
from decimal import Decimal
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs.price import bills
from jostle.core.decide.code import NOBODY
from jostle.core.engine.compile import Crew
from jostle.core.engine.result import Result


class Shares(NamedTuple):
    """Amounts by guest, in their order, and what nobody held; together what the host cost."""

    guests: tuple[Decimal, ...]
    free: Decimal


def shares(host: Result, crew: Crew, guests: list[Result]) -> Shares:
    """The cost of a host, shared out."""
    amounts: dict[int | None, Decimal] = defaultdict(Decimal)
    for bill in bills(host, crew):
        amounts[bill.instance] += bill.amount
    whole = sum(amounts.values(), Decimal())
    ran = np.asarray(np.bincount(host.lives["instance"], host.instance_seconds, len(host.instances)), dtype=np.float64)
    parts = [_held_amount(amounts, held_seconds(host, guest), ran) for guest in guests]
    return Shares(tuple(parts), whole - sum(parts, Decimal()))


def _held_amount(amounts: dict[int | None, Decimal], held: NDArray[np.float64], ran: NDArray[np.float64]) -> Decimal:
    """What of the amount of each instance is a guest's that held the whole of it for so many of the seconds that it ran."""
    on = [int(i) for i in np.flatnonzero(held) if ran[i] > 0.0]
    return sum((amounts[i] * Decimal(float(held[i])) / Decimal(float(ran[i])) for i in on), Decimal())


def held_seconds(host: Result, guest: Result) -> NDArray[np.float64]:
    """Seconds for which a guest held the whole of each instance of its host, shape (instances of the host,)."""
    on = guest.instances["host"][guest.lives["instance"]]
    there = on != NOBODY
    seconds = np.bincount(on[there], weights=guest.instance_seconds[there], minlength=len(host.instances))
    return np.asarray(seconds * part_of(host, guest))


def part_of(host: Result, guest: Result) -> NDArray[np.float64]:
    """What a copy of a guest holds of each instance of its host, shape (instances of the host,)."""
    kinds = host.setup.kinds.view(np.ndarray)[host.instances["kind"]]
    vcpus, memory = guest.setup.of("place_vcpus"), guest.setup.of("place_memory")
    return np.asarray(0.5 * (vcpus / kinds["room_vcpus"] + memory / kinds["room_memory"]))
