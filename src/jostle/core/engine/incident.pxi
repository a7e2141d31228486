"""What strikes a group from outside at given times: incidents, and the hands of whoever scripts a test."""


cdef inline void lose_instance(Setup* setup, State* state, long i, double time) noexcept nogil:
    """The machine of instance i is no more: one that works is broken, one that leaves is gone."""
    one = &state.instances[i]
    if one.state == LIFE_BOOTING or one.state == LIFE_WARMING or one.state == LIFE_SERVING:
        break_down(setup, state, i, time, FAULT_STOPPED)
    elif one.state == LIFE_DRAINING:
        state.now.draining -= 1
        give_back(setup, state, i, time, time - one.drains)
        end_instance(setup, state, i, time)
    elif one.state == LIFE_STOPPING:
        end_instance(setup, state, i, time)


cdef inline void close_zones(State* state, long zone, long by) noexcept nogil:
    """One more reason, or one less, for a zone to refuse launches; for every zone where none is named."""
    for z in range(state.zones.n):
        if zone in (NOBODY, z):
            state.zones[z].closed += by


cdef inline void strike(Setup* setup, State* state, long n, double time) noexcept nogil:
    """Incident n begins."""
    now = state.now
    incident = &setup.incidents[n]
    if incident.kind == BLOW_ZONE_LOST:
        state.zones[incident.zone].lost += 1
        for a in range(now.living):
            if state.instances[state.alive[a]].zone == incident.zone:
                lose_instance(setup, state, state.alive[a], time)
    elif incident.kind == BLOW_NO_CAPACITY:
        close_zones(state, incident.zone, 1)
    elif incident.kind == BLOW_SLOW_BOOTS:
        now.boot_factor *= incident.amount
    elif incident.kind == BLOW_SLOW_DEPENDENCY:
        now.extra_latency += incident.amount
    elif incident.kind == BLOW_BREAKING:
        left = <long>math.ceil(incident.amount * now.serving - 1e-9)
        for a in range(now.living):
            if left > 0 and state.instances[state.alive[a]].state == LIFE_SERVING:
                break_down(setup, state, state.alive[a], time, incident.fault)
                left -= 1


cdef inline void pass_over(Setup* setup, State* state, long n) noexcept nogil:
    """Incident n ends."""
    now = state.now
    incident = &setup.incidents[n]
    if incident.kind == BLOW_ZONE_LOST:
        state.zones[incident.zone].lost -= 1
    elif incident.kind == BLOW_NO_CAPACITY:
        close_zones(state, incident.zone, -1)
    elif incident.kind == BLOW_SLOW_BOOTS:
        now.boot_factor /= incident.amount
    elif incident.kind == BLOW_SLOW_DEPENDENCY:
        now.extra_latency = max(0.0, now.extra_latency - incident.amount)


cdef inline double befall(Setup* setup, State* state, double time) noexcept nogil:
    """Begin and end the incidents that are due; returns when the next one is (s from the start)."""
    due = INFINITY
    for n in range(setup.incidents.n):
        incident = &setup.incidents[n]
        if state.incidents[n] == 0 and time >= incident.begin:
            state.incidents[n] = 1
            note(state, time, EVENT_KIND_INCIDENT_BEGINS, CAUSE_NEED, n, 0, 0, NOBODY)
            strike(setup, state, n, time)
        if state.incidents[n] == 1 and time >= incident.end:
            state.incidents[n] = 2
            if incident.kind != BLOW_BREAKING:
                note(state, time, EVENT_KIND_INCIDENT_ENDS, CAUSE_NEED, n, 0, 0, NOBODY)
            pass_over(setup, state, n)
        if state.incidents[n] < 2:
            due = min(due, incident.begin if state.incidents[n] == 0 else incident.end)
    return due


cdef inline long meant(State* state, long number) noexcept nogil:
    """Position of the instance that a hand means, or NOBODY where it is not there."""
    found = NOBODY
    for a in range(state.now.living):
        i = state.alive[a]
        kind = state.instances[i].state
        if kind != LIFE_SERVING and kind != LIFE_BOOTING and kind != LIFE_WARMING:
            continue
        if number in (THE_OLDEST, i):
            return i
        if number == THE_NEWEST:
            found = i
    return found


cdef inline void handle(Setup* setup, State* state, long i, long kind, double time, double amount, double length) noexcept nogil:
    """Do one thing to instance i by hand; `amount` and `length` (s) are those of the load on its CPU."""
    one, now = &state.instances[i], state.now
    if kind == HAND_ACT_DRAIN:
        dismiss(setup, state, i, time, NOBODY, False, REASON_HAND)
    elif kind == HAND_ACT_PIN:
        one.pinned = amount >= 0.0
        now.pins = True
    elif kind == HAND_ACT_STRESS:
        one.stress = amount
        one.stress_until = time + length
        now.uneven = True
        now.next_due = min(now.next_due, time)
    else:
        forsake(state, i)
        if one.state == LIFE_SERVING:
            give_back(setup, state, i, time, 0.0)
            stop_serving(state, i)
        if kind == HAND_ACT_KILL:
            state.now.gaps += weight_of_instance(setup, state, i)
            leave_zone(state, i)
            end_instance(setup, state, i, time)
        else:
            one.restarts += 1
            note(state, time, EVENT_KIND_INSTANCE_RESTARTS, CAUSE_HAND, i, one.restarts, 0, NOBODY)
            boot(setup, state, i, time, False, 0.0)


cdef inline void lay_hand(Setup* setup, State* state, long n, double time) noexcept nogil:
    """Hand n does what it is there for. A count that it sets stands within the limits; `reconcile` sees to the rest."""
    cdef bint done
    hand = &setup.hands[n]
    if hand.kind == HAND_ACT_SET:
        before = state.memory.row.desired
        after = c_set_by_hand(&setup.rules, &state.memory, <long>hand.amount)
        note(state, time, EVENT_KIND_COUNT_CHANGED, CAUSE_HAND, n, before, after, NOBODY)
        fill_fewer(state, after - before)
        return
    if hand.kind == HAND_ACT_LOAD:
        note(state, time, EVENT_KIND_HAND_ACTS, CAUSE_HAND, n, 0, 0, NOBODY)
        return
    if hand.kind == HAND_ACT_ROLL:
        done = c_roll_by_hand(&setup.rules, &state.memory, hand.number, time, state.memory.row.desired)
        note(state, time, EVENT_KIND_HAND_ACTS, CAUSE_HAND, n, <long>done, 0, NOBODY)
        return
    i = meant(state, hand.number)
    note(state, time, EVENT_KIND_HAND_ACTS, CAUSE_HAND, n, i, 0, NOBODY)
    if i == NOBODY:
        return
    handle(setup, state, i, hand.kind, time, hand.amount, hand.length)


cdef inline bint hands_due(Setup* setup, State* state, double time) noexcept nogil:
    """Do what hands do by now; whether one of them set the count."""
    cdef bint counted
    now = state.now
    counted = False
    while now.next_hand < setup.hands.n and time >= setup.hands[now.next_hand].time:
        counted = counted or setup.hands[now.next_hand].kind == HAND_ACT_SET
        lay_hand(setup, state, now.next_hand, time)
        now.next_hand += 1
    return counted
