"""From what the policies ask to what is done, stage by stage, each stage recorded in the decision row."""

import math

from jostle.core.compiled import leaf
from jostle.core.engine.code import (
    ASKING,
    AT_MAXIMUM,
    AT_MINIMUM,
    CHANGED,
    COUNT_CHANGED,
    GROUP_WAITS,
    HOLD,
    LIMIT_REACHED,
    NO_DATA,
    NOBODY,
    NOT_AGREED,
    NOTHING,
    PAUSED,
    QUIET,
    WAITING,
)
from jostle.core.engine.instance import launch, note, send_away
from jostle.core.engine.meter import fold_window, instances_metered
from jostle.core.engine.policy import hold_ask, trigger_ask
from jostle.core.engine.state import Setup, State


@leaf
def ask(setup: Setup, state: State, p: int, time: float, published: int) -> None:
    """Stage 1: what policy p sees, what it is doing and which count it asks for."""
    now = state.now[0]
    policy = setup.policies[p]
    view = state.views[now.evaluations, p]
    samples = state.samples[policy.metric]
    value = fold_window(samples, published, policy.window, policy.fold)
    view.value, view.ask = value, now.desired
    view.wait = max(0.0, state.wait_until[p] - time)
    if policy.paused:
        view.state = PAUSED
    elif math.isnan(value):
        view.state = NO_DATA
    else:
        if policy.kind == HOLD:
            metered = instances_metered(samples, state.metered, published, policy.window)
            wanted = hold_ask(value, metered, policy.level, policy.tolerance, now.desired)
        else:
            wanted = trigger_ask(value, policy.below, policy.level, policy.action, policy.amount, policy.percent, now.desired)
        if wanted == now.desired or (wanted < now.desired and not policy.removes):
            view.state = QUIET
        else:
            view.ask = wanted
            view.state = WAITING if time < state.wait_until[p] else ASKING


@leaf
def evaluate(setup: Setup, state: State, time: float) -> None:
    """One evaluation: all stages, the decision row, and the launches or removals that follow from it."""
    now = state.now[0]
    e = now.evaluations
    policies = len(setup.policies)
    published = max(0, int(math.floor((time - setup.meter_delay) / (setup.period_ticks * setup.tick) + 1e-9)))
    desired = now.desired
    highest, adder = desired, NOBODY
    lowest, remover = -1, NOBODY
    agreed = True
    for p in range(policies):
        ask(setup, state, p, time, published)
        asking = state.views[e, p].state == ASKING
        wanted = state.views[e, p].ask
        if asking and wanted > highest:
            highest, adder = wanted, p
        if asking and wanted < desired:
            if wanted > lowest:
                lowest, remover = wanted, p
        elif setup.policies[p].removes and not setup.policies[p].paused:
            agreed = False
    winner, wanted, outcome = NOBODY, desired, NOTHING
    if adder != NOBODY:
        winner, wanted = adder, highest
    elif remover != NOBODY:
        winner, wanted = remover, lowest
        if not agreed:
            outcome = NOT_AGREED
    decided = desired
    if winner != NOBODY and outcome == NOTHING:
        if time < now.group_wait_until:
            outcome = GROUP_WAITS
        else:
            decided = min(max(wanted, setup.minimum), setup.maximum)
            outcome = CHANGED
            if decided == desired:
                outcome = AT_MAXIMUM if wanted > desired else AT_MINIMUM
    row = state.decisions[e]
    row.time, row.desired, row.serving = time, desired, now.serving
    row.pending = desired - now.serving
    row.wanted, row.decided, row.winner, row.outcome = wanted, decided, winner, outcome
    row.group_wait = max(0.0, now.group_wait_until - time)
    limited = winner != NOBODY and wanted > setup.maximum and outcome != GROUP_WAITS
    if limited and not now.at_limit:
        note(state, time, LIMIT_REACHED, winner, wanted, setup.maximum, e)
    now.at_limit = limited
    now.evaluations += 1
    if outcome == CHANGED:
        note(state, time, COUNT_CHANGED, winner, desired, decided, e)
        state.wait_until[winner] = time + setup.policies[winner].cooldown
        now.group_wait_until = time + setup.group_cooldown
        now.desired = decided
        if decided > desired:
            launch(setup, state, time, decided - desired, winner)
        else:
            send_away(setup, state, time, desired - decided, winner)
