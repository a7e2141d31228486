"""Buying: what a launch becomes, on which machine, on demand or spot and where, and what the market takes back."""


cdef inline (long, long) spot_place(
    Setup* setup, State* state, long step, double most_chance, long quota, double least, long weight, long home, long version
) noexcept nogil:
    """The type of machine and the zone that are bought as spot for a version: of those that are sold under the cap on the price,
    with such a chance of a reclaim within the step at the most, within the quotas, and that can do so much at the `least` and
    count for that `weight`, the one that is chosen; in the zone `home` alone where it is one. NOBODY twice if there is none."""
    cdef bint better
    fixed, market = setup.fixed, &setup.market
    best = where = NOBODY
    first = first_type(setup, version)
    for t in range(first, first + fixed.types):
        kind = &setup.kinds[kind_of(t, SPOT)]
        if kind.capacity < least or kind.weight < weight or room_of(setup, state, t, quota) == 0:
            continue
        for z in range(state.zones.n):
            zone, price, chance = &state.zones[z], market.units[t][z][step], market.chances[t][z][step]
            if zone.lost > 0 or zone.closed > 0 or not market.offered[t][z][step] or home not in (NOBODY, z):
                continue
            if price > kind.cap_units or chance > most_chance:
                continue
            if best == NOBODY:
                better = True
            elif fixed.choice == CHOOSE_CHEAPEST or (fixed.choice == CHOOSE_IN_ORDER and z == where):
                better = price / kind.capacity < market.units[best][where][step] / setup.kinds[kind_of(best, SPOT)].capacity
            elif fixed.choice == CHOOSE_SAFEST:
                better = chance < market.chances[best][where][step]
            elif fixed.choice == CHOOSE_IN_ORDER and z != where:
                better = z < where
            else:
                better = is_rarer(setup, state, t, z, best, where)
            if better:
                best, where = t, z
    return best, where


cdef inline bint is_rarer(Setup* setup, State* state, long t, long z, long best, long where) noexcept nogil:
    """Whether fewer are there of a type of machine in a zone than of another elsewhere: by zone first, by type then."""
    there, other = state.zones[z].present, state.zones[where].present
    return there < other or (there == other and billed_of(setup, state, t) < billed_of(setup, state, best))


cdef inline long on_demand_type(Setup* setup, State* state, long quota, long version) noexcept nogil:
    """The type of machine that is bought on demand for a version: the cheapest for what it does of those within their quotas."""
    best = first = first_type(setup, version)
    least = INFINITY
    for t in range(first, first + setup.fixed.types):
        kind = &setup.kinds[kind_of(t, ON_DEMAND)]
        price = kind.price_machine / kind.capacity
        if price < least and room_of(setup, state, t, quota) > 0:
            best, least = t, price
    return best


cdef inline (long, long) launched(Setup* setup, State* state) noexcept nogil:
    """What has been launched and is not leaving, in what the group counts in; and of that, on demand."""
    count = on_demand = 0
    for a in range(state.now.living):
        one = &state.instances[state.alive[a]]
        if one.state == LIFE_BOOTING or one.state == LIFE_WARMING or one.state == LIFE_SERVING or one.state == LIFE_BROKEN:
            weight = weight_of_instance(setup, state, state.alive[a])
            count += weight
            if bought(one.kind) == ON_DEMAND:
                on_demand += weight
    return count, on_demand


cdef inline long how_bought(Setup* setup, State* state, double time) noexcept nogil:
    """How the next launch is bought: a Bought."""
    fixed = setup.fixed
    if not fixed.spot or time < state.now.on_demand_until:
        return BOUGHT_NO_SPOT
    count, on_demand = launched(setup, state)
    if on_demand < wanted_on_demand(fixed.first_on_demand, fixed.share_on_demand, count + 1):
        return BOUGHT_BY_MIX
    return BOUGHT_SPOT


cdef inline bint to_be_had(Setup* setup, State* state, double time, long quota, long home, long version) noexcept nogil:
    """Whether the next launch, where it is spot, finds some, or has waited for it for long enough to be on demand."""
    if how_bought(setup, state, time) != BOUGHT_SPOT:
        return True
    now, fixed = state.now, setup.fixed
    step = step_at(time, setup.market.units.l)
    if spot_place(setup, state, step, fixed.cap_chance, quota, 0.0, 0, home, version)[1] != NOBODY:
        now.no_spot_since = INFINITY
        return True
    if fixed.ordered:
        return False
    now.no_spot_since = min(now.no_spot_since, time)
    return time - now.no_spot_since >= fixed.wait - 1e-6


cdef inline long place_for(Setup* setup, State* state, long i, double time, long quota) noexcept nogil:
    """Decide on which machine instance i is launched, how it is bought, and in which zone."""
    now = state.now
    fixed = setup.fixed
    one = &state.instances[i]
    if fixed.guest != NOBODY:
        return put_on_host(setup, state, i)
    one.kind = kind_of(on_demand_type(setup, state, quota, one.version), ON_DEMAND)
    home = home_of(setup, state, one.post)
    if how_bought(setup, state, time) != BOUGHT_SPOT:
        return zone_for(setup, state, home)
    step = step_at(time, setup.market.units.l)
    t, zone = spot_place(setup, state, step, fixed.cap_chance, quota, 0.0, 0, home, one.version)
    if zone == NOBODY:
        now.on_demand_until, now.no_spot_since = time + fixed.look_again, INFINITY
        now.spot_refused += 1
        note(state, time, EVENT_KIND_NO_SPOT, CAUSE_NEED, i, 0, 0, NOBODY)
        return zone_for(setup, state, home)
    one.kind = kind_of(t, SPOT)
    note(state, time, EVENT_KIND_SPOT_BOUGHT, CAUSE_NEED, i, zone, setup.market.units[t][zone][step], NOBODY)
    return zone


cdef inline void reclaim(Setup* setup, State* state, double time) noexcept nogil:
    """The market takes back what it drew for this step: each is told so, and drains for as long as the notice lasts."""
    now = state.now
    fixed = setup.fixed
    step = step_at(time, setup.market.units.l)
    for a in range(now.living):
        i = state.alive[a]
        one = &state.instances[i]
        if bought(one.kind) != SPOT or not (one.state == LIFE_BOOTING or one.state == LIFE_WARMING or one.state == LIFE_SERVING):
            continue
        if (
            uniform(stream_of(fixed.seed, STREAM_RECLAIM), 1_000_003 * step + i)
            < setup.market.chances[type_of(one.kind)][one.zone][step]
        ):
            one.deadline = time + setup.kinds[one.kind].notice
            now.reclaimed += 1
            dismiss(setup, state, i, time, NOBODY, False, REASON_RECLAIMED)


cdef inline double spot_price(Setup* setup, State* state, double time) noexcept nogil:
    """What the spot instances cost a second by the market, besides their disks and addresses."""
    step = step_at(time, setup.market.units.l)
    total = 0.0
    for t in range(state.berths.n):
        for z in range(state.berths.m):
            total += state.berths[t][z] * setup.market.units[t][z][step]
    return total / (UNIT * 3600.0)
