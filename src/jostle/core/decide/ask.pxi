"""What one policy asks for."""


cdef inline long wish(Rules* rules, Sight* sight, long p, double value, long published, long desired) noexcept nogil:
    """The count that policy p wishes for at a value of its metric."""
    policy = &rules.policies[p]
    if policy.kind == POLICY_KIND_HOLD:
        metered = instances_metered(sight.samples[0][policy.metric], sight.metered, published, policy.window)
        return hold_ask(value, metered, policy.level, policy.tolerance, desired)
    if policy.kind == POLICY_KIND_SPARE:
        return spare_ask(value, policy.unit, policy.level, policy.percent, policy.tolerance, desired)
    if policy.kind == POLICY_KIND_TRIGGER:
        amount = c_banded(value, policy.below, policy.amount, rules.bands[p], policy.bands)
        return trigger_ask(value, policy.below, policy.level, policy.action, amount, policy.percent, desired)
    if policy.kind == POLICY_KIND_LOOKAHEAD:
        return lookahead_ask(value, rules.row.each, rules.row.unit, policy.level)
    return desired


cdef inline double value_of(Rules* rules, Memory* memory, Sight* sight, long p, long published) noexcept nogil:
    """What policy p goes by: its folded metric, or what it expects; nan without data."""
    policy = &rules.policies[p]
    if policy.kind == POLICY_KIND_LOOKAHEAD:
        return memory.books[policy.book].expected
    return c_fold_window(sight.samples[policy.zone][policy.metric], published, policy.window, policy.fold)


cdef inline void ask_policy(
    Rules* rules, Memory* memory, Sight* sight, long p, double time, long published, Grid[View] views, long e
) noexcept nogil:
    """Stage 1: what policy p sees, what it is doing and which count it asks for."""
    desired = memory.row.desired
    policy = &rules.policies[p]
    view = &views[e][p]
    value = value_of(rules, memory, sight, p, published)
    view.value, view.ask = value, desired
    view.wait = max(0.0, memory.waits[p] - time)
    if policy.kind == POLICY_KIND_LOOKAHEAD:
        book = &memory.books[policy.book]
        view.ahead, view.off, view.weeks, view.ratio = book.ahead, book.off, book.weeks, book.ratio
    else:
        view.ahead, view.off, view.weeks, view.ratio = 0.0, 0.0, 0, 0.0
    if policy.paused or rules.row.paused:
        view.state = STANCE_PAUSED
    elif math.isnan(value):
        view.state = STANCE_NO_DATA
    else:
        wanted = wish(rules, sight, p, value, published, desired)
        if policy.advice:
            view.ask, view.state = wanted, STANCE_ADVISING
        elif wanted == desired or (wanted < desired and not policy.removes):
            view.state = STANCE_QUIET
        else:
            view.ask = wanted
            view.state = STANCE_WAITING if time < memory.waits[p] else STANCE_ASKING


cdef inline long c_ask_now(Rules* rules, Memory* memory, Sight* sight, long p, double time, long desired) noexcept nogil:
    """The count that policy p would ask for now, a trigger as if its level were passed; NOBODY where it has no reading."""
    policy = &rules.policies[p]
    published = published_by(time, rules.row.meter_delay, rules.row.period)
    value = value_of(rules, memory, sight, p, published)
    if math.isnan(value):
        return NOBODY
    if policy.kind == POLICY_KIND_TRIGGER:
        apart = 1e-9 * (1.0 + abs(policy.level))
        value = min(value, policy.level - apart) if policy.below else max(value, policy.level + apart)
    return wish(rules, sight, p, value, published, desired)
