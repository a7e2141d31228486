"""Swaps: a cheaper instance comes in the place of a dearer one, which leaves once it serves."""


cdef inline long swaps_under_way(State* state) noexcept nogil:
    """How many are there twice meanwhile."""
    number = 0
    for a in range(state.now.living):
        number += is_coming(state, state.alive[a])
    return number


cdef inline bint c_may_double(Setup* setup) noexcept nogil:
    """Whether one may be there while that in whose place it comes still is."""
    return setup.fixed.swap_ticks > 0 or setup.fixed.guest != NOBODY


cdef inline long c_units_doubled(Setup* setup, State* state) noexcept nogil:
    """What is there beyond the count meanwhile, in what the group counts in."""
    now, number = state.now, 0
    if not now.doubled:
        return number
    now.doubled = False
    for a in range(now.living):
        i = state.alive[a]
        now.doubled = now.doubled or state.instances[i].replaces != NOBODY
        if is_coming(state, i):
            number += weight_of_instance(setup, state, i)
    return number


cdef inline bint is_being_replaced(State* state, long i) noexcept nogil:
    for a in range(state.now.living):
        other = state.alive[a]
        if state.instances[other].replaces == i and is_coming(state, other):
            return True
    return False


cdef inline long dearest(Setup* setup, State* state, double time) noexcept nogil:
    """Of those that serve and may be swapped, the dearest, the oldest of several: on-demand ones beyond those that the mix wants,
    and spot ones where spot goes to the cheapest zone. NOBODY if there is none."""
    fixed = setup.fixed
    present, on_demand = launched(setup, state)
    for a in range(state.now.living):
        i = state.alive[a]
        if is_coming(state, i):
            present -= weight_of_instance(setup, state, i)
            old = state.instances[i].replaces
            if bought(state.instances[old].kind) == ON_DEMAND:
                on_demand -= weight_of_instance(setup, state, old)
    beyond = on_demand - wanted_on_demand(fixed.first_on_demand, fixed.share_on_demand, present)
    best, most = NOBODY, 0.0
    for a in range(state.now.living):
        i = state.alive[a]
        one = &state.instances[i]
        if one.state != LIFE_SERVING or (one.pinned and not fixed.swap_pinned) or is_being_replaced(state, i):
            continue
        if bought(one.kind) == ON_DEMAND:
            if weight_of_instance(setup, state, i) > beyond:
                continue
        elif fixed.choice != CHOOSE_CHEAPEST:
            continue
        price = price_now(setup, one.zone, one.kind, time) / worth(setup, one.kind)
        if price > most:
            best, most = i, price
    return best


cdef inline void look_for_swaps(Setup* setup, State* state, double time) noexcept nogil:
    """Send for a cheaper one in the place of each that is dear enough, no more at once than said, and none during a rollout."""
    now = state.now
    fixed = setup.fixed
    step = step_at(time, setup.market.units.l)
    if state.memory.row.rollout != NOBODY:
        return
    for _ in range(fixed.swap_at_once - swaps_under_way(state)):
        old = dearest(setup, state, time)
        if old == NOBODY:
            return
        was = &state.instances[old]
        own = &setup.kinds[was.kind]
        quota = quota_at(setup, time)
        t, zone = spot_place(setup, state, step, fixed.swap_chance, quota, own.capacity, own.weight, NOBODY, was.version)
        if zone == NOBODY:
            return
        kind = kind_of(t, SPOT)
        now_asked = <double>setup.market.units[t][zone][step] / UNIT
        before = price_now(setup, was.zone, was.kind, time)
        if now_asked / worth(setup, kind) > before / worth(setup, was.kind) * (1.0 - fixed.swap_saves):
            return
        i = ask_for(state, time, was.version, NOBODY, free_post(setup, state))
        state.instances[i].kind, state.instances[i].replaces, now.doubled = kind, old, True
        accepted(setup, state, i, zone, time)
        note(state, time, EVENT_KIND_SWAP_BEGINS, CAUSE_NEED, i, old, <long>math.rint((before - now_asked) * UNIT), NOBODY)
    now.next_due = min(now.next_due, time)


cdef inline void complete_swaps(Setup* setup, State* state, double time) noexcept nogil:
    """Those in whose place another serves now leave."""
    if not state.now.doubled:
        return
    for a in range(state.now.living):
        i = state.alive[a]
        one = &state.instances[i]
        if one.replaces == NOBODY or one.state != LIFE_SERVING:
            continue
        old, one.replaces = one.replaces, NOBODY
        if state.instances[old].state != LIFE_SERVING:
            continue
        if setup.fixed.guest != NOBODY:
            note(state, time, EVENT_KIND_COPY_MOVED, CAUSE_NEED, i, old, state.instances[old].host, NOBODY)
            dismiss(setup, state, old, time, NOBODY, False, REASON_MOVED)
            continue
        note(state, time, EVENT_KIND_SWAP_ENDS, CAUSE_NEED, i, old, 0, NOBODY)
        state.now.swaps += 1
        dismiss(setup, state, old, time, NOBODY, False, REASON_SWAPPED)
