"""Uneven load: instances whose shares of the arrivals or whose capacities differ.

Like regulars at a market who stay with their stall: a new stall wins customers only as old ones go home."""


cdef inline double weight_of_share(Setup* setup, long version, long kind) noexcept nogil:
    """What an instance gets of the arrivals beside others: as much as it can do, unless all get the same, times the weight of its
    version."""
    fixed = setup.fixed
    return setup.weights[version] * worth(setup, kind) if fixed.mixed and not fixed.alike else setup.weights[version]


cdef inline void drift(Setup* setup, State* state) noexcept nogil:
    """Move every serving instance's share of the arrivals one tick toward an even one, or one by its version's weight.

    What those that left had is spread evenly; the rest drifts with the mean time of a client's stay as time constant.
    Says in `uneven` whether shares or capacities still differ.
    """
    cdef bint uneven
    now = state.now
    fixed = setup.fixed
    total = weights = 0.0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_SERVING:
            total += one.share
            weights += weight_of_share(setup, one.version, one.kind) if fixed.weighted or fixed.mixed else 1.0
    even = 1.0 / now.serving
    orphaned = (1.0 - total) * even
    pace = 1.0 - math.exp(-fixed.tick / fixed.sticky) if fixed.sticky > 0.0 else 1.0
    uneven = <bint>fixed.alike
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state != LIFE_SERVING:
            continue
        one.share += orphaned
        goal = even
        if (fixed.weighted or fixed.mixed) and weights > 0.0:
            goal = weight_of_share(setup, one.version, one.kind) / weights
        one.share += (goal - one.share) * pace
        usual = goal if fixed.mixed and not fixed.weighted else even
        uneven = uneven or one.stress > 0.0 or one.lacks > 0.0 or abs(one.share - usual) > EVEN * usual
    now.uneven = uneven


cdef inline double free_part(Setup* setup, double stress, double lacks) noexcept nogil:
    """Part of an instance's capacity that is left under a stress of so much CPU, and where its credits do not allow a part."""
    free = max(LEAST_PART, 1.0 - stress / (1.0 - setup.fixed.idle_cpu))
    return min(free, 1.0 - lacks)
