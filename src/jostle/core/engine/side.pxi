"""Versions of the template that are told apart while one takes the place of another: what each has come to."""


cdef inline double errors_of(Setup* setup, long kind, long k, double done) noexcept nogil:
    """Of what instances of a kind did in tick k, what fails of their own."""
    failing = setup.kinds[kind].failing
    if failing <= 0.0:
        return 0.0
    return min(done, <double>poisson(stream_of(setup.fixed.seed, STREAM_ERROR), 64 * k + kind, done * failing))


cdef inline void tell_sides(Setup* setup, State* state) noexcept nogil:
    """Add a tick, as its crews came to, to each version."""
    fixed = setup.fixed
    for m in range(setup.kinds.n):
        crew, side = &state.crews[m], &state.sides[m // (2 * fixed.types)]
        side.answers += crew.done - crew.errors
        side.failed += crew.errors
        side.stay += crew.stay
        side.seconds += crew.serving * fixed.tick
        side.cpu += crew.serving * crew.cpu * fixed.tick
        crew.done = crew.errors = crew.stay = 0.0


cdef inline void look_at_sides(Setup* setup, State* state, double time) noexcept nogil:
    """Tell the decision what is there of the version that comes, and what it and the others came to."""
    there, now = state.fleet, state.now
    now.coming = c_coming_version(&setup.rules, &state.memory, time)
    there.fresh = there.fresh_serving = 0
    if now.coming == NOBODY:
        return
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.version == now.coming and is_present(one.state):
            there.fresh += 1
            if one.state == LIFE_SERVING:
                there.fresh_serving += 1
    there.own_answers = there.own_failed = there.own_seconds = there.own_cpu = there.own_stay = 0.0
    there.others_answers = there.others_failed = there.others_seconds = there.others_cpu = there.others_stay = 0.0
    for b in range(state.sides.n):
        side = &state.sides[b]
        if setup.kinds[2 * setup.fixed.types * b].version == now.coming:
            there.own_answers += side.answers
            there.own_failed += side.failed
            there.own_seconds += side.seconds
            there.own_cpu += side.cpu
            there.own_stay += side.stay
        else:
            there.others_answers += side.answers
            there.others_failed += side.failed
            there.others_seconds += side.seconds
            there.others_cpu += side.cpu
            there.others_stay += side.stay
