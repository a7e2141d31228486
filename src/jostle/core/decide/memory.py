"""What a group remembers from one decision to the next."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf
from jostle.core.decide.code import NOBODY
from jostle.core.decide.rules import Rules, rows
from jostle.core.plan.policy import LookaheadPolicy, Policy

MEMORY = np.dtype(
    [
        ("desired", "i4"),
        ("awake_count", "i4"),  # desired count before the group fell asleep
        ("asleep", "?"),
        ("placed", "?"),  # whether the order was placed
        ("hand_stands", "?"),  # a hand's count, which the calendar's floors and bounds do not touch
        ("wait_until", "f8"),  # of the whole group
        ("settled", "f8"),  # time of the latest setting of the calendar that was done or given up
        ("removals", "i8"),  # written to the ring so far
    ],
    align=True,
)
REMOVAL = np.dtype([("time", "f8"), ("number", "i4")], align=True)
# What a policy that looks ahead is reading, and what it expected at the latest decision
BOOK = np.dtype(
    [
        ("slot", "i4"),  # place in the week of the samples that are being summed, or NOBODY
        ("summed", "f8"),
        ("number", "i4"),  # of them
        ("read", "i8"),  # samples taken in so far
        ("seen", "f8"),  # of late, 1/s summed and fading,
        ("usual", "f8"),  # and what was usual at those times
        ("expected", "f8"),  # the most within the lead, 1/s; nan where no week is known
        ("ahead", "f8"),  # s until it comes
        ("off", "f8"),  # how far off that usually is, 1/s
        ("weeks", "i4"),  # behind it
        ("ratio", "f8"),  # how many times the usual comes of late
    ],
    align=True,
)


class Memory(NamedTuple):
    """Times are on the clock that `decide` is told. Changed in place."""

    row: np.ndarray  # one row of MEMORY
    waits: NDArray[np.float64]  # until when each policy waits
    removals: np.ndarray  # ring of REMOVAL, as long as the brake looks back
    books: np.ndarray  # of BOOK, one for each policy that looks ahead
    usual: np.ndarray  # of USUAL: what each of them has learned, shape (books, SLOTS)


def new_memory(rules: Rules, desired: int) -> Memory:
    """Nothing waits and nothing was removed."""
    row = rows(1, MEMORY)
    row.desired = row.awake_count = desired
    row.wait_until = row.settled = -math.inf
    one = rules.row[0]
    looked_back = 1 + math.ceil(float(one.brake_within) / float(one.evaluate_every)) if one.brake else 1
    books = rows(len(rules.usual), BOOK)
    books.slot, books.ratio, books.expected = NOBODY, 1.0, math.nan
    return Memory(row, np.full(len(rules.policies), -math.inf), rows(looked_back, REMOVAL), books, rules.usual.copy())


def bytes_of(memory: Memory) -> bytes:
    """All that is remembered, to be kept."""
    return b"".join(part.tobytes() for part in memory)


def memory_of(kept: bytes, rules: Rules) -> Memory | None:
    """What was kept of a memory under the same rules; None where it was of another form."""
    memory = new_memory(rules, 0)
    if len(kept) != len(bytes_of(memory)):
        return None
    for part in memory:
        part[...] = np.frombuffer(kept[: part.nbytes], part.dtype).reshape(part.shape)
        kept = kept[part.nbytes :]
    return memory


@leaf
def removed_since(memory: Memory, since: float) -> int:
    """Instances taken off the count by decisions after a time."""
    removed = 0
    ring, written = memory.removals, memory.row[0].removals
    for k in range(written - 1, max(0, written - len(ring)) - 1, -1):
        one = ring[k % len(ring)]
        if one.time <= since + 1e-6:
            break
        removed += one.number
    return removed


@leaf
def remember_removal(memory: Memory, time: float, number: int) -> None:
    row = memory.row[0]
    one = memory.removals[row.removals % len(memory.removals)]
    one.time, one.number = time, number
    row.removals += 1


@leaf
def set_by_hand(rules: Rules, memory: Memory, count: int) -> int:
    """A hand sets the count, within the limits; it stands until a policy or a setting changes it. Returns what it became."""
    one = rules.row[0]
    memory.row[0].desired = min(max(count, one.minimum), one.maximum)
    memory.row[0].hand_stands = True
    return memory.row[0].desired


def carry_learning(kept: Memory, before: list[Policy], memory: Memory, after: list[Policy]) -> None:
    """Take over from a memory what policies that look ahead have learned, by name, where they know the same history."""
    books = {(one.name, one.history): book for book, one in enumerate(p for p in before if isinstance(p, LookaheadPolicy))}
    for book, one in enumerate(p for p in after if isinstance(p, LookaheadPolicy)):
        if (old := books.get((one.name, one.history))) is not None:
            memory.books[book], memory.usual[book] = kept.books[old], kept.usual[old]
