"""What a group remembers from one decision to the next."""

import math
from collections.abc import Sequence
from typing import Annotated, NamedTuple

import numpy as np

from jostle.core.built.laid import Floats, Many, One
from jostle.core.decide.code import NOBODY, Phase
from jostle.core.decide.row import FLEET_SIDES
from jostle.core.decide.rules import Rules, rows
from jostle.core.plan.policy import LookaheadPolicy, Policy
from jostle.core.plan.policy.lookahead import USUAL

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
        ("version", "i8"),  # that of new instances, rollouts under way aside
        ("rollout", "i8"),  # that is under way, or NOBODY
        ("rolls", "?"),  # whether it may replace any just now
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


# How a rollout goes; see code.Phase
ROLLED = np.dtype(
    [
        ("phase", "i1"),
        ("held", "?"),  # by hand
        ("goal", "i4"),  # instances of its version; ALL from the last batch on
        ("aim", "i4"),  # of them, those that the last batch brought it to, whatever the count became since
        ("batches", "i4"),  # begun
        ("begun", "f8"),
        ("since", "f8"),  # when its phase began, later by as long as it was held
        ("at", "f8"),  # when it was last seen to
        ("ended", "f8"),
        ("before", "i8"),  # version
        ("looks", "i4"),  # so far
        ("rounds", "i4"),  # evaluations over which both sides were read,
        ("worse", "i4"),  # and those of them in which the canary did worse
        *((f"{when}_{field}", "f8") for when in ("first", "last") for field in FLEET_SIDES),
    ],
    align=True,
)
# As many instances as there are
ALL = 2**30


class Memory(NamedTuple):
    """Times are on the clock that `decide` is told. Changed in place."""

    row: Annotated[np.ndarray, One(MEMORY)]
    waits: Floats  # until when each policy waits
    removals: Annotated[np.ndarray, Many(REMOVAL)]  # ring of REMOVAL, as long as the brake looks back
    books: Annotated[np.ndarray, Many(BOOK)]  # one for each policy that looks ahead
    usual: Annotated[np.ndarray, Many(USUAL, 2)]  # what each of them has learned, shape (books, SLOTS)
    rollouts: Annotated[np.ndarray, Many(ROLLED)]


def new_memory(rules: Rules, desired: int, version: int) -> Memory:
    """Nothing waits, nothing was removed and nothing rolled out; new instances are of a version."""
    row = rows(1, MEMORY)
    row["desired"] = row["awake_count"] = desired
    row["wait_until"] = row["settled"] = -math.inf
    row["version"], row["rollout"] = version, NOBODY
    one = rules.row.view(np.ndarray)[0]
    looked_back = 1 + math.ceil(float(one["brake_within"]) / float(one["evaluate_every"])) if one["brake"] else 1
    books = rows(len(rules.usual), BOOK)
    books["slot"], books["ratio"], books["expected"] = NOBODY, 1.0, math.nan
    waits, rolled = np.full(len(rules.policies), -math.inf), rows(len(rules.rollouts), ROLLED)
    return Memory(row, waits, rows(looked_back, REMOVAL), books, rules.usual.copy(), rolled)


def bytes_of(memory: Memory) -> bytes:
    """All that is remembered, to be kept."""
    return b"".join(part.tobytes() for part in memory)


def memory_of(kept: bytes, rules: Rules) -> Memory | None:
    """What was kept of a memory under the same rules; None where it was of another form."""
    memory = new_memory(rules, 0, 0)
    if len(kept) != len(bytes_of(memory)):
        return None
    for part in memory:
        part[...] = np.frombuffer(kept[: part.nbytes], part.dtype).reshape(part.shape)
        kept = kept[part.nbytes :]
    return memory


def carry_learning(kept: Memory, before: list[Policy], memory: Memory, after: list[Policy]) -> None:
    """Take over from a memory what policies that look ahead have learned, by name, where they know the same history."""
    books = {(one.name, one.history): book for book, one in enumerate(p for p in before if isinstance(p, LookaheadPolicy))}
    for book, one in enumerate(p for p in after if isinstance(p, LookaheadPolicy)):
        if (old := books.get((one.name, one.history))) is not None:
            memory.books[book], memory.usual[book] = kept.books[old], kept.usual[old]


def carry_rollouts(kept: Memory, before: Sequence[str], memory: Memory, after: Sequence[str]) -> None:
    """Take over from a memory how rollouts go, by name; the one under way goes on where it is there still, or is over."""
    for number, name in enumerate(after):
        if name in before:
            memory.rollouts[number] = kept.rollouts[before.index(name)]
    row, was = memory.row.view(np.ndarray), kept.row.view(np.ndarray)
    if (memory.rollouts["phase"] == Phase.DONE).any():
        row["version"] = was["version"]
    going = int(was["rollout"][0])
    if going != NOBODY and before[going] in after:
        row["rollout"], row["version"] = after.index(before[going]), was["version"]
