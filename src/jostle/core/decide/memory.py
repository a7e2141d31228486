"""What a group remembers from one decision to the next."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import leaf
from jostle.core.decide.rules import Rules, rows

MEMORY = np.dtype(
    [
        ("desired", "i4"),
        ("awake_count", "i4"),  # desired count before the group fell asleep
        ("asleep", "?"),
        ("hand_stands", "?"),  # a hand's count, which the calendar's floors and bounds do not touch
        ("wait_until", "f8"),  # of the whole group
        ("settled", "f8"),  # time of the latest setting of the calendar that was done or given up
        ("removals", "i8"),  # written to the ring so far
    ],
    align=True,
)
REMOVAL = np.dtype([("time", "f8"), ("number", "i4")], align=True)


class Memory(NamedTuple):
    """Times are on the clock that `decide` is told. Changed in place."""

    row: np.ndarray  # one row of MEMORY
    waits: NDArray[np.float64]  # until when each policy waits
    removals: np.ndarray  # ring of REMOVAL, as long as the brake looks back


def new_memory(rules: Rules, desired: int) -> Memory:
    """Nothing waits and nothing was removed."""
    row = rows(1, MEMORY)
    row.desired = row.awake_count = desired
    row.wait_until = row.settled = -math.inf
    one = rules.row[0]
    looked_back = 1 + math.ceil(float(one.brake_within) / float(one.evaluate_every)) if one.brake else 1
    return Memory(row, np.full(len(rules.policies), -math.inf), rows(looked_back, REMOVAL))


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
