"""Spells: stretches of time of an instance that are billed at one price."""


cdef inline long new_spell(State* state, long i, long kind, double time) noexcept nogil:
    """Write a spell of instance i that begins. Returns its number."""
    now = state.now
    row = &state.spells[now.spells]
    row.instance, row.kind, row.begin, row.end = i, kind, time, NAN
    row.requested = row.booted = row.serves = row.drains = 0.0
    now.spells += 1
    return now.spells - 1


cdef inline void begin_spell(State* state, long i, long kind, double time) noexcept nogil:
    now = state.now
    state.instances[i].spell = new_spell(state, i, kind, time)
    crew = &state.crews[state.instances[i].kind]
    if kind == BILLED_RUNNING:
        now.billed += 1
        crew.billed += 1
        if bought(state.instances[i].kind) == SPOT:
            state.berths[type_of(state.instances[i].kind)][state.instances[i].zone] += 1
    else:
        now.stopped += 1
        crew.stopped += 1


cdef inline void end_spell(Setup* setup, State* state, long i, double time) noexcept nogil:
    now = state.now
    one = &state.instances[i]
    kind, crew = &setup.kinds[one.kind], &state.crews[one.kind]
    row = &state.spells[one.spell]
    row.end = time
    row.requested, row.booted, row.serves, row.drains = one.requested, one.booted, one.serves, one.drains
    if row.kind == BILLED_RUNNING:
        now.billed -= 1
        crew.billed -= 1
        if bought(one.kind) == SPOT:
            state.berths[type_of(one.kind)][one.zone] -= 1
        now.spend += top_up(time - row.begin, kind.hourly, kind.least_micros) * kind.price_machine
    else:
        now.stopped -= 1
        crew.stopped -= 1
