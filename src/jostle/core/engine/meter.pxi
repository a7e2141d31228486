"""Meters: dials read at intervals, whose readings reach the policies late."""


cdef inline void run_meters(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """Add the ticks from `first` to before `goal`, in which the same served, to the running meter period."""
    now, meter = state.now, &state.meters[0]
    serving = now.serving
    if serving == 0:
        return
    cpu, ever = meter.cpu, now.cpu_ticks
    for k in range(first, goal):
        own = <double>state.series[noted(state, k)].cpu * serving
        cpu += own
        ever += own
    meter.cpu, now.cpu_ticks = cpu, ever
    meter.serving += serving * (goal - first)
    meter.units += now.units * (goal - first)
    now.served_ticks += serving * (goal - first)
    if setup.fixed.meter_zones:
        run_zone_meters(setup, state, first)


cdef inline void run_zone_meters(Setup* setup, State* state, long k) noexcept nogil:
    """Add tick k to the running meter period of each zone."""
    now, row = state.now, &state.series[noted(state, k)]
    for z in range(state.zones.n):
        zone = &state.zones[z]
        meter = &state.meters[1 + z]
        meter.cpu += zone_cpu(setup, state, z, row.cpu)
        meter.serving += zone.serving
        meter.sessions += zone.sessions
        meter.served += <double>row.served * zone.serving / now.serving
        meter.units += zone.serving
    if setup.fixed.weighed:
        weigh_zones(setup, state)


cdef inline void weigh_zones(Setup* setup, State* state) noexcept nogil:
    """Add what the serving instances of each zone are beyond one each, in what the group counts in."""
    for a in range(state.now.living):
        i = state.alive[a]
        if state.instances[i].state == LIFE_SERVING:
            state.meters[1 + state.instances[i].zone].units += weight_of_instance(setup, state, i) - 1


cdef inline void read_meter(Setup* setup, State* state, long z, long k) noexcept nogil:
    """Reading k of the metrics of the group (z 0) or of a zone, over the instances that served in the period."""
    fixed = setup.fixed
    meter = &state.meters[z]
    if meter.serving <= 0.0:
        return
    row = state.sight.samples[z]
    period = fixed.period_ticks * fixed.tick
    serving = meter.serving / fixed.period_ticks
    each = meter.served / (serving * period)
    sessions = meter.sessions / meter.serving
    row[DIAL_CPU][k] = meter.cpu / meter.serving
    row[DIAL_REQUESTS_PER_INSTANCE][k] = each * (meter.serving / meter.units)
    row[DIAL_SESSIONS_PER_INSTANCE][k] = sessions * (meter.serving / meter.units)
    row[DIAL_MEMORY][k] = memory(setup, state, each, sessions)
    moved = flow(setup, each, sessions)
    row[DIAL_NETWORK_IN][k] = fixed.in_each * moved
    row[DIAL_NETWORK_OUT][k] = fixed.out_each * moved
    row[DIAL_DISK][k] = fixed.disk_each * moved


cdef inline double memory(Setup* setup, State* state, double each, double sessions) noexcept nogil:
    """The share of its memory that an instance uses where it finishes `each` (1/s) or holds so many sessions; on average over
    the kinds that serve, of which each does its part."""
    if setup.kinds.n <= 2 or state.now.serving == 0:
        kind = &setup.kinds[0]
        return min(1.0, kind.idle_memory + kind.memory_each * work_under_way(setup, 0, each, sessions))
    mean = can_do(setup, state) / state.now.serving
    total = 0.0
    for m in range(setup.kinds.n):
        kind = &setup.kinds[m]
        if state.crews[m].serving == 0:
            continue
        own = work_under_way(setup, m, each * kind.capacity / mean, sessions)
        total += state.crews[m].serving * min(1.0, kind.idle_memory + kind.memory_each * own)
    return total / state.now.serving


cdef inline double later_than(Setup* setup, State* state, long t) noexcept nogil:
    """Answers of the running period that took longer than the time number t of the line, or longer than it to the next."""
    now = state.now
    rows = setup.line.tables.n
    times = setup.line.times
    later = 0.0
    for where in range(now.low_row, now.high_row + 1):
        extra = setup.extras[where // rows]
        for i in range(now.low_load, now.high_load + 1):
            weight = state.period_stay[where][i]
            if weight > 0.0:
                tail = setup.line.tails[where % rows][i]
                later += weight * (<double>(tail[t] if extra == 0.0 else c_beyond_at(tail, times, times[t] - extra, 1.0)))
    return later


cdef inline double read_latency(Setup* setup, State* state) noexcept nogil:
    """95th percentile of the requests answered in the period (s), over the loads and delays that it met. It is looked for from
    where that of the last period lay, ever farther from there, and then by halving."""
    now = state.now
    times = setup.line.times
    answers = 0.0
    for row in range(now.low_row, now.high_row + 1):
        for i in range(now.low_load, now.high_load + 1):
            answers += state.period_stay[row][i]
    allowed = 0.05 * answers
    low, high = 0, times.n - 1
    before, after = answers, 0.0
    at, reach = min(max(1, now.late_at), high - 1), 1
    while high - low > 1:
        later = later_than(setup, state, at)
        if later > allowed:
            low, before, at = at, later, at + reach
        else:
            high, after, at = at, later, at - reach
        reach *= 2
        if not low < at < high:
            at = (low + high) // 2
    now.late_at = low
    for row in range(now.low_row, now.high_row + 1):
        for i in range(now.low_load, now.high_load + 1):
            state.period_stay[row][i] = 0.0
    now.low_load, now.high_load = setup.line.loads.n, 0
    now.low_row, now.high_row = state.stay.n, 0
    part = (before - allowed) / (before - after) if before > after else 0.0
    return setup.fixed.base_latency + times[low] + part * (times[high] - times[low])


cdef inline void take_sample(Setup* setup, State* state, long k) noexcept nogil:
    """Close the meter period that ends with tick k: one reading of each metric.

    Metrics that come from instances have no reading (nan) where none served.
    """
    now = state.now
    fixed = setup.fixed
    s = now.samples
    row = state.sight.samples[0]
    meter = &state.meters[0]
    serving, units = meter.serving / fixed.period_ticks, meter.units / fixed.period_ticks
    state.sight.metered[s] = units
    asked = meter.served + meter.failed
    row[DIAL_BACKLOG][s] = state.series[noted(state, k)].waiting
    row[DIAL_AGE][s] = state.series[noted(state, k)].age
    row[DIAL_FAILED_SHARE][s] = meter.failed / asked if asked > 0.0 else 0.0
    row[DIAL_IN_USE][s] = in_use(setup, state)
    row[DIAL_ARRIVALS][s] = meter.arrived / (fixed.period_ticks * fixed.tick)
    read_asked(setup, state, s, k)
    for z in range(state.sight.samples.n):
        read_meter(setup, state, z, s)
    if serving > 0.0:
        row[DIAL_BACKLOG_PER_INSTANCE][s] = <double>state.series[noted(state, k)].waiting / units
        read_own(setup, state, s, k, serving)
        if fixed.meter_latency and meter.served > 0.0:
            row[DIAL_LATENCY_P95][s] = read_latency(setup, state)
    for o in range(setup.outside.n):
        row[DIALS + o][s] = setup.outside[o][s]
    for z in range(state.meters.n):
        meter = &state.meters[z]
        meter.cpu = meter.serving = meter.units = meter.served = meter.failed = meter.sessions = meter.arrived = 0.0
    now.samples += 1
