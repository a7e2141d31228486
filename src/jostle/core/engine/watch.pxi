"""The course of one instance that is looked at: what it does in each tick."""


cdef inline void watch(Setup* setup, State* state, long k) noexcept nogil:
    """Note what the watched instance does in tick k."""
    now = state.now
    fixed = setup.fixed
    row = &state.own[k]
    row.cpu = row.load = NAN
    if fixed.watched >= now.launched:
        row.state = LIFE_GONE
        return
    one = &state.instances[fixed.watched]
    row.state, row.credits, row.waiting = one.state, one.credits, 0.0
    if one.state != LIFE_SERVING:
        return
    if fixed.work == WORK_KIND_SESSIONS:
        write_seats(state)
        row.load = one.sessions
        row.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * one.sessions / setup.kinds[one.kind].capacity
    elif fixed.work == WORK_KIND_JOBS:
        row.load = now.busy * setup.kinds[one.kind].concurrency
        row.cpu = state.series[noted(state, k)].cpu
    elif now.own_lines:
        row.load, row.cpu, row.waiting = one.answered / fixed.tick, one.cpu, one.line
    else:
        row.load = <double>state.series[noted(state, k)].served / fixed.tick / now.serving
        if fixed.mixed:
            row.load *= setup.kinds[one.kind].capacity * now.serving / can_do(setup, state)
        row.cpu = state.series[noted(state, k)].cpu
        row.waiting = now.line / now.serving
