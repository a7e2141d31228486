"""How a rollout goes from step to step: batch by batch, a canary first, on, stopped or back."""


cpdef inline double chance_of(long successes, long trials, double share) noexcept nogil:
    """Probability that of so many trials, each a success with chance `share`, at least so many are; from 0 to 1."""
    cdef bint upward
    if successes <= 0 or share >= 1.0:
        return 1.0
    if successes > trials:
        return 0.0
    # The terms are summed away from the middle, the first of them being the greatest, until they come to nothing.
    upward = successes > trials * share
    first = successes if upward else successes - 1
    ways = math.lgamma(trials + 1.0) - math.lgamma(first + 1.0) - math.lgamma(trials - first + 1.0)
    term = math.exp(ways + first * math.log(share) + (trials - first) * math.log1p(-share))
    odds, total = share / (1.0 - share), 0.0
    for n in range(min(MOST_SUMMED, trials - first + 1 if upward else first + 1)):
        total += term
        if term < total * 1e-17:
            break
        k = first + n if upward else first - n
        term *= (trials - k) / (k + 1.0) * odds if upward else k / ((trials - k + 1.0) * odds)
    return min(1.0, total) if upward else max(0.0, 1.0 - total)


cdef inline long c_coming_version(Rules* rules, Memory* memory, double time) noexcept nogil:
    """The version that is being brought in, or that is to be from `time` on; NOBODY where none is."""
    r = rollout_under_way(rules, memory, time)
    return NOBODY if r == NOBODY else rules.rollouts[r].to


cdef inline long rollout_under_way(Rules* rules, Memory* memory, double time) noexcept nogil:
    """Number of the rollout that is under way, or due at `time`; NOBODY if none is."""
    if memory.row.rollout != NOBODY:
        return memory.row.rollout
    for r in range(rules.rollouts.n):
        if memory.rollouts[r].phase == PHASE_NOT_BEGUN and rules.rollouts[r].at <= time + 1e-6:
            return r
    return NOBODY


cdef inline void take_side(Rolled* one, Fleet* there, bint first) noexcept nogil:
    """Write down what both sides have come to, from where the next look or round is counted."""
    if first:
        one.first_own_answers, one.first_own_failed = there.own_answers, there.own_failed
        one.first_others_answers, one.first_others_failed = there.others_answers, there.others_failed
    one.last_own_answers, one.last_own_seconds, one.last_own_cpu = there.own_answers, there.own_seconds, there.own_cpu
    one.last_others_answers, one.last_others_seconds, one.last_others_cpu = (
        there.others_answers,
        there.others_seconds,
        there.others_cpu,
    )
    one.last_own_stay, one.last_others_stay = there.own_stay, there.others_stay


cdef inline void compare(Rollout* rule, Rolled* one, Fleet* there, Decision* row) noexcept nogil:
    """What the canary has come to and the others, and how likely that is of a version that is worse by no more than is allowed.

    Failures are counted against all failures: by chance the canary has its part of them by the answers (the conditional
    binomial test of two Poisson rates, Przyborowski and Wilenski, 1940). Of the others it is counted at how many evaluations
    the canary did worse (the sign test, Dixon and Mood, 1946).
    """
    own = there.own_answers + there.own_failed - one.first_own_answers - one.first_own_failed
    others = there.others_answers + there.others_failed - one.first_others_answers - one.first_others_failed
    row.answers = own
    if rule.compared == COMPARED_FAILED_SHARE:
        failed, beside = there.own_failed - one.first_own_failed, there.others_failed - one.first_others_failed
        row.own = failed / own if own > 0.0 else 0.0
        row.others = beside / others if others > 0.0 else 0.0
        weighed = own * (1.0 + rule.worse_by)
        share = weighed / (weighed + others) if own + others > 0.0 else 1.0
        row.chance = chance_of(<long>math.rint(failed), <long>math.rint(failed) + <long>math.rint(beside), share)
    else:
        row.chance = chance_of(one.worse, one.rounds, 0.5)


cdef inline void take_round(Rollout* rule, Rolled* one, Fleet* there, Decision* row) noexcept nogil:
    """One evaluation more at which both sides were read."""
    cdef bint by_cpu
    by_cpu = rule.compared == COMPARED_CPU
    own = there.own_seconds - one.last_own_seconds if by_cpu else there.own_answers - one.last_own_answers
    others = there.others_seconds - one.last_others_seconds if by_cpu else there.others_answers - one.last_others_answers
    if own <= 0.0 or others <= 0.0:
        return
    row.own = (there.own_cpu - one.last_own_cpu if by_cpu else there.own_stay - one.last_own_stay) / own
    row.others = (there.others_cpu - one.last_others_cpu if by_cpu else there.others_stay - one.last_others_stay) / others
    one.rounds += 1
    if row.own > <double>row.others * (1.0 + rule.worse_by):
        one.worse += 1
    take_side(one, there, False)


cdef inline bint can_tell(Rollout* rule, Rolled* one, Decision* row) noexcept nogil:
    """Whether so much was read that a version that is worse could have been told from one that is not."""
    if row.answers < rule.at_least:
        return False
    return rule.compared == COMPARED_FAILED_SHARE or power(0.5, one.rounds) <= rule.false_alarms / rule.looks


cdef inline void follow(Rollout* rule, Rolled* one, long then, double time, long desired) noexcept nogil:
    """Go on to the next batch, stop, or go back."""
    one.since = time
    if then == THEN_STOP:
        one.phase = PHASE_STOPPED
    elif then == THEN_BACK:
        one.phase, one.goal = PHASE_GOES_BACK, 0
    else:
        one.phase = PHASE_BATCH_COMES
        one.batches += 1
        there = 0 if one.goal == ALL else one.goal
        there += portion(rule.batch, rule.batch_percent, desired)
        one.goal = ALL if there >= desired else there
        one.aim = min(one.goal, desired)


cdef inline long watch_canary(
    Rollout* rule, Rolled* one, Fleet* there, Decision* row, double time, long desired
) noexcept nogil:
    """One evaluation of a canary's watch; returns the Step."""
    if rule.compared != COMPARED_FAILED_SHARE:
        take_round(rule, one, there, row)
    if time - one.since < rule.canary_watch * (one.looks + 1) / rule.looks - 1e-6:
        return STEP_NONE
    one.looks += 1
    compare(rule, one, there, row)
    row.look = one.looks
    if row.answers > 0.0 and row.chance <= rule.false_alarms / rule.looks:
        follow(rule, one, rule.worse, time, desired)
        return STEP_CANARY_WORSE
    if one.looks < rule.looks:
        return STEP_NONE
    if can_tell(rule, one, row):
        follow(rule, one, THEN_ON, time, desired)
        return STEP_CANARY_FINE
    follow(rule, one, rule.unclear, time, desired)
    return STEP_CANARY_UNCLEAR


cdef inline void begin_rollout(Rules* rules, Memory* memory, long r, double time, long desired) noexcept nogil:
    """Rollout r begins."""
    rule, one = &rules.rollouts[r], &memory.rollouts[r]
    memory.row.rollout = r
    one.before, one.begun, one.since, one.at = memory.row.version, time, time, time
    if rule.canary > 0:
        one.phase, one.goal = PHASE_CANARY_COMES, portion(rule.canary, rule.canary_percent, desired)
        one.aim = min(one.goal, desired)
    else:
        follow(rule, one, THEN_ON, time, desired)


cdef inline void end_rollout(Memory* memory, long r, double time, long version, long phase) noexcept nogil:
    """Rollout r is over; new instances are of a version from now on."""
    memory.rollouts[r].phase, memory.rollouts[r].ended = phase, time
    memory.row.rollout, memory.row.version = NOBODY, version


cdef inline void roll(
    Rules* rules, Memory* memory, Array[Order] orders, Fleet* fleet, double time, Array[Decision] decisions, long e
) noexcept nogil:
    """See to the rollout that is under way, or begin the one that is due; what comes of it is written to row e of the decisions.
    A freeze, sleep and a hand hold it where it stands."""
    row, now = &decisions[e], memory.row
    row.rollout = row.look = NOBODY
    row.phase, row.step, row.goal, row.version_before, row.version = PHASE_NOT_BEGUN, STEP_NONE, 0, NOBODY, NOBODY
    row.own = row.others = row.chance = row.answers = NAN
    now.rolls = False
    there, desired, r = fleet, row.decided, rollout_under_way(rules, memory, time)
    if r == NOBODY:
        return
    rule, one = &rules.rollouts[r], &memory.rollouts[r]
    row.rollout = rule.entry
    if (orders[e].gates & (GATE_FREEZE | GATE_SLEEP)) or one.held or now.asleep or desired == 0:
        if now.rollout != NOBODY:
            one.since += time - one.at
            one.at = time
            row.phase, row.goal = one.phase, one.goal
        return
    if now.rollout == NOBODY:
        begin_rollout(rules, memory, r, time, desired)
        row.step = STEP_BEGINS
    else:
        row.step = next_step(rules, memory, r, there, row, time, desired)
    one.at = time
    row.version_before, row.version = one.before, rule.to
    now.rolls = now.rollout != NOBODY and one.phase != PHASE_STOPPED
    row.phase, row.goal = one.phase, one.goal


cdef inline long next_step(
    Rules* rules, Memory* memory, long r, Fleet* there, Decision* row, double time, long desired
) noexcept nogil:
    """What happens at an evaluation with the rollout r; returns the Step."""
    cdef bint canary, is_there
    rule, one = &rules.rollouts[r], &memory.rollouts[r]
    wanted = min(one.goal, desired)
    is_there = there.fresh_serving >= min(wanted, one.aim) and there.present - there.fresh <= desired - wanted
    if one.phase == PHASE_CANARY_COMES or one.phase == PHASE_BATCH_COMES:
        canary = one.phase == PHASE_CANARY_COMES
        if is_there:
            one.since = time
            one.phase = PHASE_CANARY_WATCHED if canary else PHASE_BATCH_WATCHED
            if canary:
                take_side(one, there, True)
            return STEP_CANARY_SERVES if canary else STEP_BATCH_SERVES
        if time - one.since >= rule.patience - 1e-6:
            if canary:
                follow(rule, one, rule.worse, time, desired)
            else:
                follow(rule, one, THEN_STOP, time, desired)
            return STEP_NOT_THERE
    elif one.phase == PHASE_CANARY_WATCHED:
        return watch_canary(rule, one, there, row, time, desired)
    elif one.phase == PHASE_BATCH_WATCHED:
        if not is_there:
            # One of the batch broke: it is waited for anew, as long as for a batch that comes.
            one.phase, one.since = PHASE_BATCH_COMES, time
        elif time - one.since >= rule.watch - 1e-6:
            if one.goal == ALL:
                end_rollout(memory, r, time, rule.to, PHASE_DONE)
                return STEP_DONE
            if rule.pause <= 0.0:
                follow(rule, one, THEN_ON, time, desired)
                return STEP_NEXT_BATCH
            one.phase, one.since = PHASE_PAUSED, time
    elif one.phase == PHASE_PAUSED:
        if time - one.since >= rule.pause - 1e-6:
            follow(rule, one, THEN_ON, time, desired)
            return STEP_NEXT_BATCH
    elif one.phase == PHASE_GOES_BACK and there.fresh == 0:
        end_rollout(memory, r, time, one.before, PHASE_BACK)
        return STEP_IS_BACK
    return STEP_NONE


cdef inline bint c_roll_by_hand(Rules* rules, Memory* memory, long step, double time, long desired) noexcept nogil:
    """What a hand does to the rollout under way, a Step: hold it, have it go on, stop it or turn it back. Whether it could be."""
    r = memory.row.rollout
    if r == NOBODY:
        return False
    rule, one = &rules.rollouts[r], &memory.rollouts[r]
    if step == STEP_HELD:
        if one.held:
            return False
        one.held = True
    elif step == STEP_GOES_ON:
        if not one.held and one.phase != PHASE_STOPPED:
            return False
        one.held = False
        if one.phase == PHASE_STOPPED:
            follow(rule, one, THEN_ON, time, desired)
    elif step == STEP_STOPS:
        if one.phase == PHASE_STOPPED:
            return False
        one.held = False
        follow(rule, one, THEN_STOP, time, desired)
    else:
        if one.phase == PHASE_GOES_BACK:
            return False
        one.held = False
        follow(rule, one, THEN_BACK, time, desired)
    return True
