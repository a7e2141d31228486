"""Requests meet instances that are not all alike: of several kinds, with shares of their own, or none at all."""


cdef inline void gather_lines(State* state) noexcept nogil:
    """What waits with each kind, from what waits with each instance."""
    for m in range(state.crews.n):
        state.crews[m].line = 0.0
    for a in range(state.now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_SERVING:
            state.crews[one.kind].line += one.line


cdef inline (double, double, double, double) meet_by_kind(
    Setup* setup, State* state, long k, long row, long first, double arrived
) noexcept nogil:
    """Kinds that can do unlike amounts meet tick k's arrivals: each gets its part of them, and keeps its line.
    What waits with those that left is taken over in the same measure.

    `row` is that of their number in the tables, `first` the first for answers under the delay that holds. Returns those served
    and lost of them, the load and the latency p95 (s)."""
    now = state.now
    fixed = setup.fixed
    if now.own_lines:
        gather_lines(state)
    whole, held = draws(setup, state), 0.0
    for m in range(setup.kinds.n):
        held += state.crews[m].line
    orphaned = now.line - held
    now.line = 0.0
    served = lost = stay = most = 0.0
    for m in range(setup.kinds.n):
        kind, crew = &setup.kinds[m], &state.crews[m]
        if crew.serving == 0:
            continue
        part = kind.draw / whole
        there = crew.line / crew.serving + (arrived + orphaned) * part
        table = setup.line.tables[row + kind.line]
        place, load, gone, own = let_through(table, setup.line.loads, kind.capacity * fixed.tick, max(0.0, there), crew.at_load)
        crew.at_load = <long>place
        crew.line = crew.serving * (max(0.0, there) - gone)
        now.line += crew.line
        done = crew.serving * (gone - own)
        errors = errors_of(setup, m, k, done)
        now.errors += errors
        served += done - errors
        lost += crew.serving * own
        most = max(most, load)
        waits = done * column(table, COL_P95, place)
        stay += waits
        answered(setup, state, done * (1.0 - kind.failing), first + row + kind.line, place)
        if fixed.builds > 1:
            crew.done, crew.stay = done, waits + done * (fixed.base_latency + now.extra_latency)
            crew.blur = blur_of(setup, m, row + kind.line, place, load, done)
            crew.errors = errors + crew.serving * own
            crew.done += crew.serving * own
            crew.cpu = crew_cpu(setup, m, done / (crew.serving * kind.capacity * fixed.tick), done, k)
    return served, lost, most, stay / served if served > 0.0 else column(setup.line.tables[row], COL_P95, 0.0)


cdef inline (double, double, double, double) meet_unevenly(
    Setup* setup, State* state, long k, long row, long first, double arrived
) noexcept nogil:
    """The same for instances that differ in their shares of the arrivals or in what stress leaves them, each with its line."""
    now = state.now
    fixed = setup.fixed
    served = lost = stay = most = total = 0.0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_SERVING:
            if not now.own_lines:
                one.line = now.line / now.serving
                if fixed.mixed:
                    one.line = state.crews[one.kind].line / state.crews[one.kind].serving
            total += one.line
    orphaned = <double>max(0.0, now.line - total) / now.serving
    now.line = 0.0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state != LIFE_SERVING:
            continue
        can = setup.kinds[one.kind].capacity * fixed.tick * free_part(setup, one.stress, one.lacks)
        there = one.line + orphaned + arrived * one.share
        own_row = row + setup.kinds[one.kind].line
        table = setup.line.tables[own_row]
        place, load, gone, own = let_through(table, setup.line.loads, can, there, one.at_load)
        one.at_load = <long>place
        one.line = there - gone
        one.busy = (gone - own) / can
        one.answered = gone - own
        now.line += one.line
        served += gone - own
        lost += own
        most = max(most, load)
        waits = (gone - own) * column(table, COL_P95, place)
        stay += waits
        crew = &state.crews[one.kind]
        answered(setup, state, (gone - own) * (1.0 - setup.kinds[one.kind].failing), first + own_row, place)
        crew.done += gone - own
        if fixed.builds > 1:
            crew.stay += waits + (gone - own) * (fixed.base_latency + now.extra_latency)
            crew.blur += blur_of(setup, one.kind, own_row, place, load, gone - own)
            crew.errors += own
    for m in range(setup.kinds.n):
        crew = &state.crews[m]
        errors = errors_of(setup, m, k, crew.done)
        now.errors += errors
        served -= errors
        if fixed.builds > 1:
            crew.done += crew.errors
            crew.errors += errors
        else:
            crew.done = 0.0
    return served, lost, most, stay / served if served > 0.0 else column(setup.line.tables[row], COL_P95, 0.0)


cdef inline double uneven_cpu(Setup* setup, State* state) noexcept nogil:
    """Mean CPU of instances that differ, and the sum of each zone's."""
    now = state.now
    fixed = setup.fixed
    cpu = 0.0
    for z in range(state.zones.n):
        state.zones[z].cpu = 0.0
    for m in range(state.crews.n):
        state.crews[m].cpu = 0.0
    for a in range(now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_SERVING:
            free = free_part(setup, one.stress, one.lacks)
            own = min(1.0, fixed.idle_cpu + one.stress + (fixed.full_cpu - fixed.idle_cpu) * free * one.busy)
            if one.lacks > 0.0:
                own = min(own, most_cpu(setup, one))
            one.cpu = own
            state.crews[one.kind].cpu += <double>own / state.crews[one.kind].serving
            cpu += own
            state.zones[one.zone].cpu += own
    return cpu / now.serving


cdef inline double crew_cpu(Setup* setup, long m, double busy, double done, long k) noexcept nogil:
    """The CPU of instances of a kind, of which so much of their capacity is given, with what is burnt by chance."""
    fixed = setup.fixed
    if fixed.by_chance and 0.0 < busy < 1.0:
        burnt = math.sqrt(fixed.unevenness / done) * busy * bell(stream_of(fixed.seed, STREAM_BURN + 1), 64 * k + m)
        busy += min(max(burnt, -min(busy, 1.0 - busy)), min(busy, 1.0 - busy))
    return fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * busy


cdef inline double mean_cpu(Setup* setup, State* state) noexcept nogil:
    """Mean CPU of the serving instances of all kinds."""
    cpu = 0.0
    for m in range(setup.kinds.n):
        cpu += state.crews[m].serving * state.crews[m].cpu
    return cpu / state.now.serving


cdef inline double wait_outside(Setup* setup, State* state, long k) noexcept nogil:
    """Nobody serves: all wait, and those give up whose patience is over. Returns how many do."""
    now = state.now
    fixed = setup.fixed
    young = state.entered[k + 1] - entered_before(state.entered, fixed.tick, (k + 1) * fixed.tick - fixed.timeout)
    lost = max(0.0, now.line - young)
    now.line -= lost
    return lost


cdef inline (double, double, double, double) meet_apart(
    Setup* setup, State* state, long k, long row, long first, double arrived
) noexcept nogil:
    """Tick k's arrivals meet instances that are not all alike, or none. Returns what `meet_by_kind` does."""
    cdef bint uneven
    now, fixed = state.now, setup.fixed
    now.errors = 0.0
    if now.serving == 0:
        now.line += arrived
        return 0.0, wait_outside(setup, state, k), 0.0, NAN
    uneven = now.uneven or fixed.alike
    if uneven:
        drift(setup, state)
        met = meet_unevenly(setup, state, k, row, first, arrived)
    else:
        met = meet_by_kind(setup, state, k, row, first, arrived)
    now.own_lines = uneven
    return met
