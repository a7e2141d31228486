"""The kinds of work, one behind the other: what each does in a tick, and what becomes of it when an instance ends."""


cdef inline long serve(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """The demand of each tick from `first` to before `goal` meets the instances, of which none comes or goes meanwhile; of those
    ticks as many as may be played in one. Returns the one that is next."""
    kind = setup.fixed.work
    if kind == WORK_KIND_REQUESTS:
        return serve_requests(setup, state, first, goal)
    if kind == WORK_KIND_JOBS:
        return do_jobs(setup, state, first, goal)
    if kind == WORK_KIND_SESSIONS:
        return hold_sessions(setup, state, first, goal)
    return carry(setup, state, first, goal)


cdef inline void tell_apart(Setup* setup, State* state) noexcept nogil:
    """Write down with each instance what it has under way, before any of them is picked out."""
    if setup.fixed.work == WORK_KIND_SESSIONS:
        write_seats(state)


cdef inline void start_draining(Setup* setup, State* state, long i) noexcept nogil:
    """Instance i is given no more work. It is still counted among those that serve."""
    if setup.fixed.work == WORK_KIND_JOBS:
        drain_jobs(setup, state, i)


cdef inline void give_back(Setup* setup, State* state, long i, double time, double drained) noexcept nogil:
    """What instance i had under way when it ended, having drained for so many seconds."""
    kind = setup.fixed.work
    if kind == WORK_KIND_JOBS:
        return_jobs(setup, state, i, time, drained)
    elif kind == WORK_KIND_SESSIONS:
        cut_off(state, i, time)


cdef inline double work_under_way(Setup* setup, long kind, double per_instance, double sessions) noexcept nogil:
    """Requests, jobs or sessions that an instance of a kind has under way, those requests that wait aside.

    `per_instance` is what one finishes (1/s), `sessions` what it holds.
    """
    fixed = setup.fixed
    if fixed.work == WORK_KIND_SESSIONS:
        return sessions
    if fixed.work == WORK_KIND_JOBS:
        return per_instance * setup.kinds[kind].job_time
    return per_instance * (fixed.base_latency + 1.0 / setup.kinds[kind].service_rate)


cdef inline bint is_empty(Setup* setup, State* state, long i) noexcept nogil:
    """Whether a draining instance has nothing left to wait for."""
    kind = setup.fixed.work
    if kind == WORK_KIND_HOSTING:
        return state.deck.rooms[i].copies == 0
    return kind == WORK_KIND_SESSIONS and state.instances[i].sessions == 0


cdef inline bint fails_unseen(Setup* setup) noexcept nogil:
    """Whether a broken instance is still given work until the checks have seen it, rather than taking it itself."""
    kind = setup.fixed.work
    return kind == WORK_KIND_REQUESTS or kind == WORK_KIND_SESSIONS


cdef inline double zone_cpu(Setup* setup, State* state, long z, double group_cpu) noexcept nogil:
    """Sum of the CPUs of a zone's serving instances."""
    fixed = setup.fixed
    zone = &state.zones[z]
    if fixed.work == WORK_KIND_SESSIONS:
        return zone.serving * fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * zone.sessions / setup.kinds[0].capacity
    return zone.cpu if state.now.uneven and fixed.work == WORK_KIND_REQUESTS else zone.serving * group_cpu


cdef inline double flow(Setup* setup, double per_instance, double sessions) noexcept nogil:
    """What an instance's traffic goes by: what it finishes (1/s), or the sessions that it holds."""
    return sessions if setup.fixed.work == WORK_KIND_SESSIONS else per_instance


cdef inline double in_use(Setup* setup, State* state) noexcept nogil:
    """What a Spare policy counts as in use over the meter period that ends."""
    fixed = setup.fixed
    if fixed.work == WORK_KIND_REQUESTS:
        return state.meters[0].arrived / (fixed.period_ticks * fixed.tick)
    return state.now.in_use


cdef inline void read_own(Setup* setup, State* state, long s, long k, double serving) noexcept nogil:
    """Reading s of the metrics that only one kind of work has, in tick k, with so many serving over the period."""
    if setup.fixed.work == WORK_KIND_SESSIONS:
        read_seats(setup, state, s, serving)
    elif setup.fixed.work == WORK_KIND_HOSTING:
        read_room(setup, state, s, k)


cdef inline void read_asked(Setup* setup, State* state, long s, long k) noexcept nogil:
    """Reading s, in tick k, of what is asked of a group of this work, whether any serves or not."""
    if setup.fixed.work == WORK_KIND_HOSTING:
        read_wants(state, s, k)
