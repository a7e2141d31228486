"""The loop over ticks: lifecycle and incidents, demand, meters, evaluation, money, in this order."""


cdef inline void happen(Setup* setup, State* state, double time) noexcept nogil:
    """All that is due by itself at `time`: incidents, hands, changes of state; the first launch of a cold start. Where a fault
    waits to be seen to it is called again at the same time."""
    cdef bint counted
    now = state.now
    fixed = setup.fixed
    tell_apart(setup, state)
    due = befall(setup, state, time)
    counted = hands_due(setup, state, time)
    if counted or (time == 0.0 and (fixed.cold or fixed.guest != NOBODY)):
        reconcile(setup, state, time, NOBODY)
    settle(setup, state, time)
    if c_may_double(setup):
        complete_swaps(setup, state, time)
    if now.found:
        now.next_due = time
        return
    now.next_due = min(now.next_due, due)
    if now.next_hand < setup.hands.n:
        now.next_due = min(now.next_due, setup.hands[now.next_hand].time)
    if now.surplus > 0 and now.units >= state.memory.row.desired:
        dropped = drop_coming(setup, state, time, now.surplus)
        note(state, time, EVENT_KIND_SURPLUS_DROPPED, CAUSE_NEED, NOBODY, now.surplus, dropped, NOBODY)
        now.surplus = 0


cdef inline bint begin_tick(Setup* setup, State* state, long k) noexcept nogil:
    """What is due at the beginning of tick k. False where a fault was found that a keeper has to see to."""
    now = state.now
    fixed = setup.fixed
    time = k * fixed.tick
    if time >= now.next_due:
        happen(setup, state, time)
        if now.found:
            return False
    if fixed.spot and k % fixed.market_ticks == 0 and k > 0:
        tell_apart(setup, state)
        due = now.next_due
        reclaim(setup, state, time)
        settle(setup, state, time)
        # Instances alone were asked when they are next due: incidents and hands still are as before.
        now.next_due = min(now.next_due, due)
    if fixed.swap_ticks > 0 and k % fixed.swap_ticks == 0 and k > 0:
        tell_apart(setup, state)
        look_for_swaps(setup, state, time)
    now.begun = k + 1
    return True


cdef inline bint begins(Setup* setup, State* state, long k) noexcept nogil:
    """Whether something is due at the beginning of tick k that has not been seen to."""
    cdef bint on_market
    now, fixed = state.now, setup.fixed
    if now.begun > k:
        return False
    on_market = (fixed.spot and k % fixed.market_ticks == 0) or (fixed.swap_ticks > 0 and k % fixed.swap_ticks == 0)
    return on_market or k * fixed.tick >= now.next_due


cdef inline long next_to(long k, long every) noexcept nogil:
    """The first of every so many ticks that comes after tick k."""
    return (k // every + 1) * every


cdef inline long tick_due(Setup* setup, State* state, long k, long until) noexcept nogil:
    """The first tick after tick k at whose beginning something is due, `until` at the most."""
    now, fixed = state.now, setup.fixed
    goal = until
    if fixed.spot:
        goal = min(goal, next_to(k, fixed.market_ticks))
    if fixed.swap_ticks > 0:
        goal = min(goal, next_to(k, fixed.swap_ticks))
    if (goal - 1) * fixed.tick >= now.next_due:
        goal = max(k + 1, <long>(now.next_due / fixed.tick))
        while goal * fixed.tick < now.next_due:
            goal += 1
    return goal


cdef inline long quiet_until(Setup* setup, State* state, long k, long until) noexcept nogil:
    """The tick up to which, from tick k on and until another at the most, nothing but work is done. One tick alone where each has
    more to do."""
    fixed = setup.fixed
    if fixed.watched != NOBODY or fixed.meter_zones or setup.kinds[0].baseline < 1.0:
        return k + 1
    return tick_due(setup, state, k, min(until, k + AT_ONCE))


cdef inline long work(Setup* setup, State* state, long first, long until) noexcept nogil:
    """The demand of the ticks from `first` on meets the instances. Returns the tick that is next."""
    cdef bint short
    now, fixed = state.now, setup.fixed
    if setup.kinds[0].baseline < 1.0:
        allow(setup, state)
    goal = serve(setup, state, first, until)
    if setup.kinds[0].baseline < 1.0:
        burst(setup, state, first)
    if fixed.watched != NOBODY:
        watch(setup, state, first)
    if fixed.guest != NOBODY:
        be_carried(setup, state, first, goal)
    units, serving, desired, billed, stopped = now.units, now.serving, state.memory.row.desired, now.billed, now.stopped
    short, short_ticks = now.short, now.short_ticks
    for k in range(first, goal):
        row = &state.series[noted(state, k)]
        row.units, row.serving, row.desired, row.billed, row.stopped = units, serving, desired, billed, stopped
        short_ticks += row.short
        if row.short != short:
            short = row.short
            kind = EVENT_KIND_SHORT_BEGINS if short else EVENT_KIND_SHORT_ENDS
            note(state, k * fixed.tick, kind, CAUSE_NEED, NOBODY, 0, 0, NOBODY)
    now.short, now.short_ticks = short, short_ticks
    return goal


cdef inline void pay(Setup* setup, State* state, long first, long goal) noexcept nogil:
    """What the ticks from `first` to before `goal` cost: instances, and what was done by which traffic is told, which are
    requests, jobs, or seconds of sessions."""
    cdef bint seated
    now, fixed = state.now, setup.fixed
    price = (running_price(setup, state) + fixed.price_group) * fixed.tick
    seated, each, spend, pieces = fixed.work == WORK_KIND_SESSIONS, fixed.price_each, now.spend, now.pieces
    for k in range(first, goal):
        row = &state.series[noted(state, k)]
        spend += price
        if fixed.spot:
            spend += spot_price(setup, state, k * fixed.tick) * fixed.tick
        done = <double>row.seated * fixed.tick if seated else <double>row.served
        pieces += done
        spend += each * done
    now.spend, now.pieces = spend, pieces
    now.overflow_ticks += now.overflow * (goal - first)


cdef inline bint play_out(Setup* setup, State* state, long until) noexcept nogil:
    """Play the ticks before number `until`. False where the record's room ran out first: grow it and go on; or where a fault was
    found that a keeper has to see to."""
    cdef bint whole
    whole = play_on(setup, state, until)
    tell_apart(setup, state)
    return whole


cdef inline bint play_on(Setup* setup, State* state, long until) noexcept nogil:
    """The same, where nobody looks at single instances before it goes on."""
    now = state.now
    until = min(until, setup.fixed.ticks)
    while now.tick < until:
        if not play_stretch(setup, state, until):
            return False
    return True


cdef inline bint play_stretch(Setup* setup, State* state, long until) noexcept nogil:
    """Of the ticks before number `until` those that are played in one. False where there was no room, or a fault was found."""
    now, fixed = state.now, setup.fixed
    k = now.tick
    if not room_left(setup, state) or (begins(setup, state, k) and not begin_tick(setup, state, k)):
        return False
    reading = decision = (now.samples + 1) * fixed.period_ticks
    if fixed.evaluate_ticks != fixed.period_ticks:
        decision = next_to(k, fixed.evaluate_ticks)
    goal = work(setup, state, k, quiet_until(setup, state, k, min(until, min(reading, decision))))
    run_meters(setup, state, k, goal)
    pay(setup, state, k, goal)
    if goal == reading:
        take_sample(setup, state, goal - 1)
    if goal == decision and not fixed.kept:
        evaluate(setup, state, goal * fixed.tick)
    now.tick = goal
    return True
