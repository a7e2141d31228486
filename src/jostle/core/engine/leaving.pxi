"""Choosing who leaves, and sending them."""


cdef inline Column[int32_t] present_by_zone(State* state) noexcept nogil:
    return column_of(&state.zones.at.present, state.zones.n, sizeof(Zone))


cdef inline bint may_leave(State* state, long i, long side) noexcept nogil:
    """Whether instance i is there to be picked, of a Side. A pinned one is only when the whole group falls asleep, or to be
    replaced by another version."""
    one, now = &state.instances[i], state.memory.row
    if side != SIDE_ALL and (one.version == state.now.coming) != (side == SIDE_FRESH):
        return False
    return is_present(one.state) and (not one.pinned or now.asleep or side != SIDE_ALL)


cdef inline long list_candidates(Setup* setup, State* state, double time, long side) noexcept nogil:
    """Write a row for each instance of a Side that may leave; returns how many there are."""
    number = 0
    for a in range(state.now.living):
        i = state.alive[a]
        if not may_leave(state, i, side):
            continue
        one, row = &state.instances[i], &state.candidates[number]
        row.number, row.zone, row.version, row.overflow, row.sessions = i, one.zone, one.version, one.overflow, one.sessions
        if setup.fixed.work == WORK_KIND_HOSTING:
            row.sessions = state.deck.rooms[i].copies
        row.standing, row.paid_left, row.weight = STANDING_COMING, 0.0, setup.kinds[one.kind].weight
        row.spot, row.price = bought(one.kind) == SPOT, price_now(setup, one.zone, one.kind, time)
        if one.state == LIFE_REQUESTED:
            row.standing = STANDING_ASKED
        elif one.state == LIFE_SERVING:
            row.standing = STANDING_SERVING
        elif one.state == LIFE_BROKEN:
            row.standing = STANDING_BROKEN
        if one.state != LIFE_REQUESTED:
            row.paid_left = paid_left(time, state.spells[one.spell].begin)
        number += 1
    return number


cdef inline double price_now(Setup* setup, long zone, long kind, double time) noexcept nogil:
    """What an hour of the machine of an instance costs."""
    steps = setup.market.units.l
    if bought(kind) == ON_DEMAND or steps == 0:
        return setup.kinds[kind_of(type_of(kind), ON_DEMAND)].price_machine * 3600.0
    return <double>setup.market.units[type_of(kind)][zone][step_at(time, steps)] / UNIT


cdef inline void dismiss(Setup* setup, State* state, long i, double time, long who, bint to_stop, long why) noexcept nogil:
    """Instance i leaves, for a Reason; see `have_leave`."""
    have_leave(setup, state, <long>i, time, <long>who, <bint>to_stop, why)


cdef inline void have_leave(Setup* setup, State* state, long i, double time, long who, bint to_stop, long why) noexcept nogil:
    """Instance i leaves, for a Reason: one that serves drains, another ends or stops at once."""
    one = &state.instances[i]
    now = state.now
    leave_zone(state, i)
    one.sent_by = who
    if why == REASON_RECLAIMED or why == REASON_HAND:
        now.gaps += weight_of_instance(setup, state, i)
    note(state, time, EVENT_KIND_INSTANCE_LEAVES, CAUSE_NEED, i, why, 0, NOBODY)
    one.unwanted = why != REASON_RECLAIMED and why != REASON_SWAPPED and why != REASON_HAND and why != REASON_ROLLOUT
    one.to_stop = to_stop and one.state != LIFE_REQUESTED and one.state != LIFE_BROKEN
    forsake(state, i)
    if one.state == LIFE_SERVING:
        start_draining(setup, state, i)
        stop_serving(state, i)
        one.state = LIFE_DRAINING
        close_room(setup, state, i, False)
        one.drains = time
        now.draining += 1
        now.next_due = min(now.next_due, time)
    elif one.to_stop:
        stop_or_end(setup, state, i, time)
    else:
        end_instance(setup, state, i, time)


cdef inline void send_away(Setup* setup, State* state, double time, long number, long who, bint sleep, long side) noexcept nogil:
    """Instances of a Side leave one after the other, as long as the next in turn is worth no more than what is too many."""
    cdef bint owned
    owned = setup.fixed.owned < UNLIMITED
    candidates = list_candidates(setup, state, time, side)
    left = number
    while left > 0:
        c = c_next_to_leave(&setup.rules, state.candidates, candidates, present_by_zone(state))
        if c == NOBODY or state.candidates[c].weight > left:
            return
        row = &state.candidates[c]
        left -= row.weight
        why = REASON_ROLLOUT
        if side == SIDE_ALL:
            why = c_why_it(&setup.rules, state.candidates, candidates, present_by_zone(state), c)
        row.standing = STANDING_LEFT
        dismiss(setup, state, row.number, time, who, is_kept(sleep, owned, row.overflow) and not row.spot, why)


cdef inline long drop_coming(Setup* setup, State* state, double time, long number) noexcept nogil:
    """Instances that do not serve yet end, newest first, up to so much of what the group counts in; returns what they were."""
    now = state.now
    dropped = 0
    for a in range(now.living - 1, -1, -1):
        i = state.alive[a]
        kind = state.instances[i].state
        weight = weight_of_instance(setup, state, i)
        if dropped + weight <= number and (kind in (LIFE_REQUESTED, LIFE_BOOTING, LIFE_WARMING)):
            dismiss(setup, state, i, time, NOBODY, False, REASON_SURPLUS)
            dropped += weight
    return dropped


cdef inline long pinned_there(Setup* setup, State* state) noexcept nogil:
    """How many of those present are pinned, in what the group counts in."""
    number = 0
    for a in range(state.now.living):
        one = &state.instances[state.alive[a]]
        if one.pinned and is_present(one.state):
            number += weight_of_instance(setup, state, state.alive[a])
    return number


cdef inline void c_next_by_each(Setup* setup, State* state, double time, Array[schar] each, Array[long] chosen) noexcept nogil:
    """Write into `chosen` which instance would leave next by each of the criteria alone, NOBODY where none would. The rules of
    `setup` are to have one criterion, which is written over."""
    number = list_candidates(setup, state, time, SIDE_ALL)
    for k in range(each.n):
        setup.rules.criteria[0] = each[k]
        c = c_next_to_leave(&setup.rules, state.candidates, number, present_by_zone(state))
        chosen[k] = NOBODY if c == NOBODY else state.candidates[c].number


cdef inline (long, long) c_next_out(Setup* setup, State* state, double time) noexcept nogil:
    """Instance that would leave next, or NOBODY, and the Reason."""
    number = list_candidates(setup, state, time, SIDE_ALL)
    c = c_next_to_leave(&setup.rules, state.candidates, number, present_by_zone(state))
    if c == NOBODY:
        return NOBODY, REASON_ONLY
    return state.candidates[c].number, c_why_it(&setup.rules, state.candidates, number, present_by_zone(state), c)
