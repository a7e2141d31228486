"""The life of an instance: requested, booting, warming, serving, draining, stopping, stopped or gone; or broken."""


cdef inline void boot(Setup* setup, State* state, long i, double time, bint fresh, double beside) noexcept nogil:
    """Start the machine of instance i: a fresh one, or one that was there before and starts sooner. What else it takes, s, comes
    `beside` the boot.

    Each launch, by its number and its restarts, takes as long under every arrangement that makes it. One that takes
    longer than the grace of the health checks is found broken before it ever serves.
    """
    fixed = setup.fixed
    one = &state.instances[i]
    number = 64 * i + min(63, one.restarts)
    kind = &setup.kinds[one.kind]
    mean = kind.boot if fresh else kind.start
    close_room(setup, state, i, True)
    one.state = LIFE_BOOTING
    one.fault, one.found = FAULT_SOUND, False
    one.credits, one.lacks = kind.first_credits, 0.0
    one.deadline = INFINITY
    one.heeding = one.told = 0
    one.broke, one.noticed, one.unused = NAN, INFINITY, INFINITY
    drawn = lognormal(stream_of(fixed.seed, STREAM_BOOT), number, kind.boot_spread)
    one.booted = time + beside + mean * state.now.boot_factor * drawn
    if fixed.never_boots > 0.0 and uniform(stream_of(fixed.seed, STREAM_FAULT + 16), number) < fixed.never_boots:
        one.booted = INFINITY
        one.fault = FAULT_FROZEN
    one.serves = INFINITY if fixed.shut else one.booted + kind.warm_up
    answers = one.serves if fixed.health == FAULT_HUNG else one.booted if fixed.health == FAULT_FROZEN else 0.0
    patience = time + fixed.grace + fixed.notice
    if answers > patience:
        one.noticed = patience
    state.now.next_due = min(state.now.next_due, time)


cdef inline void serve_now(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Instance i takes load from now on."""
    now = state.now
    fixed = setup.fixed
    one = &state.instances[i]
    one.state = LIFE_SERVING
    one.serves = time
    one.noticed, one.found = INFINITY, False
    one.given_work = True
    one.sessions = 0
    one.share = one.line = 0.0
    one.breaks = INFINITY
    if fixed.fault_every < INFINITY:
        one.breaks = time + fixed.fault_every * exponential(stream_of(fixed.seed, STREAM_FAULT), 64 * i + min(63, one.restarts))
    now.serving += 1
    state.zones[one.zone].serving += 1
    state.crews[one.kind].serving += 1
    now.units += state.crews[one.kind].weight
    if fixed.sticky > 0.0 or fixed.weighted:
        now.uneven = True
    open_room(setup, state, i)
    note(state, time, EVENT_KIND_INSTANCE_SERVES, CAUSE_NEED, i, now.serving - 1, now.serving, NOBODY)


cdef inline void stop_serving(State* state, long i) noexcept nogil:
    """Instance i does no more work of its own accord: it leaves, or has broken."""
    one = &state.instances[i]
    state.now.serving -= 1
    state.zones[one.zone].serving -= 1
    crew = &state.crews[one.kind]
    crew.serving -= 1
    state.now.units -= crew.weight
    if crew.serving == 0:
        crew.line = 0.0


cdef inline void leave_zone(State* state, long i) noexcept nogil:
    """Instance i is no longer one of those present: it leaves, or is on its way to be stopped."""
    one = &state.instances[i]
    one.found = False
    now = state.now
    now.present -= 1
    if one.state == LIFE_REQUESTED:
        now.waiting -= 1
    else:
        state.zones[one.zone].present -= 1
        if one.overflow:
            now.overflow -= 1


cdef inline void end_instance(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Instance i is gone and costs nothing from now on. Its place among the living is closed by the next `settle`."""
    now = state.now
    one = &state.instances[i]
    before = now.billed
    if one.state != LIFE_REQUESTED:
        end_spell(setup, state, i, time)
    lay_down(setup, state, i, time)
    leave_host(setup, state, i)
    close_room(setup, state, i, True)
    one.state = LIFE_GONE
    one.gone = time
    now.next_due = min(now.next_due, time)
    note(state, time, EVENT_KIND_INSTANCE_GONE, CAUSE_NEED, i, before, now.billed, NOBODY)


cdef inline void stop_or_end(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Instance i has left the work: it stops if it is to be kept, else it is gone."""
    one = &state.instances[i]
    if one.to_stop:
        close_room(setup, state, i, True)
        one.state = LIFE_STOPPING
        one.unused = time + setup.fixed.stop
        state.now.next_due = min(state.now.next_due, time)
    else:
        end_instance(setup, state, i, time)


cdef inline void break_down(Setup* setup, State* state, long i, double time, long fault) noexcept nogil:
    """Instance i breaks. Until the checks have seen it, it is still given work, which fails."""
    now = state.now
    fixed = setup.fixed
    one = &state.instances[i]
    note(state, time, EVENT_KIND_INSTANCE_BROKE, CAUSE_NEED, i, fault, 0, NOBODY)
    close_room(setup, state, i, True)
    if one.state == LIFE_SERVING:
        give_back(setup, state, i, time, 0.0)
        stop_serving(state, i)
        if fails_unseen(setup):
            now.dead += 1
            one.unused = time + fixed.notice
        else:
            one.given_work = False
    else:
        one.given_work = False
    one.state = LIFE_BROKEN
    one.fault = fault
    one.broke = time
    one.breaks = INFINITY
    one.noticed = max(time + fixed.notice, one.requested + fixed.grace) if fault <= fixed.health else INFINITY
    now.next_due = min(now.next_due, time)


cdef inline void forsake(State* state, long i) noexcept nogil:
    """A broken instance is given no more work."""
    one = &state.instances[i]
    if one.state == LIFE_BROKEN and one.given_work:
        one.given_work = False
        state.now.dead -= 1
        one.unused = INFINITY


cdef inline void find(State* state, long i) noexcept nogil:
    """The health checks have found a fault of instance i. It is given no more work, and waits to be seen to."""
    forsake(state, i)
    state.instances[i].found, state.instances[i].noticed = True, INFINITY
    state.now.found = True


cdef inline void mend(Setup* setup, State* state, long i, double time, bint again) noexcept nogil:
    """Restart instance i, whose fault was found, or end it so that another takes its place."""
    one = &state.instances[i]
    if again:
        one.restarts += 1
        note(state, time, EVENT_KIND_INSTANCE_RESTARTS, CAUSE_NEED, i, one.restarts, 0, NOBODY)
        boot(setup, state, i, time, False, 0.0)
    else:
        note(state, time, EVENT_KIND_INSTANCE_REPLACED, CAUSE_NEED, i, one.fault, 0, NOBODY)
        state.now.gaps += weight_of_instance(setup, state, i)
        leave_zone(state, i)
        end_instance(setup, state, i, time)


cdef inline void mend_found(Setup* setup, State* state, double time) noexcept nogil:
    """See to every instance whose fault was found."""
    for a in range(state.now.living):
        i = state.alive[a]
        one = &state.instances[i]
        if one.found:
            mend(setup, state, i, time, c_restarts(&setup.rules, one.restarts, state.zones[one.zone].lost > 0))
    state.now.found = False


cdef inline long kind_of_fault(Setup* setup, long i, long restarts) noexcept nogil:
    fixed = setup.fixed
    if fixed.shut:
        return FAULT_HUNG
    drawn = uniform(stream_of(fixed.seed, STREAM_FAULT + 32), 64 * i + min(63, restarts))
    if drawn < fixed.frozen:
        return FAULT_FROZEN
    return FAULT_HUNG if drawn < fixed.frozen + fixed.hung else FAULT_STOPPED


cdef inline double live(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Make the changes of instance i that are due at `time`; returns when its next one is."""
    one = &state.instances[i]
    if (one.state == LIFE_BOOTING or one.state == LIFE_WARMING) and time >= one.noticed:
        find(state, i)
        return time
    if one.state == LIFE_BOOTING:
        if time < one.booted:
            return min(one.booted, one.noticed)
        one.state = LIFE_WARMING
    if one.state == LIFE_WARMING:
        if time < one.serves:
            return min(one.serves, one.noticed)
        serve_now(setup, state, i, time)
    if one.state == LIFE_SERVING:
        if time >= one.stress_until:
            one.stress, one.stress_until = 0.0, INFINITY
        if time < one.breaks:
            return min(one.breaks, one.stress_until)
        break_down(setup, state, i, time, kind_of_fault(setup, i, one.restarts))
    if one.state == LIFE_BROKEN:
        if time >= one.unused:
            forsake(state, i)
        if time < one.noticed:
            return min(one.unused, one.noticed)
        find(state, i)
        return time
    if one.state == LIFE_DRAINING:
        until = min(one.drains + setup.fixed.drain, one.deadline)
        if time < until and not is_empty(setup, state, i):
            return until
        state.now.draining -= 1
        give_back(setup, state, i, time, time - one.drains)
        stop_or_end(setup, state, i, time)
    if one.state == LIFE_STOPPING:
        if time < one.unused:
            return one.unused
        end_spell(setup, state, i, time)
        begin_spell(state, i, BILLED_STANDING, time)
        one.state = LIFE_STOPPED
        one.unused = INFINITY
        note(state, time, EVENT_KIND_INSTANCE_STOPPED, CAUSE_NEED, i, 0, state.now.stopped, NOBODY)
    return INFINITY


cdef inline void settle(Setup* setup, State* state, double time) noexcept nogil:
    """Make every change of state that is due at `time` (s from the start), and find when the next one is. Faults that are found
    are seen to, unless a keeper does it."""
    change(setup, state, time)
    if state.now.found and not setup.fixed.kept:
        mend_found(setup, state, time)
        change(setup, state, time)


cdef inline void change(Setup* setup, State* state, double time) noexcept nogil:
    """Have each instance make the changes that are due."""
    now = state.now
    next_due = INFINITY
    kept = 0
    for a in range(now.living):
        i = state.alive[a]
        due = live(setup, state, i, time)
        if state.instances[i].state != LIFE_GONE:
            next_due = min(next_due, due)
            state.alive[kept] = i
            kept += 1
    now.living = kept
    now.next_due = next_due


cdef inline long owned(State* state) noexcept nogil:
    """Owned instances that are there, running or stopped."""
    number = 0
    for a in range(state.now.living):
        one = &state.instances[state.alive[a]]
        if one.state != LIFE_REQUESTED and one.state != LIFE_GONE and not one.overflow:
            number += 1
    return number


cdef inline void accepted(Setup* setup, State* state, long i, long zone, double time) noexcept nogil:
    """A request was taken: the machine of instance i begins to boot in a zone, and to cost."""
    cdef bint fresh
    now = state.now
    fixed = setup.fixed
    one = &state.instances[i]
    fresh = one.state == LIFE_REQUESTED
    if fresh:
        now.waiting -= 1
        one.zone = zone
        one.overflow = fixed.owned < UNLIMITED and owned(state) >= fixed.owned
    else:
        end_spell(setup, state, i, time)
        now.present += 1
        one.requested = time
        one.restarts += 1
        one.drains = NAN
        one.to_stop = one.unwanted = False
    if one.overflow:
        now.overflow += 1
    state.zones[one.zone].present += 1
    begin_spell(state, i, BILLED_RUNNING, time)
    boot(setup, state, i, time, fresh, attach(setup, state, i, time) if fresh else 0.0)
