"""Sending for instances: stopped ones of the reserve first, then new ones, in a zone that takes them."""


cdef inline long quota_at(Setup* setup, double time) noexcept nogil:
    """Instances that the quota leaves to this group."""
    fixed = setup.fixed
    e = <long>(time / (fixed.evaluate_ticks * fixed.tick) + 1e-9) - 1
    return setup.quota[min(max(0, e), setup.quota.n - 1)] if setup.quota.n else UNLIMITED


cdef inline long stopped_one(State* state) noexcept nogil:
    """The longest stopped instance of the open zone that has the fewest at work, or NOBODY."""
    now = state.now
    best = NOBODY
    if now.stopped == 0:
        return best
    for a in range(now.living):
        i = state.alive[a]
        one = &state.instances[i]
        zone = &state.zones[one.zone]
        if one.state != LIFE_STOPPED or zone.lost > 0 or zone.closed > 0:
            continue
        if best == NOBODY or zone.present < state.zones[state.instances[best].zone].present:
            best = i
    return best


cdef inline long ask_for(State* state, double time, long version, long who, long post) noexcept nogil:
    """Write a request for a new instance, under a number of the names that are used again; returns its position."""
    now = state.now
    i = now.launched
    one = &state.instances[i]
    one[0] = UNTOUCHED
    one.requested = time
    one.booted = one.serves = INFINITY
    one.state = LIFE_REQUESTED
    one.version = version
    one.asked_by = who
    one.post = post
    if post != NOBODY:
        state.posts[post].held_by = i
    state.alive[now.living] = i
    now.living += 1
    now.launched += 1
    now.present += 1
    now.waiting += 1
    return i


cdef inline long lacking(Setup* setup, State* state) noexcept nogil:
    """Of what no host has enough for a copy."""
    guest = &state.deck.guests[setup.fixed.guest]
    return REFUSAL_MEMORY if largest_room(&state.deck, guest.memory)[0] + CRUMB < guest.memory else REFUSAL_VCPUS


cdef inline long largest_free(Setup* setup, State* state, long refused) noexcept nogil:
    """The largest place that is free, of what a launch was refused for: memory in MiB, or vCPUs in thousandths."""
    memory, vcpus = largest_room(&state.deck, state.deck.guests[setup.fixed.guest].memory)
    return <long>math.rint(1024.0 * memory) if refused == REFUSAL_MEMORY else <long>math.rint(1000.0 * vcpus)


cdef inline long try_launch(Setup* setup, State* state, double time, long quota, long post, long version) noexcept nogil:
    """Have one more instance of a version, under a number of its name, where something takes it: its position, NOBODY where it is
    to be asked for, or -2 - reason of the refusal."""
    if room_left_by(setup, state, quota, version) == 0:
        return -2 - REFUSAL_QUOTA
    i = stopped_one(state)
    if i != NOBODY:
        accepted(setup, state, i, state.instances[i].zone, time)
        note(state, time, EVENT_KIND_INSTANCE_STARTS, CAUSE_NEED, i, 0, state.now.stopped, NOBODY)
        return i
    if setup.fixed.guest != NOBODY:
        return NOBODY if c_find_host(setup, &state.deck) != NOBODY else -2 - lacking(setup, state)
    if (setup.fixed.ordered or setup.fixed.wait > 0.0) and not to_be_had(
        setup, state, time, quota, home_of(setup, state, post), version
    ):
        return -2 - REFUSAL_MARKET
    return -2 - REFUSAL_CAPACITY if zone_for(setup, state, home_of(setup, state, post)) == NOBODY else NOBODY


cdef inline void send_for(Setup* setup, State* state, double time, long number, long who, long version) noexcept nogil:
    """Send for instances of a version; see `launch_all`."""
    launch_all(setup, state, time, <long>number, <long>who, version)


cdef inline void launch_all(Setup* setup, State* state, double time, long number, long who, long version) noexcept nogil:
    """Send for as many instances of a version as are worth so much of what the group counts in, and once more for those that were
    refused before."""
    now = state.now
    quota = quota_at(setup, time)
    waited = had = now.waiting
    refused = NOBODY
    for a in range(now.living):
        if waited == 0:
            break
        i = state.alive[a]
        if state.instances[i].state != LIFE_REQUESTED:
            continue
        waited -= 1
        found = try_launch(setup, state, time, quota, state.instances[i].post, state.instances[i].version)
        if found == NOBODY:
            accepted(setup, state, i, place_for(setup, state, i, time, quota), time)
        elif found >= 0:
            leave_zone(state, i)
            end_instance(setup, state, i, time)
        else:
            refused = -2 - found
    missing = number
    while missing > 0:
        post = free_post(setup, state)
        found = try_launch(setup, state, time, quota, post, version)
        if found >= 0:
            state.instances[found].asked_by = who
            missing -= weight_of_instance(setup, state, found)
            continue
        i = ask_for(state, time, version, who, post)
        if found == NOBODY:
            accepted(setup, state, i, place_for(setup, state, i, time, quota), time)
            if now.gaps > 0:
                note(state, time, EVENT_KIND_INSTANCE_LAUNCHED, CAUSE_NEED, i, 0, 0, NOBODY)
                now.gaps -= weight_of_instance(setup, state, i)
        else:
            refused = -2 - found
        missing -= weight_of_instance(setup, state, i)
    if now.waiting > had and refused != NOBODY:
        most = largest_free(setup, state, refused) if setup.fixed.guest != NOBODY else quota
        note(state, time, EVENT_KIND_LAUNCH_REFUSED, CAUSE_NEED, refused, now.waiting, most, NOBODY)
    elif had > 0 and now.waiting == 0:
        note(state, time, EVENT_KIND_LAUNCH_TAKEN, CAUSE_NEED, NOBODY, had, 0, NOBODY)
    now.next_due = min(now.next_due, time)
