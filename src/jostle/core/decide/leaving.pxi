"""Choosing who leaves, over plain rows of candidates."""


cdef inline double rank(Candidate* one, long criterion) noexcept nogil:
    """Place of a candidate by one criterion: the lowest leaves first."""
    if criterion == CRITERION_OLDEST_VERSION:
        return <double>one.version
    if criterion == CRITERION_OLDEST:
        return <double>one.number
    if criterion == CRITERION_NEWEST:
        return -<double>one.number
    if criterion == CRITERION_LEAST_PAID_LEFT:
        return one.paid_left
    if criterion == CRITERION_FEWEST_SESSIONS or criterion == CRITERION_FEWEST_COPIES:
        return <double>one.sessions
    if criterion == CRITERION_DEAREST:
        return -one.price
    if criterion == CRITERION_SPOT_FIRST:
        return 0.0 if one.spot else 1.0
    return 1.0 if one.spot else 0.0


cdef inline long parted(Rules* rules, Column[int32_t] crowds, Candidate* one, Candidate* other) noexcept nogil:
    """The Reason for which one goes before another, or its negative where the other goes first: requests not taken,
    overflow, the fullest zone, broken, not yet serving, the list, age."""
    cdef bint asked, broken, coming, first, other_asked, other_broken, other_coming
    asked, other_asked = one.standing == STANDING_ASKED, other.standing == STANDING_ASKED
    if asked or other_asked:
        first = one.number > other.number if asked and other_asked else asked
        return REASON_ASKED if first else -REASON_ASKED
    if one.overflow != other.overflow:
        return REASON_OVERFLOW if one.overflow else -REASON_OVERFLOW
    if rules.row.balance_zones:
        crowd, other_crowd = crowds[one.zone], crowds[other.zone]
        if crowd != other_crowd:
            return REASON_ZONE if crowd > other_crowd else -REASON_ZONE
    broken, other_broken = one.standing == STANDING_BROKEN, other.standing == STANDING_BROKEN
    if broken != other_broken:
        return REASON_BROKEN if broken else -REASON_BROKEN
    coming, other_coming = one.standing == STANDING_COMING, other.standing == STANDING_COMING
    if coming != other_coming:
        return REASON_COMING if coming else -REASON_COMING
    if coming:
        return REASON_COMING if one.number > other.number else -REASON_COMING
    for c in range(rules.criteria.n):
        criterion = rules.criteria[c]
        place, other_place = rank(one, criterion), rank(other, criterion)
        if place != other_place:
            by = REASON_CRITERION + criterion
            return by if place < other_place else -by
    return REASON_AGE if one.number < other.number else -REASON_AGE


cpdef inline bint is_kept(bint asleep, bint owned, bint overflow) noexcept nogil:
    """Whether one that leaves is stopped and kept: those owned are, and all are when the group falls asleep."""
    return asleep or (owned and not overflow)


cpdef inline double paid_left(double time, double begin) noexcept nogil:
    """Seconds until the next paid hour of a start begins."""
    return 3600.0 - (time - begin) % 3600.0


cdef inline long c_next_to_leave(Rules* rules, Array[Candidate] candidates, long number, Column[int32_t] crowds) noexcept nogil:
    """Position of the first of `number` candidates to leave, or NOBODY where all have left.

    `candidates` are rows of CANDIDATE; `crowds` says how many are present in each zone.
    """
    best = NOBODY
    for c in range(number):
        if candidates[c].standing == STANDING_LEFT:
            continue
        if best == NOBODY or parted(rules, crowds, &candidates[c], &candidates[best]) > 0:
            best = c
    return best


cdef inline long c_why_it(
    Rules* rules, Array[Candidate] candidates, long number, Column[int32_t] crowds, long chosen
) noexcept nogil:
    """The Reason for which the chosen one leaves rather than the next in turn."""
    second = NOBODY
    for c in range(number):
        if c == chosen or candidates[c].standing == STANDING_LEFT:
            continue
        if second == NOBODY or parted(rules, crowds, &candidates[c], &candidates[second]) > 0:
            second = c
    return REASON_ONLY if second == NOBODY else parted(rules, crowds, &candidates[chosen], &candidates[second])
