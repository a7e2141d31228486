"""From what the policies ask to what is decided, stage by stage, each stage recorded in the decision row."""

import numpy as np

from jostle.core.calendar.orders import Gate
from jostle.core.compiled import hot
from jostle.core.decide.ask import ask
from jostle.core.decide.code import NOBODY, Cause, Mode, Outcome, Stance
from jostle.core.decide.memory import Memory, removed_since
from jostle.core.decide.rules import Rules
from jostle.core.decide.sight import Sight
from jostle.core.plan.policy import PolicyKind
from jostle.core.plan.policy.lookahead import lookahead_ask


@hot
def choose(
    rules: Rules, memory: Memory, sight: Sight, time: float, published: int, decisions: np.ndarray, views: np.ndarray, e: int
) -> None:
    """Stages 1 and 2: the largest ask that adds wins; the count goes down only if all that may remove agree, and not below what a
    policy expects to be needed."""
    desired = memory.row[0].desired
    highest, adder = desired, NOBODY
    lowest, remover = -1, NOBODY
    agreed, needed = True, 0
    for p in range(len(rules.policies)):
        ask(rules, memory, sight, p, time, published, views, e)
        asking = views[e, p].state == Stance.ASKING
        wanted = views[e, p].ask
        policy = rules.policies[p]
        if policy.kind == PolicyKind.LOOKAHEAD and views[e, p].state == Stance.QUIET:
            expected = lookahead_ask(views[e, p].value, rules.row[0].each, rules.row[0].unit, policy.level)
            needed = max(needed, min(expected, desired))
        if asking and wanted > highest:
            highest, adder = wanted, p
        if asking and wanted < desired:
            if wanted > lowest:
                lowest, remover = wanted, p
        elif rules.policies[p].removes and views[e, p].state != Stance.PAUSED:
            agreed = False
    row = decisions[e]
    row.winner, row.wanted, row.outcome = NOBODY, desired, Outcome.NOTHING
    if adder != NOBODY:
        row.winner, row.wanted = adder, highest
    elif remover != NOBODY:
        row.winner, row.wanted = remover, lowest
        if not agreed:
            row.outcome = Outcome.NOT_AGREED
        elif needed == desired:
            row.outcome = Outcome.EXPECTED
        else:
            row.wanted = max(lowest, needed)


@hot
def pace(rules: Rules, memory: Memory, time: float, decisions: np.ndarray, e: int) -> None:
    """Stages 3 and 4: the group's wait, and its mode."""
    desired = memory.row[0].desired
    row = decisions[e]
    row.paced = row.wanted if row.outcome == Outcome.NOTHING else desired
    if row.paced != desired and time < memory.row[0].wait_until:
        row.paced, row.outcome = desired, Outcome.GROUP_WAITS
    row.allowed = row.paced
    mode = rules.row[0].mode
    if row.allowed != desired and (mode == Mode.STAY or (mode == Mode.GROW and row.allowed < desired)):
        row.allowed, row.outcome = desired, Outcome.MODE_HOLDS


@hot
def is_due(rules: Rules, memory: Memory, orders: np.ndarray, time: float, e: int) -> bool:
    """Whether the calendar's latest setting is still to be done.

    It is tried at its first evaluation, and for as long as it says; a later one takes its place.
    """
    order, now = orders[e], memory.row[0]
    if not order.set_time > now.settled:
        return False
    if time < order.set_time + rules.row[0].evaluate_every - 1e-6 or time <= order.set_until + 1e-6:
        return True
    now.settled = order.set_time
    return False


@hot
def consult(rules: Rules, memory: Memory, orders: np.ndarray, time: float, decisions: np.ndarray, e: int) -> None:
    """Stage 5: the calendar's settings, freezes, removals, floors, bounds and sleep."""
    now = memory.row[0]
    row, order = decisions[e], orders[e]
    row.scheduled, row.entry, row.cause = row.allowed, NOBODY, Cause.POLICY
    if order.gates & Gate.SLEEP:
        if not now.asleep:
            now.asleep, now.awake_count = True, now.desired
        row.scheduled, row.entry, row.cause = 0, order.gates_by, Cause.SLEEP
        if row.winner != NOBODY:
            row.outcome = Outcome.ASLEEP
        return
    if now.asleep:
        now.asleep = False
        row.scheduled, row.cause = now.awake_count, Cause.SLEEP
    if is_due(rules, memory, orders, time, e):
        row.scheduled = max(0, now.desired + order.set_count) if order.set_by else order.set_count
        row.entry, row.cause = order.set_entry, Cause.CALENDAR
        now.hand_stands = False
    if order.gates & Gate.FREEZE and row.cause != Cause.SLEEP:
        if row.scheduled != now.desired:
            row.scheduled, row.outcome, row.entry = now.desired, Outcome.FROZEN, order.gates_by
        return
    if order.gates & Gate.NO_REMOVALS and row.scheduled < now.desired:
        row.scheduled, row.outcome, row.entry = now.desired, Outcome.NO_REMOVALS, order.gates_by
    if now.hand_stands:
        return
    if row.scheduled < order.low:
        if row.scheduled < now.desired and order.low <= now.desired:
            row.outcome = Outcome.AT_FLOOR
        if order.low > now.desired:
            row.cause = Cause.CALENDAR
        row.scheduled, row.entry = order.low, order.low_by
    if row.scheduled > order.high:
        if row.scheduled > now.desired and order.high >= now.desired:
            row.outcome = Outcome.AT_CEILING
        if order.high < now.desired:
            row.cause = Cause.CALENDAR
        row.scheduled, row.entry = order.high, order.high_by


@hot
def brake(rules: Rules, memory: Memory, time: float, decisions: np.ndarray, e: int) -> None:
    """Stage 6: no more than so many removed in a rolling period. Sleep is not braked."""
    one, desired = rules.row[0], memory.row[0].desired
    row = decisions[e]
    row.braked = row.scheduled
    if one.brake == 0 or row.scheduled >= desired or row.cause == Cause.SLEEP:
        return
    most = max(1, desired * one.brake // 100) if one.brake_percent else one.brake
    left = max(0, most - removed_since(memory, time - one.brake_within))
    if desired - row.scheduled > left:
        row.braked, row.outcome = desired - left, Outcome.BRAKED


@hot
def limit(rules: Rules, memory: Memory, fleet: np.ndarray, decisions: np.ndarray, e: int) -> None:
    """Stage 7: minimum, maximum, quota, and the instances that may not be picked."""
    one, there, desired = rules.row[0], fleet[0], memory.row[0].desired
    row = decisions[e]
    decided = row.braked
    row.quota = there.quota
    row.decided, row.limit = 0, Outcome.NOTHING
    if row.cause == Cause.SLEEP and decided == 0:
        return
    held = Outcome.NOTHING
    if decided > one.maximum:
        decided, held = one.maximum, Outcome.AT_MAXIMUM
    if decided > row.quota and decided > desired:
        decided, held = max(row.quota, min(desired, decided)), Outcome.AT_QUOTA
    if decided < one.minimum:
        decided, held = one.minimum, Outcome.AT_MINIMUM
    kept = 0 if memory.row[0].asleep else there.pinned
    if decided < desired and decided < kept:
        decided, held = min(kept, desired), Outcome.AT_PINNED
    row.decided, row.limit = decided, held
    if decided == desired and held != Outcome.NOTHING:
        row.outcome = held
