"""What a host costs, shared out to the guests by what they held of it; what nobody held is told by itself.

A copy holds the mean of its parts of the vCPUs and of the memory that an instance has for copies, for as long as it is there.
"""

from collections import defaultdict
from decimal import Decimal
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs.ledger import LEAST, WIDE, Entry, Ledger
from jostle.core.costs.price import bills
from jostle.core.decide.code import NOBODY
from jostle.core.engine.compile import Crew
from jostle.core.engine.result import Result
from jostle.core.plan.clock import Clock


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


def shared_ledgers(books: list[Ledger], results: list[Result], clock: Clock) -> list[Ledger]:
    """The ledgers of a host, which comes first, and of its guests, with what the host pays shared out hour by hour: each amount
    of an instance goes to those who held of it in that hour, by how much and how long, and what is left is the host's own."""
    host, guests = results[0], results[1:]
    if not guests or not books[0].hours:
        return books
    edges = np.array([books[0].hours[0].begin, *(hour.end for hour in books[0].hours)]) - clock.first
    ran = _seconds_by_hour(host.lives, host.lives["instance"], np.ones(len(host.lives)), edges, host.elapsed)
    held = [_held_by_hour(host, guest, edges) for guest in guests]
    found, kept = [list(book.entries) for book in books[1:]], list[Entry]()
    for entry in books[0].entries:
        place = (-1, entry.hour) if entry.instance is None else (entry.instance, entry.hour)
        left = entry.amount
        for own, seconds in zip(found, held, strict=True):
            if place in seconds and ran.get(place, 0.0) > 0.0:
                part = entry.amount * Decimal(seconds[place]) / Decimal(ran[place])
                part = min(left, part.quantize(LEAST, context=WIDE))
                own.append(entry._replace(instance=None, seconds=Decimal(), amount=part))
                left -= part
        kept.append(entry._replace(amount=left))
    return [Ledger(book.hours, entries) for book, entries in zip(books, [kept, *found], strict=True)]


def _held_by_hour(host: Result, guest: Result, edges: NDArray[np.float64]) -> dict[tuple[int, int], float]:
    """Seconds in which a guest held the whole of an instance of its host, by instance and hour."""
    on = guest.instances["host"][guest.lives["instance"]]
    there = on != NOBODY
    return _seconds_by_hour(guest.lives[there], on[there], part_of(host, guest)[on[there]], edges, guest.elapsed)


def _seconds_by_hour(
    lives: np.ndarray, instances: NDArray[np.int64], parts: NDArray[np.float64], edges: NDArray[np.float64], until: float
) -> dict[tuple[int, int], float]:
    """Seconds of some stretches of time, each of which counts for a part, by instance and hour."""
    found: dict[tuple[int, int], float] = defaultdict(float)
    ends = np.where(np.isnan(lives["end"]), until, lives["end"])
    lasting = ends > edges[0]
    columns = (lives["begin"], ends, instances, parts)
    for begin, end, instance, part in zip(*(column[lasting].tolist() for column in columns), strict=True):
        first = max(0, int(np.searchsorted(edges, begin, side="right")) - 1)
        for hour in range(first, len(edges) - 1):
            if edges[hour] >= end:
                break
            within = min(end, float(edges[hour + 1])) - max(begin, float(edges[hour]))
            found[instance, hour] += part * within
    return found


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
