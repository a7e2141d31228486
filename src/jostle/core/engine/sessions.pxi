"""Sessions: guests who take a seat and stay a while."""


cdef inline void read_seats(Setup* setup, State* state, long s, double serving) noexcept nogil:
    """Reading s of the seats that were free, with so many serving over the period."""
    seats = serving * setup.kinds[0].capacity
    free = seats - state.meters[0].sessions / setup.fixed.period_ticks
    row = state.sight.samples[0]
    row[DIAL_FREE_SEATS][s] = free
    row[DIAL_FREE_SEATS_SHARE][s] = free / seats


cdef inline bint may_end(long stream, long step, double mean) noexcept nogil:
    """Whether any of some that end independently may be drawn to end, so many on average. Surely none is below this chance, which
    is less than that of none, and takes less to work out (Bernoulli's inequality)."""
    return uniform(stream, step) > 1.0 - mean


cdef inline void leave_draining(Setup* setup, State* state, long step, double time) noexcept nogil:
    """Sessions of those that take no more end; the last of an instance ends by `time`."""
    now = state.now
    fixed = setup.fixed
    d = 0
    while d < now.emptying:
        i = state.draining[d]
        one = &state.instances[i]
        stream = stream_of(fixed.seed, STREAM_LEAVE + 4096 * (1 + i))
        if may_end(stream, step, one.sessions * fixed.session_end):
            none = power(1.0 - fixed.session_end, one.sessions)
            ended = binomial(stream, step, one.sessions, fixed.session_end, none)
            one.sessions -= ended
            now.in_use -= ended
        if fixed.notice_times > 0:
            heed_notice(setup, state, i, step, time)
        if one.sessions == 0:
            now.next_due = min(now.next_due, time)
            now.emptying -= 1
            state.draining[d] = state.draining[now.emptying]
        else:
            d += 1


cdef inline long drawn_of(Setup* setup, long stream, long step, long number, double share) noexcept nogil:
    """How many of so many it is, each with a chance; all of them where it is certain."""
    if share >= 1.0 or number == 0:
        return number
    small = min(share, 1.0 - share)
    drawn = binomial(stream_of(setup.fixed.seed, stream), step, number, small, power(1.0 - small, number))
    return number - drawn if share > small else drawn


cdef inline void heed_notice(Setup* setup, State* state, long i, long step, double time) noexcept nogil:
    """Those on the draining instance i are told that it leaves, and some of those who heed it go."""
    now = state.now
    fixed = setup.fixed
    one = &state.instances[i]
    stream = STREAM_LEAVE + 4096 * (1 + i)
    one.heeding = min(one.heeding, one.sessions)
    if one.told < fixed.notice_times and time >= one.drains + one.told * fixed.notice_every:
        one.told += 1
        others = one.sessions - one.heeding
        one.heeding += drawn_of(setup, stream + 1024, step, others, fixed.heed)
    if one.heeding == 0:
        return
    gone = drawn_of(setup, stream + 2048, step, one.heeding, fixed.moves)
    one.heeding -= gone
    one.sessions -= gone
    now.in_use -= gone
    now.moved += gone
    now.coming_back += drawn_of(setup, stream + 3072, step, gone, fixed.come_back)


cdef inline long ends_of(Setup* setup, long ends, long step, long held) noexcept nogil:
    """How many of so many sessions end within a step, drawn from the stream `ends`: binomial, from its mean, variance and
    skewness where many do (Cornish and Fisher, 1938)."""
    fixed = setup.fixed
    share = fixed.session_end
    mean = held * share
    if mean < MANY_ENDS:
        return binomial(ends, step, held, share, math.exp(held * fixed.log_stay))
    z = bell(ends, step)
    ended = mean + math.sqrt(mean * (1.0 - share)) * z + (1.0 - 2.0 * share) * (z * z - 1.0) * (1.0 / 6.0)
    return min(held, max(0, <long>(ended + 0.5)))


cdef inline long leave_seats(Setup* setup, State* state, long step, double time, long ends, long places) noexcept nogil:
    """Sessions that end within a step, which is over at `time`. Returns how many of them with those that serve.

    How many end is drawn for all, from the stream `ends`, and then, where they are few, for each whose it is; else, from the
    stream `places`, where the first of them lies.
    """
    now = state.now
    fixed = setup.fixed
    if now.emptying > 0:
        leave_draining(setup, state, step, time)
    total = now.seated
    if total == 0:
        return 0
    draw_in(state)
    ended = ends_of(setup, ends, step, total)
    if ended > MOST_ONE_BY_ONE:
        return leave_levels(state, ended, uniform(places, step))
    for e in range(ended):
        leave_one(state, <long>((total - e) * uniform(stream_of(fixed.seed, STREAM_LEAVE + 2 + 16 * e), step)))
    return ended


cdef inline long find_seats(Setup* setup, long step, long came, long free, long left) noexcept nogil:
    """How many of those that come find a seat where so many are free and so many more become so, all in an order by chance."""
    seed = setup.fixed.seed
    found = 0
    for event in range(came + left):
        if (came + left) * uniform(stream_of(seed, STREAM_LEAVE + 1 + 16 * event), step) < left:
            free += 1
            left -= 1
        else:
            came -= 1
            if free > 0:
                free -= 1
                found += 1
    return found


cdef inline void leave_at_once(Setup* setup, State* state, long step, long begun, long at_once) noexcept nogil:
    """Of the sessions begun within a step, those that end within it, by the stream `at_once`."""
    if may_end(at_once, step, begun * setup.fixed.at_once):
        end_at_once(setup, state, step, begun)


cdef inline void end_at_once(Setup* setup, State* state, long step, long begun) noexcept nogil:
    """As many of the sessions begun within a step end within it as is drawn."""
    now = state.now
    fixed = setup.fixed
    ended = binomial(stream_of(fixed.seed, STREAM_LEAVE), step, begun, fixed.at_once, power(1.0 - fixed.at_once, begun))
    for e in range(min(ended, now.seated)):
        leave_one(state, <long>(now.seated * uniform(stream_of(fixed.seed, STREAM_LEAVE + 4 + 16 * e), step)))


cdef inline void cut_off(State* state, long i, double time) noexcept nogil:
    """The sessions that instance i held when it ended are over before their time."""
    now = state.now
    one = &state.instances[i]
    if one.sessions > 0:
        note(state, time, EVENT_KIND_SESSIONS_CUT, CAUSE_NEED, i, one.sessions, 0, NOBODY)
        now.cut_off += one.sessions
        now.in_use -= one.sessions
        one.sessions = 0


cdef inline long fail_sessions(Setup* setup, State* state, long step, long came) noexcept nogil:
    """Of so many sessions that come those that break off at once, for the version of their instance. Returns how many."""
    failed, serving = 0, state.now.serving
    for m in range(setup.kinds.n):
        crew, kind = &state.crews[m], &setup.kinds[m]
        if crew.serving > 0 and kind.failing > 0.0:
            own = drawn_of(setup, STREAM_ERROR + m % 16, step, came - failed, kind.failing * crew.serving / serving)
            crew.done += own
            crew.errors += own
            failed += own
    return failed


cdef inline double seated_cpu(Setup* setup, State* state) noexcept nogil:
    """Mean CPU of the serving instances, of which each version takes its own for a session."""
    fixed, now = setup.fixed, state.now
    total = 0.0
    for m in range(setup.kinds.n):
        crew = &state.crews[m]
        crew.cpu = min(1.0, fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy * setup.kinds[m].cpu)
        total += crew.serving * crew.cpu
    return total / now.serving


cdef inline long hold_sessions(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """The sessions of each tick from `first` to before `goal`, or until the last of an instance that drains has ended: in so many
    steps that few are over within one some end, new ones take seats, or are refused. Returns the tick that is next. What changes
    with each tick beside who sits where is held here, not in the state."""
    cdef bint apart
    now, fixed, meter = state.now, setup.fixed, &state.meters[0]
    if not now.levelled:
        level_seats(state)
    steps, tick, serving = fixed.steps, fixed.tick, now.serving
    seats, capacity = can_do(setup, state), <long>setup.kinds[0].capacity
    idle_cpu, span, builds, entered = fixed.idle_cpu, fixed.full_cpu - fixed.idle_cpu, fixed.builds, state.entered[first]
    apart = builds > 1 or setup.kinds[0].cpu != 1.0
    served_ever, failed_ever, departed = now.served, now.failed, now.departed
    served_read, failed_read, arrived_read, held_read = meter.served, meter.failed, meter.arrived, meter.sessions
    comes, at_once = stream_of(fixed.seed, STREAM_ARRIVE), stream_of(fixed.seed, STREAM_LEAVE)
    ends, places = stream_of(fixed.seed, STREAM_LEAVE + 3), stream_of(fixed.seed, STREAM_LEAVE + 2)
    k = first
    while k < goal:
        begun = refused = 0
        for s in range(steps):
            step = k * steps + s
            free = <long>seats - now.seated
            left = leave_seats(setup, state, step, (k + 1) * tick, ends, places)
            came = <long>setup.arrivals[k] if steps == 1 else poisson(comes, step, setup.means[k] / steps)
            if now.coming_back > 0:
                came += now.coming_back
                now.came_back += now.coming_back
                now.coming_back = 0
            lost = <long>math.rint(<double>(came * now.dead) / (serving + now.dead)) if now.dead > 0 else 0
            if fixed.fails:
                lost += fail_sessions(setup, state, step, came - lost)
            new = came - lost
            if new > free:
                new = find_seats(setup, step, new, free, left)
            if new > 0:
                new = seat_packed(state, capacity, new) if fixed.pack else seat_spread(state, capacity, new)
            now.in_use += new
            now.seated += new
            begun += new
            refused += came - new
            if new > 0:
                leave_at_once(setup, state, step, new, at_once)
        arrived, seated = begun + refused, now.seated
        entered += arrived
        state.entered[k + 1] = entered
        served_ever += begun
        failed_ever += refused
        departed += arrived
        served_read += begun
        failed_read += refused
        arrived_read += arrived
        held_read += seated
        row = &state.series[noted(state, k)]
        row.capacity, row.served, row.failed, row.waiting = seats, begun, refused, 0.0
        row.age, row.taken, row.in_use, row.seated = 0.0, 0.0, now.in_use, seated
        row.short = refused > 0
        row.latency = row.cpu = NAN
        if fixed.meter_zones:
            seat_zones(state)
        if serving > 0:
            now.busy = seated / seats
            cpu = seated_cpu(setup, state) if apart else idle_cpu + span * now.busy
            row.cpu = read_cpu(setup, state, cpu)
        if builds > 1:
            for m in range(setup.kinds.n):
                if serving > 0:
                    state.crews[m].done += <double>(begun * state.crews[m].serving) / serving
            tell_sides(setup, state, k)
        k += 1
        if k * tick >= now.next_due:
            break
    now.served, now.failed, now.departed = served_ever, failed_ever, departed
    meter.served, meter.failed, meter.arrived, meter.sessions = served_read, failed_read, arrived_read, held_read
    return k


cdef inline void seat_zones(State* state) noexcept nogil:
    """Write down how many sessions the serving instances of each zone hold."""
    write_seats(state)
    for z in range(state.zones.n):
        state.zones[z].sessions = 0
    for r in range(state.now.ordered):
        one = &state.instances[state.order[r]]
        state.zones[one.zone].sessions += one.sessions
