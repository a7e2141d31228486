"""One decision, for a rehearsal and for a group that is really there alike."""


cdef inline long c_decide(
    Rules* rules,
    Memory* memory,
    Sight* sight,
    Array[Order] orders,
    Fleet* fleet,
    double time,
    Array[Decision] decisions,
    Grid[View] views,
    long e,
) noexcept nogil:
    """The count that is wanted from `time` (s, on the clock of the samples) on.

    `orders` holds ORDER rows, shape (evaluations,); `fleet` one FLEET row. What was decided and why is written to row `e` of
    `decisions`, of DECISION, shape (evaluations,), and of `views`, of VIEW, shape (evaluations, policies); what is to be
    remembered to `memory`. With one row of each, `e` is 0. It touches no instance.
    """
    cdef bint agreed, done
    now = memory.row
    row = &decisions[e]
    desired = now.desired
    published = published_by(time, rules.row.meter_delay, rules.row.period)
    if memory.books.n > 0:
        look_ahead(rules, memory, sight, time, orders[e].week, published)
    choose(rules, memory, sight, time, published, decisions, views, e)
    pace(rules, memory, time, decisions, e)
    consult(rules, memory, orders, time, decisions, e)
    if rules.row.order > 0:
        stand(rules, memory, fleet, time, decisions, e)
    brake(rules, memory, time, decisions, e)
    limit(rules, memory, fleet, decisions, e)
    if rules.rollouts.n > 0:
        roll(rules, memory, orders, fleet, time, decisions, e)
    else:
        row.rollout, row.step = NOBODY, STEP_NONE
        row.phase = row.version_before = row.version = row.goal = row.look = 0
        row.own = row.others = row.chance = row.answers = 0.0
    row.time, row.desired, row.serving = time, desired, fleet.serving
    row.pending, row.pinned = fleet.present - fleet.serving, fleet.pinned
    row.group_wait = max(0.0, now.wait_until - time)
    if row.decided != desired:
        row.outcome = OUTCOME_CHANGED
        if row.cause == CAUSE_POLICY:
            for p in range(rules.policies.n):
                agreed = row.decided < desired and views[e][p].state == STANCE_ASKING and views[e][p].ask < desired
                if p == row.winner or agreed:
                    memory.waits[p] = time + rules.policies[p].cooldown
            now.wait_until = time + rules.row.cooldown
        if row.decided < desired:
            remember_removal(memory, time, desired - row.decided)
        now.desired = row.decided
    order = &orders[e]
    done = order.set_entry == row.entry and (order.set_by or order.set_count == row.decided)
    if row.cause == CAUSE_CALENDAR and order.set_time > now.settled and done:
        now.settled = order.set_time
    return now.desired
