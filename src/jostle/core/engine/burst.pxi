"""Bursting machines: each saves credits while it gives less than its baseline, and spends them while it gives more.

Credits are seconds of one whole vCPU. A tick in which they end is full speed up to there and the baseline after it: over the tick
as much as the credits that there are allow, and no more."""


cdef inline double most_cpu(Setup* setup, Instance* one) noexcept nogil:
    """CPU that an instance may burn over a tick: its baseline, and what its credits are worth."""
    kind = &setup.kinds[one.kind]
    return min(1.0, kind.baseline + one.credits / (kind.vcpus * setup.fixed.tick))


cdef inline void allow(Setup* setup, State* state) noexcept nogil:
    """What of their capacity the serving instances lack in the tick to come, as their credits are."""
    now, fixed = state.now, setup.fixed
    now.lacks = 0.0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state != LIFE_SERVING:
            continue
        part = (most_cpu(setup, one) - fixed.idle_cpu) / max(LEAST_PART, fixed.full_cpu - fixed.idle_cpu)
        one.lacks = 1.0 - min(1.0, max(LEAST_PART, part))
        now.lacks += one.lacks
    if now.lacks > 0.0:
        now.uneven = True


cdef inline double read_cpu(Setup* setup, State* state, double cpu) noexcept nogil:
    """Mean CPU of the serving instances that would each burn so much, of which none burns more than its credits allow."""
    now = state.now
    if now.lacks == 0.0 or now.serving == 0:
        return cpu
    burnt = 0.0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_SERVING:
            one.cpu = min(cpu, most_cpu(setup, one)) if one.lacks > 0.0 else cpu
            burnt += one.cpu
    return burnt / now.serving


cdef inline void burst(Setup* setup, State* state, long k) noexcept nogil:
    """Credits earned and spent over tick k by the serving instances."""
    cdef bint own
    now = state.now
    own = now.lacks > 0.0 or (now.own_lines and now.uneven)
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state != LIFE_SERVING:
            continue
        kind = &setup.kinds[one.kind]
        cpu = one.cpu if own else state.series[noted(state, k)].cpu
        one.credits = min(kind.most_credits, max(0.0, one.credits + (kind.baseline - cpu) * kind.vcpus * setup.fixed.tick))
        if one.credits <= GONE:
            now.tired_ticks += 1.0
