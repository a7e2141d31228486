"""Spells: stretches of time of an instance that are billed at one price."""

import math

from jostle.core.compiled import inner, leaf
from jostle.core.engine.code import Billed
from jostle.core.engine.mix import SPOT, bought, type_of
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.tariff import MICROS, paid_micros


@leaf
def top_up(seconds: float, hourly: bool, least_micros: int) -> float:
    """Seconds paid for beyond those that an instance ran."""
    micros = round(seconds * MICROS)
    return (paid_micros(micros, hourly, least_micros) - micros) / MICROS


@inner
def new_spell(state: State, i: int, kind: int, time: float) -> int:
    """Write a spell of instance i that begins. Returns its number."""
    now = state.now[0]
    row = state.spells[now.spells]
    row.instance, row.kind, row.begin, row.end = i, kind, time, math.nan
    row.requested = row.booted = row.serves = row.drains = 0.0
    now.spells += 1
    return now.spells - 1


@inner
def begin_spell(state: State, i: int, kind: int, time: float) -> None:
    now = state.now[0]
    state.instances[i].spell = new_spell(state, i, kind, time)
    crew = state.crews[state.instances[i].kind]
    if kind == Billed.RUNNING:
        now.billed += 1
        crew.billed += 1
        if bought(state.instances[i].kind) == SPOT:
            state.berths[type_of(state.instances[i].kind), state.instances[i].zone] += 1
    else:
        now.stopped += 1
        crew.stopped += 1


@inner
def end_spell(setup: Setup, state: State, i: int, time: float) -> None:
    now = state.now[0]
    one = state.instances[i]
    kind, crew = setup.kinds[one.kind], state.crews[one.kind]
    row = state.spells[one.spell]
    row.end = time
    row.requested, row.booted, row.serves, row.drains = one.requested, one.booted, one.serves, one.drains
    if row.kind == Billed.RUNNING:
        now.billed -= 1
        crew.billed -= 1
        if bought(one.kind) == SPOT:
            state.berths[type_of(one.kind), one.zone] -= 1
        now.spend += top_up(time - row.begin, kind.hourly, kind.least_micros) * kind.price_machine
    else:
        now.stopped -= 1
        crew.stopped -= 1
