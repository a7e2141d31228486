"""Versions of the template that are told apart while one takes the place of another: what each has come to."""


cdef inline double errors_of(Setup* setup, long kind, long k, double done) noexcept nogil:
    """Of what instances of a kind did in tick k, what fails of their own."""
    failing = setup.kinds[kind].failing
    if failing <= 0.0:
        return 0.0
    return min(done, <double>poisson(stream_of(setup.fixed.seed, STREAM_ERROR), 64 * k + kind, done * failing))


cdef inline double blur_of(Setup* setup, long m, long row, double place, double load, double done) noexcept nogil:
    """By how much (s², times the answers) the 95th percentile of so many answers of a kind varies with which they are, at a place
    among the loads: the variance of a sample's quantile by its density there (Mosteller, On Some Useful "Inefficient"
    Statistics, 1946).

    Who waits waits with others, so that such answers come together: for as long as a line of that load remembers (the
    relaxation time of M/M/1), as far as it is the wait that makes them late. The two numbers are fitted to lines that were played
    request by request (tests/core/engine/test_canary.py)."""
    if not setup.fixed.by_chance or done <= 0.0:
        return 0.0
    tail, late = setup.line.tails[row][<long>(place + 0.5)], column(setup.line.tables[row], COL_P95, place)
    beside = 0.05 * late
    early = c_beyond_at(tail, setup.line.times, late - beside, 1.0)
    density = (early - c_beyond_at(tail, setup.line.times, late + beside, 1.0)) / (2.0 * beside)
    if not density > 0.0:
        return 0.0
    load = min(load, NEARLY)
    remembers = load / (1.0 - math.sqrt(load)) ** 2
    by_waiting = max(0.0, 1.0 - math.exp(-setup.kinds[m].service_rate * late) / 0.05)
    together = 1.0 + 2.0 * (0.8 - 0.48 * load) * remembers * by_waiting
    return 0.95 * 0.05 * done * together / (density * density)


cdef inline void tell_sides(Setup* setup, State* state, long k) noexcept nogil:
    """Add tick k, as its crews came to, to each version."""
    fixed = setup.fixed
    for m in range(setup.kinds.n):
        crew, side = &state.crews[m], &state.sides[m // (2 * fixed.types)]
        side.answers += crew.done - crew.errors
        side.failed += crew.errors
        side.stay += crew.stay
        if crew.blur > 0.0:
            blurred = math.sqrt(crew.blur) * bell(stream_of(fixed.seed, STREAM_SAMPLE), 64 * k + m)
            side.stay += max(-crew.stay, blurred)
        side.seconds += crew.serving * fixed.tick
        side.cpu += crew.serving * crew.cpu * fixed.tick
        crew.done = crew.errors = crew.stay = crew.blur = 0.0


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
