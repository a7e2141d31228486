"""From what the policies ask to what is decided, stage by stage, each stage recorded in the decision row."""


cdef inline void choose(
    Rules* rules, Memory* memory, Sight* sight, double time, long published, Array[Decision] decisions, Grid[View] views, long e
) noexcept nogil:
    """Stages 1 and 2: the largest ask that adds wins; the count goes down only if all that may remove agree, and not below what a
    policy expects to be needed."""
    cdef bint agreed, asking
    desired = memory.row.desired
    highest, adder = desired, NOBODY
    lowest, remover = -1, NOBODY
    agreed, needed = True, 0
    for p in range(rules.policies.n):
        ask_policy(rules, memory, sight, p, time, published, views, e)
        asking = views[e][p].state == STANCE_ASKING
        wanted = views[e][p].ask
        policy = &rules.policies[p]
        if policy.kind == POLICY_KIND_LOOKAHEAD and views[e][p].state == STANCE_QUIET:
            expected = lookahead_ask(views[e][p].value, rules.row.each, rules.row.unit, policy.level)
            needed = max(needed, min(expected, desired))
        if asking and wanted > highest:
            highest, adder = wanted, p
        if asking and wanted < desired:
            if wanted > lowest:
                lowest, remover = wanted, p
        elif rules.policies[p].removes and views[e][p].state != STANCE_PAUSED:
            agreed = False
    row = &decisions[e]
    row.winner, row.wanted, row.outcome = NOBODY, desired, OUTCOME_NOTHING
    if adder != NOBODY:
        row.winner, row.wanted = adder, highest
    elif remover != NOBODY:
        row.winner, row.wanted = remover, lowest
        if not agreed:
            row.outcome = OUTCOME_NOT_AGREED
        elif needed == desired:
            row.outcome = OUTCOME_EXPECTED
        else:
            row.wanted = max(lowest, needed)


cdef inline void pace(Rules* rules, Memory* memory, double time, Array[Decision] decisions, long e) noexcept nogil:
    """Stages 3 and 4: the group's wait, and its mode."""
    desired = memory.row.desired
    row = &decisions[e]
    row.paced = row.wanted if row.outcome == OUTCOME_NOTHING else desired
    if row.paced != desired and time < memory.row.wait_until:
        row.paced, row.outcome = desired, OUTCOME_GROUP_WAITS
    row.allowed = row.paced
    mode = rules.row.mode
    if row.allowed != desired and (mode == MODE_STAY or (mode == MODE_GROW and row.allowed < desired)):
        row.allowed, row.outcome = desired, OUTCOME_MODE_HOLDS


cdef inline bint is_due(Rules* rules, Memory* memory, Array[Order] orders, double time, long e) noexcept nogil:
    """Whether the calendar's latest setting is still to be done.

    It is tried at its first evaluation, and for as long as it says; a later one takes its place.
    """
    order, now = &orders[e], memory.row
    if not order.set_time > now.settled:
        return False
    if time < order.set_time + rules.row.evaluate_every - 1e-6 or time <= order.set_until + 1e-6:
        return True
    now.settled = order.set_time
    return False


cdef inline void consult(
    Rules* rules, Memory* memory, Array[Order] orders, double time, Array[Decision] decisions, long e
) noexcept nogil:
    """Stage 5: the calendar's settings, freezes, removals, floors, bounds and sleep."""
    now = memory.row
    row, order = &decisions[e], &orders[e]
    row.scheduled, row.entry, row.cause = row.allowed, NOBODY, CAUSE_POLICY
    if order.gates & GATE_SLEEP:
        if not now.asleep:
            now.asleep, now.awake_count = True, now.desired
        row.scheduled, row.entry, row.cause = 0, order.gates_by, CAUSE_SLEEP
        if row.winner != NOBODY:
            row.outcome = OUTCOME_ASLEEP
        return
    if now.asleep:
        now.asleep = False
        row.scheduled, row.cause = now.awake_count, CAUSE_SLEEP
    if is_due(rules, memory, orders, time, e):
        row.scheduled = max(0, now.desired + order.set_count) if order.set_by else order.set_count
        row.entry, row.cause = order.set_entry, CAUSE_CALENDAR
        now.hand_stands = False
    if order.gates & GATE_FREEZE and row.cause != CAUSE_SLEEP:
        if row.scheduled != now.desired:
            row.scheduled, row.outcome, row.entry = now.desired, OUTCOME_FROZEN, order.gates_by
        return
    if order.gates & GATE_NO_REMOVALS and row.scheduled < now.desired:
        row.scheduled, row.outcome, row.entry = now.desired, OUTCOME_NO_REMOVALS, order.gates_by
    if now.hand_stands:
        return
    if row.scheduled < order.low:
        if row.scheduled < now.desired and order.low <= now.desired:
            row.outcome = OUTCOME_AT_FLOOR
        if order.low > now.desired:
            row.cause = CAUSE_CALENDAR
        row.scheduled, row.entry = order.low, order.low_by
    if row.scheduled > order.high:
        if row.scheduled > now.desired and order.high >= now.desired:
            row.outcome = OUTCOME_AT_CEILING
        if order.high < now.desired:
            row.cause = CAUSE_CALENDAR
        row.scheduled, row.entry = order.high, order.high_by


cdef inline void brake(Rules* rules, Memory* memory, double time, Array[Decision] decisions, long e) noexcept nogil:
    """Stage 6: no more than so many removed in a rolling period. Sleep is not braked."""
    one, desired = rules.row, memory.row.desired
    row = &decisions[e]
    row.braked = row.scheduled
    if one.brake == 0 or row.scheduled >= desired or row.cause == CAUSE_SLEEP:
        return
    most = max(1, desired * one.brake // 100) if one.brake_percent else one.brake
    left = max(0, most - removed_since(memory, time - one.brake_within))
    if desired - row.scheduled > left:
        row.braked, row.outcome = desired - left, OUTCOME_BRAKED


cdef inline void limit(Rules* rules, Memory* memory, Fleet* fleet, Array[Decision] decisions, long e) noexcept nogil:
    """Stage 7: minimum, maximum, quota, and the instances that may not be picked."""
    one, there, desired = rules.row, fleet, memory.row.desired
    row = &decisions[e]
    decided = row.braked
    row.quota = there.quota
    row.decided, row.limit = 0, OUTCOME_NOTHING
    if row.cause == CAUSE_SLEEP and decided == 0:
        return
    held = OUTCOME_NOTHING
    if decided > one.maximum:
        decided, held = one.maximum, OUTCOME_AT_MAXIMUM
    if decided > row.quota and decided > desired:
        decided, held = max(row.quota, min(desired, decided)), OUTCOME_AT_QUOTA
    if decided < one.minimum:
        decided, held = one.minimum, OUTCOME_AT_MINIMUM
    kept = 0 if memory.row.asleep else there.pinned
    if decided < desired and decided < kept:
        decided, held = min(kept, desired), OUTCOME_AT_PINNED
    row.decided, row.limit = decided, held
    if decided == desired and held != OUTCOME_NOTHING:
        row.outcome = held
