"""Choosing who leaves, over plain rows of candidates."""

import numpy as np

from jostle.core.compiled import hot, leaf
from jostle.core.decide.code import NOBODY, Criterion, Reason, Standing
from jostle.core.decide.rules import Rules

CANDIDATE = np.dtype(
    [
        ("number", "i8"),  # of its launch, which stands for its age
        ("standing", "i1"),
        ("zone", "i2"),
        ("version", "i2"),
        ("overflow", "?"),
        ("paid_left", "f8"),  # s until its next paid hour begins
        ("sessions", "i4"),
        ("spot", "?"),
        ("price", "f8"),  # of an hour
        ("weight", "i4"),  # of what the group counts in
    ],
    align=True,
)


@hot
def rank(one: np.record, criterion: int) -> float:
    """Place of a candidate by one criterion: the lowest leaves first."""
    if criterion == Criterion.OLDEST_VERSION:
        return float(one.version)
    if criterion == Criterion.OLDEST:
        return float(one.number)
    if criterion == Criterion.NEWEST:
        return -float(one.number)
    if criterion == Criterion.LEAST_PAID_LEFT:
        return one.paid_left
    if criterion == Criterion.FEWEST_SESSIONS or criterion == Criterion.FEWEST_COPIES:
        return float(one.sessions)
    if criterion == Criterion.DEAREST:
        return -one.price
    if criterion == Criterion.SPOT_FIRST:
        return 0.0 if one.spot else 1.0
    return 1.0 if one.spot else 0.0


@hot
def parted(rules: Rules, crowds: np.ndarray, one: np.record, other: np.record) -> int:
    """The Reason for which one goes before another, or its negative where the other goes first: requests not taken, the fullest
    zone, overflow, broken, not yet serving, the list, age."""
    asked, other_asked = one.standing == Standing.ASKED, other.standing == Standing.ASKED
    if asked or other_asked:
        first = one.number > other.number if asked and other_asked else asked
        return Reason.ASKED if first else -Reason.ASKED
    if rules.row[0].balance_zones:
        crowd, other_crowd = crowds[one.zone], crowds[other.zone]
        if crowd != other_crowd:
            return Reason.ZONE if crowd > other_crowd else -Reason.ZONE
    if one.overflow != other.overflow:
        return Reason.OVERFLOW if one.overflow else -Reason.OVERFLOW
    broken, other_broken = one.standing == Standing.BROKEN, other.standing == Standing.BROKEN
    if broken != other_broken:
        return Reason.BROKEN if broken else -Reason.BROKEN
    coming, other_coming = one.standing == Standing.COMING, other.standing == Standing.COMING
    if coming != other_coming:
        return Reason.COMING if coming else -Reason.COMING
    if coming:
        return Reason.COMING if one.number > other.number else -Reason.COMING
    for criterion in rules.criteria:
        place, other_place = rank(one, criterion), rank(other, criterion)
        if place != other_place:
            by = Reason.CRITERION + criterion
            return by if place < other_place else -by
    return Reason.AGE if one.number < other.number else -Reason.AGE


@leaf
def is_kept(asleep: bool, owned: bool, overflow: bool) -> bool:
    """Whether one that leaves is stopped and kept: those owned are, and all are when the group falls asleep."""
    return asleep or (owned and not overflow)


@leaf
def paid_left(time: float, begin: float) -> float:
    """Seconds until the next paid hour of a start begins."""
    return 3600.0 - (time - begin) % 3600.0


@leaf
def next_to_leave(rules: Rules, candidates: np.ndarray, number: int, crowds: np.ndarray) -> int:
    """Position of the first of `number` candidates to leave, or NOBODY where all have left.

    `candidates` are rows of CANDIDATE; `crowds` says how many are present in each zone.
    """
    best = NOBODY
    for c in range(number):
        if candidates[c].standing == Standing.LEFT:
            continue
        if best == NOBODY or parted(rules, crowds, candidates[c], candidates[best]) > 0:
            best = c
    return best


@leaf
def why_it(rules: Rules, candidates: np.ndarray, number: int, crowds: np.ndarray, chosen: int) -> int:
    """The Reason for which the chosen one leaves rather than the next in turn."""
    second = NOBODY
    for c in range(number):
        if c == chosen or candidates[c].standing == Standing.LEFT:
            continue
        if second == NOBODY or parted(rules, crowds, candidates[c], candidates[second]) > 0:
            second = c
    return Reason.ONLY if second == NOBODY else parted(rules, crowds, candidates[chosen], candidates[second])
