"""How a rollout goes from step to step: batch by batch, a canary first, on, stopped or back."""

import math

import numpy as np

from jostle.core.calendar.orders import Gate
from jostle.core.compiled import hot, inner, leaf
from jostle.core.decide.code import NOBODY, Compared, Phase, Step, Then
from jostle.core.decide.memory import ALL, Memory
from jostle.core.decide.rules import Rules
from jostle.core.plan.rollout import portion

# Terms of a chance that are summed: enough for a billion trials
MOST_SUMMED = 200_000


@leaf
def chance_of(successes: int, trials: int, share: float) -> float:
    """Probability that of so many trials, each a success with chance `share`, at least so many are; from 0 to 1."""
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


@leaf
def coming_version(rules: Rules, memory: Memory, time: float) -> int:
    """The version that is being brought in, or that is to be from `time` on; NOBODY where none is."""
    r = under_way(rules, memory, time)
    return NOBODY if r == NOBODY else rules.rollouts[r].to


@hot
def under_way(rules: Rules, memory: Memory, time: float) -> int:
    """Number of the rollout that is under way, or due at `time`; NOBODY if none is."""
    if memory.row[0].rollout != NOBODY:
        return memory.row[0].rollout
    for r in range(len(rules.rollouts)):
        if memory.rollouts[r].phase == Phase.NOT_BEGUN and rules.rollouts[r].at <= time + 1e-6:
            return r
    return NOBODY


@inner
def take_side(one: np.record, there: np.record, first: bool) -> None:
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


@inner
def compare(rule: np.record, one: np.record, there: np.record, row: np.record) -> None:
    """What the canary has come to and the others, and how likely that is of a version that is worse by no more than is allowed.

    Failures are counted against all failures: by chance the canary has its part of them by the answers (the conditional
    binomial test of two Poisson rates, Przyborowski and Wilenski, 1940). Of the others it is counted at how many evaluations
    the canary did worse (the sign test, Dixon and Mood, 1946).
    """
    own = there.own_answers + there.own_failed - one.first_own_answers - one.first_own_failed
    others = there.others_answers + there.others_failed - one.first_others_answers - one.first_others_failed
    row.answers = own
    if rule.compared == Compared.FAILED_SHARE:
        failed, beside = there.own_failed - one.first_own_failed, there.others_failed - one.first_others_failed
        row.own = failed / own if own > 0.0 else 0.0
        row.others = beside / others if others > 0.0 else 0.0
        weighed = own * (1.0 + rule.worse_by)
        share = weighed / (weighed + others) if own + others > 0.0 else 1.0
        row.chance = chance_of(int(round(failed)), int(round(failed)) + int(round(beside)), share)
    else:
        row.chance = chance_of(one.worse, one.rounds, 0.5)


@inner
def take_round(rule: np.record, one: np.record, there: np.record, row: np.record) -> None:
    """One evaluation more at which both sides were read."""
    by_cpu = rule.compared == Compared.CPU
    own = there.own_seconds - one.last_own_seconds if by_cpu else there.own_answers - one.last_own_answers
    others = there.others_seconds - one.last_others_seconds if by_cpu else there.others_answers - one.last_others_answers
    if own <= 0.0 or others <= 0.0:
        return
    row.own = (there.own_cpu - one.last_own_cpu if by_cpu else there.own_stay - one.last_own_stay) / own
    row.others = (there.others_cpu - one.last_others_cpu if by_cpu else there.others_stay - one.last_others_stay) / others
    one.rounds += 1
    if row.own > row.others * (1.0 + rule.worse_by):
        one.worse += 1
    take_side(one, there, False)


@inner
def can_tell(rule: np.record, one: np.record, row: np.record) -> bool:
    """Whether so much was read that a version that is worse could have been told from one that is not."""
    if row.answers < rule.at_least:
        return False
    return rule.compared == Compared.FAILED_SHARE or 0.5**one.rounds <= rule.false_alarms / rule.looks


@inner
def follow(rule: np.record, one: np.record, then: int, time: float, desired: int) -> None:
    """Go on to the next batch, stop, or go back."""
    one.since = time
    if then == Then.STOP:
        one.phase = Phase.STOPPED
    elif then == Then.BACK:
        one.phase, one.goal = Phase.GOES_BACK, 0
    else:
        one.phase = Phase.BATCH_COMES
        one.batches += 1
        there = 0 if one.goal == ALL else one.goal
        there += portion(rule.batch, rule.batch_percent, desired)
        one.goal = ALL if there >= desired else there
        one.aim = min(one.goal, desired)


@inner
def watch_canary(rule: np.record, one: np.record, there: np.record, row: np.record, time: float, desired: int) -> int:
    """One evaluation of a canary's watch; returns the Step."""
    if rule.compared != Compared.FAILED_SHARE:
        take_round(rule, one, there, row)
    if time - one.since < rule.canary_watch * (one.looks + 1) / rule.looks - 1e-6:
        return Step.NONE
    one.looks += 1
    compare(rule, one, there, row)
    row.look = one.looks
    if row.answers > 0.0 and row.chance <= rule.false_alarms / rule.looks:
        follow(rule, one, rule.worse, time, desired)
        return Step.CANARY_WORSE
    if one.looks < rule.looks:
        return Step.NONE
    if can_tell(rule, one, row):
        follow(rule, one, Then.ON, time, desired)
        return Step.CANARY_FINE
    follow(rule, one, rule.unclear, time, desired)
    return Step.CANARY_UNCLEAR


@inner
def begin(rules: Rules, memory: Memory, r: int, time: float, desired: int) -> None:
    """Rollout r begins."""
    rule, one = rules.rollouts[r], memory.rollouts[r]
    memory.row[0].rollout = r
    one.before, one.begun, one.since, one.at = memory.row[0].version, time, time, time
    if rule.canary > 0:
        one.phase, one.goal = Phase.CANARY_COMES, portion(rule.canary, rule.canary_percent, desired)
        one.aim = min(one.goal, desired)
    else:
        follow(rule, one, Then.ON, time, desired)


@inner
def end(memory: Memory, r: int, time: float, version: int, phase: int) -> None:
    """Rollout r is over; new instances are of a version from now on."""
    memory.rollouts[r].phase, memory.rollouts[r].ended = phase, time
    memory.row[0].rollout, memory.row[0].version = NOBODY, version


@inner
def roll(rules: Rules, memory: Memory, orders: np.ndarray, fleet: np.ndarray, time: float, decisions: np.ndarray, e: int) -> None:
    """See to the rollout that is under way, or begin the one that is due; what comes of it is written to row e of the decisions.
    A freeze, sleep and a hand hold it where it stands."""
    row, now = decisions[e], memory.row[0]
    row.rollout = row.look = NOBODY
    row.phase, row.step, row.goal, row.version_before, row.version = Phase.NOT_BEGUN, Step.NONE, 0, NOBODY, NOBODY
    row.own = row.others = row.chance = row.answers = math.nan
    now.rolls = False
    there, desired, r = fleet[0], row.decided, under_way(rules, memory, time)
    if r == NOBODY:
        return
    rule, one = rules.rollouts[r], memory.rollouts[r]
    row.rollout = rule.entry
    if (orders[e].gates & (Gate.FREEZE | Gate.SLEEP)) or one.held or now.asleep or desired == 0:
        if now.rollout != NOBODY:
            one.since += time - one.at
            one.at = time
            row.phase, row.goal = one.phase, one.goal
        return
    if now.rollout == NOBODY:
        begin(rules, memory, r, time, desired)
        row.step = Step.BEGINS
    else:
        row.step = next_step(rules, memory, r, there, row, time, desired)
    one.at = time
    row.version_before, row.version = one.before, rule.to
    now.rolls = now.rollout != NOBODY and one.phase != Phase.STOPPED
    row.phase, row.goal = one.phase, one.goal


@inner
def next_step(rules: Rules, memory: Memory, r: int, there: np.record, row: np.record, time: float, desired: int) -> int:
    """What happens at an evaluation with the rollout r; returns the Step."""
    rule, one = rules.rollouts[r], memory.rollouts[r]
    wanted = min(one.goal, desired)
    is_there = there.fresh_serving >= min(wanted, one.aim) and there.present - there.fresh <= desired - wanted
    if one.phase == Phase.CANARY_COMES or one.phase == Phase.BATCH_COMES:
        canary = one.phase == Phase.CANARY_COMES
        if is_there:
            one.since = time
            one.phase = Phase.CANARY_WATCHED if canary else Phase.BATCH_WATCHED
            if canary:
                take_side(one, there, True)
            return Step.CANARY_SERVES if canary else Step.BATCH_SERVES
        if time - one.since >= rule.patience - 1e-6:
            if canary:
                follow(rule, one, rule.worse, time, desired)
            else:
                follow(rule, one, Then.STOP, time, desired)
            return Step.NOT_THERE
    elif one.phase == Phase.CANARY_WATCHED:
        return watch_canary(rule, one, there, row, time, desired)
    elif one.phase == Phase.BATCH_WATCHED:
        if not is_there:
            # One of the batch broke: it is waited for anew, as long as for a batch that comes.
            one.phase, one.since = Phase.BATCH_COMES, time
        elif time - one.since >= rule.watch - 1e-6:
            if one.goal == ALL:
                end(memory, r, time, rule.to, Phase.DONE)
                return Step.DONE
            if rule.pause <= 0.0:
                follow(rule, one, Then.ON, time, desired)
                return Step.NEXT_BATCH
            one.phase, one.since = Phase.PAUSED, time
    elif one.phase == Phase.PAUSED:
        if time - one.since >= rule.pause - 1e-6:
            follow(rule, one, Then.ON, time, desired)
            return Step.NEXT_BATCH
    elif one.phase == Phase.GOES_BACK and there.fresh == 0:
        end(memory, r, time, one.before, Phase.BACK)
        return Step.IS_BACK
    return Step.NONE


@leaf
def roll_by_hand(rules: Rules, memory: Memory, step: int, time: float, desired: int) -> bool:
    """What a hand does to the rollout under way, a Step: hold it, have it go on, stop it or turn it back. Whether it could be."""
    r = memory.row[0].rollout
    if r == NOBODY:
        return False
    rule, one = rules.rollouts[r], memory.rollouts[r]
    if step == Step.HELD:
        if one.held:
            return False
        one.held = True
    elif step == Step.GOES_ON:
        if not one.held and one.phase != Phase.STOPPED:
            return False
        one.held = False
        if one.phase == Phase.STOPPED:
            follow(rule, one, Then.ON, time, desired)
    elif step == Step.STOPS:
        if one.phase == Phase.STOPPED:
            return False
        one.held = False
        follow(rule, one, Then.STOP, time, desired)
    else:
        if one.phase == Phase.GOES_BACK:
            return False
        one.held = False
        follow(rule, one, Then.BACK, time, desired)
    return True
