"""Requests: visitors at the counters, each served and gone within moments, or tired of waiting.

The line is an average over all that chance may bring, at the load that the group is under; what was counted and burnt in
a tick is drawn."""


cdef inline long extra_level(Setup* setup, State* state) noexcept nogil:
    """Which of the delays of slow dependencies holds."""
    extra = state.now.extra_latency
    level = 0
    for n in range(1, setup.extras.n):
        if abs(setup.extras[n] - extra) < abs(setup.extras[level] - extra):
            level = n
    return level


cdef inline double spread_burnt(Setup* setup, long burns, long k, double busy, double served, double can) noexcept nogil:
    """The part of what the instances can do that they give in tick k, with what is burnt by chance, drawn from the
    stream `burns`."""
    fixed = setup.fixed
    if not (fixed.by_chance and busy < 1.0):
        return busy
    burnt = math.sqrt(served * fixed.unevenness) / can * bell(burns, k)
    return busy + min(max(burnt, -min(busy, 1.0 - busy)), min(busy, 1.0 - busy))


cdef inline long serve_requests(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """The requests of each tick from `first` to before `goal` meet the serving instances, of which none comes or goes meanwhile.
    Broken ones that are still given work fail their share. What changes with each tick is held here, not in the state."""
    cdef bint apart, asks, fails, over
    now, fixed, meter = state.now, setup.fixed, &state.meters[0]
    serving, tick, asks = now.serving, fixed.tick, setup.thinks.n > 0
    each, extra = setup.kinds[0].capacity * tick, fixed.base_latency + now.extra_latency
    can = (can_do(setup, state) - now.lacks * setup.kinds[0].capacity) * tick
    can_each_second = can / tick
    dead = <double>now.dead / (serving + now.dead) if now.dead > 0 else 0.0
    lowest = extra_level(setup, state) * setup.line.tables.n if now.extra_latency > 0.0 else 0
    counted = setup.line.row_of[min(serving, setup.line.row_of.n - 1)]
    table, loads = setup.line.tables[counted], setup.line.loads
    idle_cpu, span, builds, fails = fixed.idle_cpu, fixed.full_cpu - fixed.idle_cpu, fixed.builds, fixed.fails
    apart, burns = serving == 0 or fixed.mixed or fixed.alike, stream_of(fixed.seed, STREAM_BURN)
    entered, line, held, departed, head = state.entered[first], now.line, now.held, now.departed, now.head
    served_ever, failed_ever, at_load = now.served, now.failed, <long>now.at_load
    served_read, failed_read, arrived_read = meter.served, meter.failed, meter.arrived
    for k in range(first, goal):
        mean, drawn = setup.means[k], setup.arrivals[k]
        if asks:
            ask_clients(setup, state, k, mean, can)
            mean += state.sent[k].mean
            drawn += state.sent[k].drawn
        arrived = mean * (1.0 - dead)
        entered += arrived
        state.entered[k + 1] = entered
        row = &state.series[noted(state, k)]
        errors = 0.0
        if not (apart or now.uneven):
            there = (line + arrived) / serving
            place, load, gone, own = let_through(table, loads, each, there, at_load)
            at_load = <long>place
            line = serving * (there - gone)
            done = serving * (gone - own)
            answered(setup, state, done, lowest + counted, place)
            if fails:
                errors = errors_of(setup, 0, k, done)
            served, lost = done - errors, serving * own
            row.latency = column(table, COL_P95, place)
            now.own_lines = False
        else:
            now.line = line
            served, lost, load, latency = meet_apart(setup, state, k, counted, lowest, arrived)
            line, errors, row.latency = now.line, now.errors, latency
        row.latency += extra
        # What was drawn beside the mean is answered as soon as there is room, or fails in the same measure.
        beside = drawn - mean
        lost += errors
        failed = lost + dead * drawn
        if beside != 0.0 or held != 0.0:
            alive = beside * (1.0 - dead)
            misses = lost / (served + lost) if lost > 0.0 else 0.0
            held += alive * (1.0 - misses)
            failed += alive * misses
            if failed < 0.0:
                held += failed
                failed = 0.0
            more = min(max(held, -served), can - served - errors)
            served += more
            held -= more
        row.waiting = max(0.0, line + held)
        over = load >= 1.0 or arrived > can
        row.short = over or failed - errors > FEW * (served + failed)
        now.in_use = drawn / tick
        row.in_use = now.in_use
        served_ever += served
        failed_ever += failed
        served_read += served
        failed_read += failed
        arrived_read += drawn
        row.capacity, row.served, row.failed, row.taken, row.seated = can_each_second, served, failed, 0.0, 0.0
        if asks:
            now.line, now.backlog = line, line + held
            note_answer(setup, state, served, lost)
        departed = max(departed, entered - line)
        row.age = 0.0
        if over and line > 0.0:
            head = entry_tick(state.entered, departed, head, k)
            row.age = (k + 1 - entry_time(state.entered, departed, head)) * tick
        row.cpu = NAN
        if serving > 0:
            now.busy = spread_burnt(setup, burns, k, (served + errors) / can, served, can)
            row.cpu = uneven_cpu(setup, state) if now.uneven else idle_cpu + span * now.busy
            if builds > 1:
                if not now.uneven:
                    row.cpu = mean_cpu(setup, state)
                tell_sides(setup, state, k)
    now.line, now.held, now.backlog, now.departed, now.head, now.at_load = line, held, line + held, departed, head, at_load
    now.served, now.failed = served_ever, failed_ever
    meter.served, meter.failed, meter.arrived = served_read, failed_read, arrived_read
    return goal
