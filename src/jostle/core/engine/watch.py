"""The course of one instance that is looked at: what it does in each tick."""

import math

from jostle.core.compiled import inner
from jostle.core.engine.code import Life
from jostle.core.engine.kind import can_do
from jostle.core.engine.seats import write_seats
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State, noted
from jostle.core.plan.work import WorkKind


@inner
def watch(setup: Setup, state: State, k: int) -> None:
    """Note what the watched instance does in tick k."""
    now = state.now[0]
    fixed = setup.fixed[0]
    row = state.own[k]
    row.cpu = row.load = math.nan
    if fixed.watched >= now.launched:
        row.state = Life.GONE
        return
    one = state.instances[fixed.watched]
    row.state, row.credits, row.waiting = one.state, one.credits, 0.0
    if one.state != Life.SERVING:
        return
    if fixed.work == WorkKind.SESSIONS:
        write_seats(state)
        row.load = one.sessions
        row.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * one.sessions / setup.kinds[one.kind].capacity
    elif fixed.work == WorkKind.JOBS:
        row.load = now.busy * setup.kinds[one.kind].concurrency
        row.cpu = state.series[noted(state, k)].cpu
    elif now.own_lines:
        row.load, row.cpu, row.waiting = one.answered / fixed.tick, one.cpu, one.line
    else:
        row.load = state.series[noted(state, k)].served / fixed.tick / now.serving
        if fixed.mixed:
            row.load *= setup.kinds[one.kind].capacity * now.serving / can_do(setup, state)
        row.cpu = state.series[noted(state, k)].cpu
        row.waiting = now.line / now.serving
