"""From what the policies ask to what is done, stage by stage, each stage recorded in the decision row."""

import math

from jostle.core.compiled import hot, inner
from jostle.core.engine.code import (
    ASKING,
    ASLEEP,
    AT_CEILING,
    AT_FLOOR,
    AT_MAXIMUM,
    AT_MINIMUM,
    AT_PINNED,
    AT_QUOTA,
    BRAKED,
    BY_CALENDAR,
    BY_POLICY,
    BY_SLEEP,
    CHANGED,
    COUNT_CHANGED,
    FROZEN,
    GATE_FREEZE,
    GATE_NO_REMOVALS,
    GATE_SLEEP,
    GROUP_WAITS,
    HELD,
    HOLD,
    IN_USE,
    LIMIT_REACHED,
    MODE_HOLDS,
    NO_DATA,
    NO_REMOVALS,
    NOBODY,
    NOT_AGREED,
    NOTHING,
    OUT_ONLY,
    PAUSED,
    QUIET,
    SPARE,
    WAITING,
)
from jostle.core.engine.launch import quota_at, send_for
from jostle.core.engine.leaving import may_go, send_away
from jostle.core.engine.meter import fold_window, instances_metered
from jostle.core.engine.note import note
from jostle.core.engine.policy import banded, hold_ask, spare_ask, trigger_ask
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def wish(setup: Setup, state: State, p: int, value: float, published: int) -> int:
    """The count that policy p wishes for at a value of its metric."""
    policy = setup.policies[p]
    desired = state.now[0].desired
    if policy.kind == HOLD:
        metered = instances_metered(state.samples[0, policy.metric], state.metered, published, policy.window)
        return hold_ask(value, metered, policy.level, policy.tolerance, desired)
    if policy.kind == SPARE:
        return spare_ask(value, setup.fixed[0].unit, policy.level, policy.percent, policy.tolerance, desired)
    amount = banded(value, policy.below, policy.amount, setup.bands[p], policy.bands)
    return trigger_ask(value, policy.below, policy.level, policy.action, amount, policy.percent, desired)


@hot
def ask(setup: Setup, state: State, p: int, time: float, published: int) -> None:
    """Stage 1: what policy p sees, what it is doing and which count it asks for."""
    now = state.now[0]
    policy = setup.policies[p]
    view = state.views[now.evaluations, p]
    metric = IN_USE if policy.kind == SPARE else policy.metric
    value = fold_window(state.samples[policy.zone, metric], published, policy.window, policy.fold)
    view.value, view.ask = value, now.desired
    view.wait = max(0.0, state.wait_until[p] - time)
    if policy.paused or setup.fixed[0].paused:
        view.state = PAUSED
    elif math.isnan(value):
        view.state = NO_DATA
    else:
        wanted = wish(setup, state, p, value, published)
        if wanted == now.desired or (wanted < now.desired and not policy.removes):
            view.state = QUIET
        else:
            view.ask = wanted
            view.state = WAITING if time < state.wait_until[p] else ASKING


@hot
def choose(setup: Setup, state: State, time: float) -> None:
    """Stages 1 and 2: the largest ask that adds wins; the count goes down only if all that may remove agree."""
    now = state.now[0]
    fixed = setup.fixed[0]
    e = now.evaluations
    published = max(0, int(math.floor((time - fixed.meter_delay) / (fixed.period_ticks * fixed.tick) + 1e-9)))
    desired = now.desired
    highest, adder = desired, NOBODY
    lowest, remover = -1, NOBODY
    agreed = True
    for p in range(len(setup.policies)):
        ask(setup, state, p, time, published)
        asking = state.views[e, p].state == ASKING
        wanted = state.views[e, p].ask
        if asking and wanted > highest:
            highest, adder = wanted, p
        if asking and wanted < desired:
            if wanted > lowest:
                lowest, remover = wanted, p
        elif setup.policies[p].removes and state.views[e, p].state != PAUSED:
            agreed = False
    row = state.decisions[e]
    row.winner, row.wanted, row.outcome = NOBODY, desired, NOTHING
    if adder != NOBODY:
        row.winner, row.wanted = adder, highest
    elif remover != NOBODY:
        row.winner, row.wanted = remover, lowest
        if not agreed:
            row.outcome = NOT_AGREED


@hot
def pace(setup: Setup, state: State, time: float) -> None:
    """Stages 3 and 4: the group's wait, and its mode."""
    now = state.now[0]
    row = state.decisions[now.evaluations]
    row.paced = now.desired if row.outcome == NOT_AGREED else row.wanted
    if row.paced != now.desired and time < now.group_wait_until:
        row.paced, row.outcome = now.desired, GROUP_WAITS
    row.allowed = row.paced
    mode = setup.fixed[0].mode
    if row.allowed != now.desired and (mode == HELD or (mode == OUT_ONLY and row.allowed < now.desired)):
        row.allowed, row.outcome = now.desired, MODE_HOLDS


@hot
def due_setting(setup: Setup, state: State, time: float) -> int:
    """Number of the latest setting of the calendar that is due and not done yet, or NOBODY.

    It is tried at its first evaluation, and for as long as it says; a later one takes its place.
    """
    now = state.now[0]
    last = len(setup.settings) - 1
    while now.next_setting < last and time >= setup.settings[now.next_setting + 1].time - 1e-6:
        now.next_setting += 1
    if now.next_setting > last:
        return NOBODY
    setting = setup.settings[now.next_setting]
    first = setting.time + setup.fixed[0].evaluate_ticks * setup.fixed[0].tick
    if time < setting.time - 1e-6:
        return NOBODY
    if time < first - 1e-6 or time <= setting.until + 1e-6:
        return now.next_setting
    now.next_setting += 1
    return NOBODY


@hot
def consult(setup: Setup, state: State, time: float) -> None:
    """Stage 5: the calendar's settings, freezes, removals, floors, bounds and sleep."""
    now = state.now[0]
    e = now.evaluations
    row = state.decisions[e]
    order = setup.calendar[e]
    row.scheduled, row.entry, row.cause = row.allowed, NOBODY, BY_POLICY
    if order.gates & GATE_SLEEP:
        if not now.asleep:
            now.asleep, now.awake_count = True, now.desired
        row.scheduled, row.entry, row.cause = 0, order.gates_by, BY_SLEEP
        if row.winner != NOBODY:
            row.outcome = ASLEEP
        return
    if now.asleep:
        now.asleep = False
        row.scheduled, row.cause = now.awake_count, BY_SLEEP
    s = due_setting(setup, state, time)
    if s != NOBODY:
        row.scheduled, row.entry, row.cause = setup.settings[s].count, setup.settings[s].entry, BY_CALENDAR
        now.hand_stands = False
    if order.gates & GATE_FREEZE and row.cause != BY_SLEEP:
        if row.scheduled != now.desired:
            row.scheduled, row.outcome, row.entry = now.desired, FROZEN, order.gates_by
        return
    if order.gates & GATE_NO_REMOVALS and row.scheduled < now.desired:
        row.scheduled, row.outcome, row.entry = now.desired, NO_REMOVALS, order.gates_by
    if now.hand_stands:
        return
    if row.scheduled < order.low:
        if row.scheduled < now.desired and order.low <= now.desired:
            row.outcome = AT_FLOOR
        row.cause = BY_CALENDAR if order.low > now.desired else row.cause
        row.scheduled, row.entry = order.low, order.low_by
    if row.scheduled > order.high:
        if row.scheduled > now.desired and order.high >= now.desired:
            row.outcome = AT_CEILING
        row.cause = BY_CALENDAR if order.high < now.desired else row.cause
        row.scheduled, row.entry = order.high, order.high_by


@inner
def removed_lately(state: State, since: float) -> int:
    """Instances taken off the count by decisions after a time (s from the start)."""
    removed = 0
    for e in range(state.now[0].evaluations - 1, -1, -1):
        row = state.decisions[e]
        if row.time <= since + 1e-6:
            break
        removed += max(0, row.desired - row.decided)
    return removed


@hot
def brake(setup: Setup, state: State, time: float) -> None:
    """Stage 6: no more than so many removed in a rolling period. Sleep is not braked."""
    now = state.now[0]
    fixed = setup.fixed[0]
    row = state.decisions[now.evaluations]
    row.braked = row.scheduled
    if fixed.brake == 0 or row.scheduled >= now.desired or row.cause == BY_SLEEP:
        return
    most = max(1, now.desired * fixed.brake // 100) if fixed.brake_percent else fixed.brake
    left = max(0, most - removed_lately(state, time - fixed.brake_within))
    if now.desired - row.scheduled > left:
        row.braked, row.outcome = now.desired - left, BRAKED


@hot
def limit(setup: Setup, state: State, time: float) -> None:
    """Stage 7: minimum, maximum, quota, and the instances that may not be picked."""
    now = state.now[0]
    fixed = setup.fixed[0]
    row = state.decisions[now.evaluations]
    decided = row.braked
    row.quota = quota_at(setup, time)
    if row.cause == BY_SLEEP and decided == 0:
        row.decided, row.limit = 0, NOTHING
        return
    held = NOTHING
    if decided > fixed.maximum:
        decided, held = fixed.maximum, AT_MAXIMUM
    if decided > row.quota and decided > now.desired:
        decided, held = max(row.quota, min(now.desired, decided)), AT_QUOTA
    if decided < fixed.minimum:
        decided, held = fixed.minimum, AT_MINIMUM
    if decided < now.desired:
        kept = now.present - may_go(setup, state)
        if decided < kept:
            decided, held = min(kept, now.desired), AT_PINNED
    row.decided, row.limit = decided, held
    if decided == now.desired and held != NOTHING:
        row.outcome = held


@hot
def reconcile(setup: Setup, state: State, time: float, who: int) -> None:
    """Send for as many instances as are missing, or send away as many as are too many."""
    now = state.now[0]
    goal = now.desired + now.surplus
    if now.present < goal or now.waiting > 0:
        send_for(setup, state, time, max(0, goal - now.present), who)
    if now.present > goal:
        send_away(setup, state, time, now.present - goal, who, now.asleep)


@inner
def evaluate(setup: Setup, state: State, time: float) -> None:
    """One evaluation: all stages, the decision row, and the launches or removals that follow from it."""
    now = state.now[0]
    fixed = setup.fixed[0]
    e = now.evaluations
    row = state.decisions[e]
    desired = now.desired
    choose(setup, state, time)
    pace(setup, state, time)
    consult(setup, state, time)
    brake(setup, state, time)
    limit(setup, state, time)
    row.time, row.desired, row.serving, row.pending = time, desired, now.serving, now.present - now.serving
    row.group_wait = max(0.0, now.group_wait_until - time)
    limited = row.winner != NOBODY and row.limit == AT_MAXIMUM
    if limited and not now.at_limit:
        note(state, time, LIMIT_REACHED, BY_POLICY, row.winner, row.wanted, fixed.maximum, e)
    now.at_limit = limited
    now.evaluations += 1
    who = row.winner if row.cause == BY_POLICY else NOBODY
    if row.decided != desired:
        row.outcome = CHANGED
        named = row.winner if row.cause == BY_POLICY else row.entry
        note(state, time, COUNT_CHANGED, row.cause, named, desired, row.decided, e)
        if row.cause == BY_POLICY:
            state.wait_until[row.winner] = time + setup.policies[row.winner].cooldown
            now.group_wait_until = time + fixed.cooldown
        now.desired = row.decided
    if row.cause == BY_CALENDAR and now.next_setting < len(setup.settings):
        setting = setup.settings[now.next_setting]
        if setting.entry == row.entry and time >= setting.time - 1e-6 and row.decided == setting.count:
            now.next_setting += 1
    reconcile(setup, state, time, who if row.decided != desired else NOBODY)
