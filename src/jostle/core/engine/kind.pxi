"""The kinds of machine that a group has: what an instance of each can do, how soon it is there, and what it costs.

Counts are kept for each kind where instances begin and end to serve and to be billed, so that what the group can do and what it
costs are sums over kinds, however many instances there are."""


cdef inline double can_do(Setup* setup, State* state) noexcept nogil:
    """What the serving instances can do: requests or jobs, 1/s; seats."""
    total = 0.0
    for m in range(setup.kinds.n):
        total += state.crews[m].serving * setup.kinds[m].capacity
    return total


cdef inline double draws(Setup* setup, State* state) noexcept nogil:
    """What the serving instances are given of requests, in the unit of `can_do`: as much as they could do of what the group is
    said to do, whatever their version takes for it."""
    total = 0.0
    for m in range(setup.kinds.n):
        total += state.crews[m].serving * setup.kinds[m].draw
    return total


cdef inline long build_of(Setup* setup, long version) noexcept nogil:
    """The place of a version among those that are told apart, 0 where it is none of them."""
    types = setup.fixed.types
    for b in range(setup.fixed.builds):
        if setup.kinds[2 * types * b].version == version:
            return b
    return 0


cdef inline long first_type(Setup* setup, long version) noexcept nogil:
    """The first type of machine of a version; those after it are as many as each version has."""
    return setup.fixed.types * build_of(setup, version) if setup.fixed.builds > 1 else 0


cdef inline double running_price(Setup* setup, State* state) noexcept nogil:
    """What all instances cost a second, running or stopped, with the disks of those that are gone."""
    total = 0.0
    for m in range(setup.kinds.n):
        total += state.crews[m].billed * setup.kinds[m].price + state.crews[m].stopped * setup.kinds[m].price_stopped
    if setup.fixed.keeps:
        for m in range(setup.kinds.n):
            total += state.crews[m].detached * setup.kinds[m].price_detached
    return total


cdef inline double worth(Setup* setup, long kind) noexcept nogil:
    """What an instance of a kind does against one of the first, whatever their version takes for it."""
    return setup.kinds[kind].draw / setup.kinds[0].draw


cdef inline long weight_of_instance(Setup* setup, State* state, long i) noexcept nogil:
    """What instance i is of what the group counts in."""
    return setup.kinds[state.instances[i].kind].weight


cdef inline long present_units(Setup* setup, State* state) noexcept nogil:
    """Those that are not leaving, stopped or gone in what the group counts in; one that is asked for counts as one of the first
    type."""
    if not setup.fixed.weighed:
        return state.now.present
    number = 0
    for a in range(state.now.living):
        i = state.alive[a]
        if is_present(state.instances[i].state):
            number += weight_of_instance(setup, state, i)
    return number


cdef inline bint is_present(long life) noexcept nogil:
    return life <= LIFE_SERVING or life == LIFE_BROKEN


cdef inline bint is_coming(State* state, long i) noexcept nogil:
    """Whether instance i is on its way in the place of one that still serves."""
    cdef bint coming
    one = &state.instances[i]
    coming = one.replaces != NOBODY and one.state < LIFE_SERVING
    return coming and state.instances[one.replaces].state == LIFE_SERVING


cdef inline long billed_of(Setup* setup, State* state, long machine_type) noexcept nogil:
    """Instances on the machine of a type that run, of whatever version."""
    number = state.crews[kind_of(machine_type, ON_DEMAND)].billed
    if setup.kinds.n > 1:
        number += state.crews[kind_of(machine_type, SPOT)].billed
    if setup.fixed.builds > 1:
        pool = setup.kinds[kind_of(machine_type, ON_DEMAND)].pool
        for m in range(setup.kinds.n):
            if type_of(m) != machine_type and setup.kinds[kind_of(type_of(m), ON_DEMAND)].pool == pool:
                number += state.crews[m].billed
    return number


cdef inline long room_of(Setup* setup, State* state, long machine_type, long quota) noexcept nogil:
    """How many more of a type of machine its quota allows; that of the first is `quota`."""
    kind = &setup.kinds[kind_of(machine_type, ON_DEMAND)]
    allowed = quota if kind.pool == 0 else kind.quota
    return max(0, allowed - billed_of(setup, state, machine_type))


cdef inline long room_left_by(Setup* setup, State* state, long quota, long version) noexcept nogil:
    """How many more of all types of machines of a version their quotas allow."""
    number, first = 0, first_type(setup, version)
    for t in range(first, first + setup.fixed.types):
        number += room_of(setup, state, t, quota)
    return number


cdef inline long most_units(Setup* setup, long quota) noexcept nogil:
    """What the quotas leave to the group, that of its first type being `quota`, in what it counts in."""
    most = min(UNLIMITED, quota * setup.kinds[0].weight)
    for m in range(2, 2 * setup.fixed.types, 2):
        most = min(UNLIMITED, most + min(UNLIMITED, setup.kinds[m].quota) * setup.kinds[m].weight)
    return most
