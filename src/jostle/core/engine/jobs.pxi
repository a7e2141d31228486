"""Jobs: one pile, from which every worker takes the oldest.

Jobs that all take equally long and come evenly are a steady flow. By chance, each is held by its worker for a time that is
drawn stage by stage; jobs too short for that flow, and what flows in a tick is drawn."""


cdef inline double draining_rate(Setup* setup, State* state, double time) noexcept nogil:
    """Jobs per second that leaving workers still finish: those under way, evenly spread over their length."""
    rate = 0.0
    for a in range(state.now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_DRAINING:
            kind = &setup.kinds[one.kind]
            rate += kind.capacity * max(0.0, 1.0 - (time - one.drains) / kind.job_time)
    return rate * state.now.busy


cdef inline double stressed_part(Setup* setup, State* state) noexcept nogil:
    """Part of the serving workers' capacity that stress leaves; clears `uneven` once none is stressed."""
    now = state.now
    left = whole = 0.0
    now.uneven = False
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_SERVING:
            size = worth(setup, one.kind)
            left += size * free_part(setup, one.stress, one.lacks)
            whole += size
            now.uneven = now.uneven or one.stress > 0.0 or one.lacks > 0.0
    return left / whole


cdef inline long under_way_by(State* state, long who) noexcept nogil:
    """Jobs held by the workers that serve, or by those that drain."""
    held = 0
    for stage in range(state.held_jobs.m):
        held += state.held_jobs[who][stage]
    return held


cdef inline long finish(Setup* setup, State* state, long k, long who, double part) noexcept nogil:
    """Held jobs go through their stages in tick k; returns how many are finished. Stress leaves `part` of the pace."""
    fixed = setup.fixed
    held, stages, finishes = state.held_jobs, setup.stages, stream_of(fixed.seed, STREAM_FINISH)
    done = 0
    for stage in range(stages.n - 1, -1, -1):
        there = held[who][stage]
        if there == 0:
            continue
        share = min(1.0, stages[stage] * part)
        passed = there
        if share < 1.0:
            index = (2 * k + who) * 64 + stage
            small = min(share, 1.0 - share)
            passed = binomial(finishes, index, there, small, power(1.0 - small, there))
            if share > small:
                passed = there - passed
        held[who][stage] -= passed
        if fixed.either or stage == stages.n - 1:
            done += passed
        else:
            held[who][stage + 1] += passed
    return done


cdef inline void take_up(Setup* setup, State* state, long k, long number) noexcept nogil:
    """Serving workers take so many jobs: into the first stage, or, for very uneven ones, the long or the short kind."""
    fixed = setup.fixed
    if not fixed.either:
        state.held_jobs[SERVING][0] += number
        return
    rare = fixed.long_kind
    long = binomial(stream_of(fixed.seed, STREAM_FINISH + 1), k, number, rare, power(1.0 - rare, number))
    state.held_jobs[SERVING][1] += long
    state.held_jobs[SERVING][0] += number - long


cdef inline long slots_of(Setup* setup, State* state) noexcept nogil:
    """How many jobs the serving workers can do side by side."""
    number = 0
    for m in range(setup.kinds.n):
        number += state.crews[m].serving * setup.kinds[m].concurrency
    return number


cdef inline double pace_of(Setup* setup, State* state, long slots) noexcept nogil:
    """How fast jobs go on the serving workers against one of the first kind, whose slots are so many in all."""
    if setup.kinds.n <= 2 or slots == 0:
        return 1.0
    return can_do(setup, state) * setup.kinds[0].job_time / slots


cdef inline double take_along(Setup* setup, State* state, long i, long who, double of, long to) noexcept nogil:
    """Worker i, who holds one part in `of` of them, leaves the rest and takes its jobs `to` those that drain, or nowhere. Returns
    how many."""
    fixed = setup.fixed
    taken = 0.0
    stages = state.held_jobs.m
    for stage in range(stages):
        there = state.held_jobs[who][stage]
        own = min(there, <long>(there / of + uniform(stream_of(fixed.seed, STREAM_RETURN), 128 * i + 2 * stage + who)))
        state.held_jobs[who][stage] -= own
        taken += own
        if to != NOBODY:
            state.held_jobs[to][stage] += own
        elif own > 0:
            state.now.repeated += own * (stage + 0.5) / stages if not fixed.either else 0.5 * own
    return taken


cdef inline void drain_jobs(Setup* setup, State* state, long i) noexcept nogil:
    """Worker i takes no more jobs and goes on with those that it holds."""
    if setup.fixed.held_jobs:
        of = <double>slots_of(setup, state) / setup.kinds[state.instances[i].kind].concurrency
        take_along(setup, state, i, SERVING, of, DRAINING)


cdef inline void return_jobs(Setup* setup, State* state, long i, double time, double drained) noexcept nogil:
    """The jobs that worker i had under way when it ended go back to the head of the backlog.

    In a steady flow they are evenly spread over their length; those whose rest is longer than the `drained` seconds are given
    back. What had been done of them is done twice.
    """
    now = state.now
    fixed = setup.fixed
    if fixed.held_jobs:
        if state.instances[i].state == LIFE_DRAINING:
            returned = take_along(setup, state, i, DRAINING, now.draining + 1.0, NOBODY)
        else:
            share = <double>slots_of(setup, state) / setup.kinds[state.instances[i].kind].concurrency
            returned = take_along(setup, state, i, SERVING, share, NOBODY)
        repeated = returned
    else:
        kind = &setup.kinds[state.instances[i].kind]
        part = min(1.0, drained / kind.job_time)
        under_way = now.busy * kind.concurrency
        returned = under_way * (1.0 - part)
        repeated = min(now.served, 0.5 * under_way * (1.0 - part * part))
        now.served -= repeated
        now.repeated += repeated
    if returned <= 0.0:
        return
    now.departed -= repeated
    now.backlog += repeated
    now.returned += returned
    while now.head > 0 and state.entered[now.head] > now.departed:
        now.head -= 1
    note(state, time, EVENT_KIND_JOBS_RETURNED, CAUSE_NEED, i, <long>math.rint(returned), 0, NOBODY)


cdef inline double taken_from_pile(Setup* setup, State* state, long k, double number) noexcept nogil:
    """So many jobs leave the pile, the oldest first. Returns how long they had waited on average (s)."""
    now = state.now
    entered = state.entered
    now.head = entry_tick(entered, now.departed, now.head, k)
    oldest = entry_time(entered, now.departed, now.head)
    now.departed = min(entered[k + 1], now.departed + number)
    now.head = entry_tick(entered, now.departed, now.head, k)
    newest = entry_time(entered, now.departed, now.head)
    return max(0.0, k + 0.5 - 0.5 * (oldest + newest)) * setup.fixed.tick


cdef inline double fail_jobs(Setup* setup, State* state, long k, double done) noexcept nogil:
    """Of the jobs done in tick k those that fail of their workers go back to the head of the pile, and are done again. Returns
    how many."""
    now = state.now
    whole, failed = can_do(setup, state), 0.0
    if whole <= 0.0:
        return 0.0
    for m in range(setup.kinds.n):
        kind, crew = &setup.kinds[m], &state.crews[m]
        own = errors_of(setup, m, k, done * crew.serving * kind.capacity / whole)
        crew.done = crew.errors = own
        failed += own
    failed = min(failed, done)
    now.departed -= failed
    now.backlog += failed
    now.repeated += failed
    while now.head > 0 and state.entered[now.head] > now.departed:
        now.head -= 1
    return failed


cdef inline long do_jobs(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """The jobs of each tick from `first` to before `goal` join the pile, and the workers do what they can of it. Returns
    `goal`."""
    for k in range(first, goal):
        do_tick(setup, state, k)
    return goal


cdef inline void do_tick(Setup* setup, State* state, long k) noexcept nogil:
    """The same for tick k alone."""
    now = state.now
    fixed = setup.fixed
    arrived = setup.arrivals[k]
    entered = state.entered
    entered[k + 1] = entered[k] + arrived
    part = stressed_part(setup, state) if now.uneven and now.serving > 0 else 1.0
    capacity = can_do(setup, state) * part
    there = entered[k + 1] - now.departed
    waited = 0.0
    if fixed.held_jobs:
        slots = slots_of(setup, state)
        pace = part * pace_of(setup, state, slots)
        done = <double>(finish(setup, state, k, SERVING, pace) + finish(setup, state, k, DRAINING, 1.0))
        busy = under_way_by(state, SERVING)
        taken = <double>max(0, min(<long>there, slots - busy))
        if taken > 0.0:
            take_up(setup, state, k, <long>taken)
            waited = taken_from_pile(setup, state, k, taken)
        now.busy = min(1.0, (<double>(busy + taken)) / slots) if slots > 0 else 0.0
        now.backlog = entered[k + 1] - now.departed
        now.in_use = now.backlog + busy + taken + under_way_by(state, DRAINING)
    else:
        can = capacity * fixed.tick
        if now.draining > 0:
            can += draining_rate(setup, state, k * fixed.tick) * fixed.tick
        if fixed.unevenness > 0.0:
            can = fixed.unevenness * poisson(stream_of(fixed.seed, STREAM_FINISH), k, can / fixed.unevenness)
        done = taken = min(there, can)
        if there > can or now.backlog > 0.0:
            waited = taken_from_pile(setup, state, k, taken)
        else:
            now.departed = entered[k + 1]
            now.head = k
        now.busy = min(1.0, done / can) if can > 0.0 else 0.0
        now.backlog = entered[k + 1] - now.departed
        now.in_use = now.backlog + done / fixed.tick * setup.kinds[0].job_time
    if fixed.fails:
        done -= fail_jobs(setup, state, k, done)
    now.served += done
    meter = &state.meters[0]
    meter.served += done
    meter.arrived += arrived
    row = &state.series[noted(state, k)]
    row.capacity, row.served, row.taken, row.failed, row.waiting = capacity, done, taken, 0.0, now.backlog
    row.seated = 0.0
    row.age, row.in_use = 0.0, now.in_use
    if now.backlog > 1e-9:
        now.head = entry_tick(entered, now.departed, now.head, k)
        row.age = (k + 1 - entry_time(entered, now.departed, now.head)) * fixed.tick
    row.short = row.age > fixed.patience
    row.latency = waited if taken > 0.0 else NAN
    row.cpu = NAN
    if now.serving > 0:
        row.cpu = read_cpu(setup, state, fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy)
    if fixed.builds > 1:
        for m in range(setup.kinds.n):
            crew = &state.crews[m]
            crew.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy
            if capacity > 0.0:
                crew.done += done * crew.serving * setup.kinds[m].capacity * part / capacity
        tell_sides(setup, state, k)
