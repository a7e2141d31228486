"""Groups that draw on one quota, played side by side from instant to instant: whoever asks first is served first."""


cdef inline void leave_to(Setup* setup, State* state, long quota, long others) noexcept nogil:
    """Write what the others leave of the quota for the next evaluation of a group."""
    e = state.now.evaluations
    if e < setup.quota.n:
        setup.quota[e] = max(0, quota - others)


cdef inline long next_in(Array[double] since, Array[flag] done) noexcept nogil:
    """The group whose turn it is at an instant: of those not done, the one that has waited longest, the first of several."""
    best = -1
    for g in range(since.n):
        if not done[g] and (best < 0 or since[g] < since[best]):
            best = g
    return best


cdef inline long c_go_on(
    Array[long] addresses,
    long quota,
    long step,
    long until,
    Array[double] since,
    Array[flag] done,
    Array[long] runs,
) noexcept nogil:
    """Play all groups of a roster to tick `until`, `step` ticks at a time. Returns -1, or the number of the group whose record is
    full.

    `since` says from when each has waited for a launch that was refused (s; infinite for none), `done` who has had its turn,
    `runs` how many instances each runs.
    """
    cdef bint waits, whole
    while True:
        g = next_in(since, done)
        if g < 0:
            for other in range(addresses.n):
                done[other] = False
            if state_at(addresses[0]).now.tick >= until:
                return -1
            continue
        setup, state = setup_at(addresses[g]), state_at(addresses[g])
        others = 0
        for other in range(runs.n):
            if other != g:
                others += runs[other]
        leave_to(setup, state, quota, others)
        goal = min(until, next_to(state.now.tick, step))
        whole = play_out(setup, state, goal)
        runs[g] = billed_of(setup, state, 0)
        if not whole:
            return g
        done[g] = True
        waits = state.now.waiting > 0
        since[g] = min(since[g], goal * setup.fixed.tick) if waits else INFINITY


cdef inline long c_runs_now(Setup* setup, State* state) noexcept nogil:
    """Instances that a group runs on the machine whose quota is shared."""
    return billed_of(setup, state, 0)
