"""Choosing who leaves, over plain rows of candidates."""

import numpy as np

from jostle.core.compiled import hot, leaf
from jostle.core.decide.code import NOBODY, Criterion, Standing
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
    return float(one.sessions) if criterion == Criterion.FEWEST_SESSIONS else 0.0


@hot
def leaves_before(rules: Rules, crowds: np.ndarray, one: np.record, other: np.record) -> bool:
    """Whether one goes before another: requests not taken, the fullest zone, overflow, broken, not yet serving, the list."""
    asked, other_asked = one.standing == Standing.ASKED, other.standing == Standing.ASKED
    if asked or other_asked:
        return one.number > other.number if asked and other_asked else asked
    if rules.row[0].balance_zones:
        crowd, other_crowd = crowds[one.zone], crowds[other.zone]
        if crowd != other_crowd:
            return crowd > other_crowd
    if one.overflow != other.overflow:
        return one.overflow
    broken, other_broken = one.standing == Standing.BROKEN, other.standing == Standing.BROKEN
    if broken != other_broken:
        return broken
    coming, other_coming = one.standing == Standing.COMING, other.standing == Standing.COMING
    if coming != other_coming:
        return coming
    if coming:
        return one.number > other.number
    for criterion in rules.criteria:
        place, other_place = rank(one, criterion), rank(other, criterion)
        if place != other_place:
            return place < other_place
    return one.number < other.number


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
        if best == NOBODY or leaves_before(rules, crowds, candidates[c], candidates[best]):
            best = c
    return best
