"""Spells: stretches of time of an instance that are billed at one price."""

import math

from jostle.core.compiled import inner, leaf
from jostle.core.engine.code import Billed
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@leaf
def top_up(seconds: float, hourly: bool, least: float) -> float:
    """Seconds billed beyond those that an instance ran: up to the started hour, or to the shortest time billed."""
    if hourly:
        return max(1.0, math.ceil(seconds / 3600.0 - 1e-9)) * 3600.0 - seconds
    return max(0.0, least - seconds)


@inner
def begin_spell(state: State, i: int, kind: int, time: float) -> None:
    now = state.now[0]
    row = state.spells[now.spells]
    row.instance, row.kind, row.begin, row.end = i, kind, time, math.nan
    state.instances[i].spell = now.spells
    now.spells += 1
    if kind == Billed.RUNNING:
        now.billed += 1
    else:
        now.stopped += 1


@inner
def end_spell(setup: Setup, state: State, i: int, time: float) -> None:
    now = state.now[0]
    fixed = setup.fixed[0]
    one = state.instances[i]
    row = state.spells[one.spell]
    row.end = time
    row.requested, row.booted, row.serves, row.drains = one.requested, one.booted, one.serves, one.drains
    if row.kind == Billed.RUNNING:
        now.billed -= 1
        now.spend += top_up(time - row.begin, fixed.hourly, fixed.least_billed) * fixed.price_machine
    else:
        now.stopped -= 1
