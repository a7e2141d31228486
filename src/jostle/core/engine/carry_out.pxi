"""What was decided is carried out on the simulated instances: they are sent for, or sent away."""


cdef inline void reconcile(Setup* setup, State* state, double time, long who) noexcept nogil:
    """Bring those that are there to the count that is desired, where others are there."""
    if is_off(setup, state):
        bring_to_count(setup, state, time, <long>who)


cdef inline long goal_of(Setup* setup, State* state) noexcept nogil:
    """How many are to be there, with those beyond need of a start and those that are about to be replaced."""
    goal = state.memory.row.desired + state.now.surplus
    if c_may_double(setup) and state.memory.row.rollout == NOBODY:
        goal += c_units_doubled(setup, state)
    return goal


cdef inline bint is_off(Setup* setup, State* state) noexcept nogil:
    """Whether others are there than are to be, or it is still to be seen whether."""
    now = state.now
    return now.waiting > 0 or state.memory.row.rollout != NOBODY or present_units(setup, state) != goal_of(setup, state)


cdef inline void bring_to_count(Setup* setup, State* state, double time, long who) noexcept nogil:
    """Send for as many instances as are missing, or send away as many as are too many; while one version takes the place of
    another, of each in turn."""
    cdef bint rolls
    now, memory = state.now, &state.memory
    goal, present = goal_of(setup, state), present_units(setup, state)
    rolls = memory.row.rollout != NOBODY
    version = before = memory.row.version
    missing, others_missing, leaving, others_leaving = max(0, goal - present), 0, 0, 0
    if rolls:
        tell_apart(setup, state)
        look_at_sides(setup, state, time)
        version, before = now.coming, c_version_before(memory)
        missing, others_missing, leaving, others_leaving = c_turnover(
            &setup.rules, memory, goal, present, state.fleet.fresh, now.serving, most_units(setup, quota_at(setup, time))
        )
    else:
        if present < goal:
            tell_apart(setup, state)
        others_leaving = max(0, present - goal)
    for turn in range(2):
        number = missing if turn == 0 else others_missing
        if number > 0 or (now.waiting > 0 and (turn == 0 or rolls)):
            send_for(setup, state, time, number, who, version if turn == 0 else before)
    if not rolls and others_leaving > 0:
        if as_it_stood(setup, state, goal):
            return
        tell_apart(setup, state)
    for turn in range(2):
        number = leaving if turn == 0 else others_leaving
        if number > 0:
            side = SIDE_ALL if not rolls else SIDE_FRESH if turn == 0 else SIDE_BEFORE
            send_away(setup, state, time, number, who, memory.row.asleep, side)
    if others_leaving > 0 and not rolls:
        now.too_many, now.told_then = goal, now.events


cdef inline bint as_it_stood(Setup* setup, State* state, long goal) noexcept nogil:
    """Whether those that were too many were looked at for this goal, and nothing has happened since: none of them leaves now that
    did not then."""
    now = state.now
    return setup.fixed.settled_order and now.too_many == goal and now.told_then == now.events


cdef inline void evaluate(Setup* setup, State* state, double time) noexcept nogil:
    """One evaluation: the decision, what is noted of it, and the launches or removals that follow from it. A host and its
    guests all decide before the first of them has others come or go; see `carrying`."""
    now = state.now
    fleet = state.fleet
    e = now.evaluations
    fleet.present, fleet.serving = present_units(setup, state), now.units
    fleet.waiting = now.waiting * setup.kinds[0].weight
    fleet.quota = most_units(setup, quota_at(setup, time))
    fleet.pinned = pinned_there(setup, state) if now.pins else 0
    if setup.rules.rollouts.n > 0:
        look_at_sides(setup, state, time)
    v = min(e, state.views.n - 1)
    told = setup.orders.cut(e, e + 1)
    decision, views = state.decisions.cut(e, e + 1), state.views.cut(v, v + 1)
    c_decide(&setup.rules, &state.memory, &state.sight, told, state.fleet, time, decision, views, 0)
    who = enter(state, time, e)
    if state.deck.guests.n == 0:
        reconcile(setup, state, time, who)
    elif is_off(setup, state):
        now.owes, now.owed_by = True, who
        state.deck.helm.owing += 1


cdef inline void fill_fewer(State* state, long risen) noexcept nogil:
    """Where the count falls, that many of those that are gone are not replaced."""
    state.now.gaps = max(0, state.now.gaps + min(0, risen))


cdef inline long enter(State* state, double time, long e) noexcept nogil:
    """Note what was decided in row e of the decisions. Returns the policy that changed the count, if one did."""
    now = state.now
    row = &state.decisions[e]
    if (row.winner != NOBODY and row.limit == OUTCOME_AT_MAXIMUM) or row.limit == OUTCOME_AT_QUOTA:
        if now.held_at != row.decided:
            note(state, time, EVENT_KIND_LIMIT_REACHED, CAUSE_POLICY, row.winner, row.braked, row.decided, e)
        now.held_at = row.decided
    elif now.held_at != row.decided:
        now.held_at = NOBODY
    now.evaluations += 1
    fill_fewer(state, row.decided - row.desired)
    if row.step != STEP_NONE:
        note(state, time, EVENT_KIND_ROLLOUT, CAUSE_CALENDAR, row.rollout, row.step, row.goal, e)
    who = NOBODY
    if row.decided != row.desired:
        named = row.winner if row.cause == CAUSE_POLICY else row.entry
        note(state, time, EVENT_KIND_COUNT_CHANGED, row.cause, named, row.desired, row.decided, e)
        who = row.winner if row.cause == CAUSE_POLICY else NOBODY
    return who
