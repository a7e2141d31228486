"""Bursting machines: each saves credits while it gives less than its baseline, and spends them while it gives more."""


cdef inline double tired_part(Setup* setup, long kind) noexcept nogil:
    """Part of its capacity that an instance of a kind gives once its credits are gone."""
    fixed = setup.fixed
    return max(LEAST_PART, (setup.kinds[kind].baseline - fixed.idle_cpu) / max(LEAST_PART, fixed.full_cpu - fixed.idle_cpu))


cdef inline double tired(Setup* setup, State* state) noexcept nogil:
    """Capacity that the serving instances lack because their credits are gone; in the unit of `can_do`."""
    return state.now.tired * setup.kinds[0].capacity * (1.0 - min(1.0, tired_part(setup, 0)))


cdef inline double read_cpu(Setup* setup, State* state, double cpu) noexcept nogil:
    """Mean CPU of the serving instances, of which those without credits give no more than their baseline."""
    now = state.now
    if now.tired == 0 or now.serving == 0:
        return cpu
    return cpu - <double>(min(now.tired, now.serving) * max(0.0, cpu - setup.kinds[0].baseline)) / now.serving


cdef inline void burst(Setup* setup, State* state, long k) noexcept nogil:
    """Credits earned and spent over tick k by the serving instances. The sum is kept in seconds of one whole vCPU."""
    now = state.now
    fixed = setup.fixed
    now.tired = 0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state != LIFE_SERVING:
            continue
        kind = &setup.kinds[one.kind]
        cpu = one.cpu if now.own_lines else state.series[noted(state, k)].cpu
        one.credits = min(kind.most_credits, one.credits + (kind.baseline - cpu) * kind.vcpus * fixed.tick)
        one.tired = one.credits <= 0.0
        if one.tired:
            one.credits = 0.0
            now.tired += 1
    now.tired_ticks += now.tired
    if now.tired > 0:
        now.uneven = True
