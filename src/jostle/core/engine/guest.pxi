"""What becomes of a guest's copies when their host leaves or breaks."""


cdef inline void lose_copy(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Copy i is gone with its host."""
    one = &state.instances[i]
    note(state, time, EVENT_KIND_COPY_LOST, CAUSE_NEED, i, one.host, 0, NOBODY)
    forsake(state, i)
    if one.state == LIFE_DRAINING:
        state.now.draining -= 1
        give_back(setup, state, i, time, time - one.drains)
    else:
        if one.state == LIFE_SERVING:
            give_back(setup, state, i, time, 0.0)
            stop_serving(state, i)
        leave_zone(state, i)
        state.now.gaps += weight_of_instance(setup, state, i)
    end_instance(setup, state, i, time)


cdef inline void move(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Another is started elsewhere in the place of copy i, which leaves once that serves; one that does not serve yet begins
    anew."""
    if state.instances[i].state != LIFE_SERVING:
        dismiss(setup, state, i, time, NOBODY, False, REASON_MOVED)
        return
    if is_being_replaced(state, i):
        return
    other = ask_for(state, time, state.instances[i].version, NOBODY, NOBODY)
    state.instances[other].replaces = i
    state.now.doubled = True
    note(state, time, EVENT_KIND_COPY_MOVES, CAUSE_NEED, other, i, state.instances[i].host, NOBODY)
    if c_find_host(setup, &state.deck) != NOBODY:
        accepted(setup, state, other, put_on_host(setup, state, other), time)


cdef inline void find_places(Setup* setup, State* state, double time) noexcept nogil:
    """Once more for those that wait: room was given back, or a host has come."""
    tell_apart(setup, state)
    send_for(setup, state, time, 0, NOBODY, state.memory.row.version)


cdef inline void heed_hosts(Setup* setup, State* state, double time) noexcept nogil:
    """See to every copy whose host has stopped to take copies, or is lost."""
    now, deck = state.now, &state.deck
    tell_apart(setup, state)
    for a in range(now.living):
        i = state.alive[a]
        one = &state.instances[i]
        if one.host == NOBODY or one.state in (LIFE_REQUESTED, LIFE_GONE):
            continue
        room = &deck.rooms[one.host]
        if room.lost:
            lose_copy(setup, state, i, time)
        elif not room.open and one.state in (LIFE_BOOTING, LIFE_WARMING, LIFE_SERVING):
            move(setup, state, i, time)
    now.next_due = min(now.next_due, time)
