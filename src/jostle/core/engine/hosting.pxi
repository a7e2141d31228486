"""Hosting: what the instances of a host carry, tick by tick."""


cdef inline (double, double) room_in_all(Setup* setup, State* state) noexcept nogil:
    """vCPUs and GiB that the serving instances have for copies, taken or not."""
    vcpus = memory = 0.0
    for m in range(setup.kinds.n):
        vcpus += state.crews[m].serving * setup.kinds[m].room_vcpus
        memory += state.crews[m].serving * setup.kinds[m].room_memory
    return vcpus, memory


cdef inline long in_turn(State* state, long k) noexcept nogil:
    """Where it is noted what is carried in tick k of the turn."""
    return k - state.deck.helm.begun


cdef inline long carry(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """Each tick from `first` to before `goal`: what is carried, what waits for a place, and what the copies burn. Returns
    `goal`."""
    now, fixed = state.now, setup.fixed
    vcpus, memory = room_in_all(setup, state)
    lost, serving, idle_cpu = stranded(&state.deck), now.serving, fixed.idle_cpu
    for k in range(first, goal):
        row, carried = &state.series[noted(state, k)], &state.deck.carried[in_turn(state, k)]
        now.in_use = carried.memory + carried.wanted_memory
        now.backlog = carried.waiting
        state.entered[k + 1] = state.entered[k]
        row.capacity, row.seated, row.waiting, row.in_use = memory, carried.memory, carried.waiting, now.in_use
        row.served = row.failed = row.age = 0.0
        row.taken = lost
        row.latency = row.cpu = NAN
        row.short = carried.waiting > 0
        if serving > 0:
            now.busy = carried.memory / memory
            row.cpu = min(1.0, idle_cpu + carried.burnt / (vcpus / (1.0 - idle_cpu)))
    return goal


cdef inline void be_carried(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """What a guest takes of its host in each tick from `first` to before `goal`, beside those that were played before it. The
    first of all writes over what was noted a turn before."""
    now, own = state.now, setup.fixed.guest
    guest = &state.deck.guests[own]
    each_vcpus, each_memory, serving = guest.vcpus, guest.memory, now.serving
    vcpus, memory, number = guest.placed * each_vcpus, guest.placed * each_memory, 0
    if now.waiting > 0:
        number = without_place(state)
    for k in range(first, goal):
        carried = &state.deck.carried[in_turn(state, k)]
        if own == 0:
            carried.burnt = carried.vcpus = carried.memory = carried.wanted_vcpus = carried.wanted_memory = 0.0
            carried.waiting = 0
        carried.vcpus += vcpus
        carried.memory += memory
        if serving > 0:
            carried.burnt += <double>state.series[noted(state, k)].cpu * serving * each_vcpus
        carried.waiting += number
        carried.wanted_vcpus += number * each_vcpus
        carried.wanted_memory += number * each_memory


cdef inline long without_place(State* state) noexcept nogil:
    """Copies that wait for a place, those aside that are there to take the place of one that still serves."""
    number = 0
    for a in range(state.now.living):
        i = state.alive[a]
        if state.instances[i].state == LIFE_REQUESTED and not is_coming(state, i):
            number += 1
    return number


cdef inline void read_room(Setup* setup, State* state, long s, long k) noexcept nogil:
    """Reading s of the room that is free in tick k, where any host serves."""
    row, carried = state.sight.samples[0], &state.deck.carried[in_turn(state, k)]
    vcpus, memory = room_in_all(setup, state)
    if memory <= 0.0:
        return
    row[DIAL_FREE_VCPUS][s], row[DIAL_FREE_GIB][s] = vcpus - carried.vcpus, memory - carried.memory
    row[DIAL_FREE_CPU][s], row[DIAL_FREE_MEMORY][s] = 1.0 - carried.vcpus / vcpus, 1.0 - carried.memory / memory
    row[DIAL_LARGEST_PLACE][s] = largest_room(&state.deck, 0.0)[0]


cdef inline void read_wants(State* state, long s, long k) noexcept nogil:
    """Reading s of what guests ask of a host in tick k, whether any serves or not."""
    row, carried = state.sight.samples[0], &state.deck.carried[in_turn(state, k)]
    row[DIAL_VCPUS_IN_USE][s] = carried.vcpus + carried.wanted_vcpus
    row[DIAL_WITHOUT_PLACE][s] = carried.waiting
