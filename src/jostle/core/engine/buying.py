"""Buying: what a launch becomes, on demand or spot and where, and what the market takes back."""

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause, Reason
from jostle.core.draw import STREAM_RECLAIM, uniform
from jostle.core.engine.code import Choose, EventKind, Life
from jostle.core.engine.launch_zone import zone_for
from jostle.core.engine.leaving import dismiss
from jostle.core.engine.market import UNIT, step_at
from jostle.core.engine.mix import ON_DEMAND, SPOT, wanted_on_demand
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@inner
def spot_zone(setup: Setup, state: State, step: int, most_chance: float) -> int:
    """The zone in which spot is bought: of those that sell it under the cap on the price, with such a chance of a reclaim within
    the step at the most, the one that is chosen. NOBODY if there is none."""
    fixed = setup.fixed[0]
    best = NOBODY
    for z in range(len(state.zones)):
        zone, price, chance = state.zones[z], setup.market.units[z, step], setup.market.chances[z, step]
        if zone.lost > 0 or zone.closed > 0 or not setup.market.offered[z, step]:
            continue
        if price > fixed.cap_units or chance > most_chance:
            continue
        if best == NOBODY:
            best = z
        elif fixed.choice == Choose.CHEAPEST:
            best = z if price < setup.market.units[best, step] else best
        elif fixed.choice == Choose.SAFEST:
            best = z if chance < setup.market.chances[best, step] else best
        elif zone.present < state.zones[best].present:
            best = z
    return best


@inner
def launched(state: State) -> tuple[int, int]:
    """How many have been launched and are not leaving; and of them, on demand."""
    count = on_demand = 0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.state == Life.BOOTING or one.state == Life.WARMING or one.state == Life.SERVING or one.state == Life.BROKEN:
            count += 1
            on_demand += one.kind == ON_DEMAND
    return count, on_demand


@inner
def place_for(setup: Setup, state: State, i: int, time: float) -> int:
    """Decide how instance i is bought that is about to be launched, and in which zone."""
    now = state.now[0]
    fixed = setup.fixed[0]
    if not fixed.spot:
        return zone_for(setup, state)
    one = state.instances[i]
    one.kind = ON_DEMAND
    count, on_demand = launched(state)
    if time < now.on_demand_until or on_demand < wanted_on_demand(fixed.first_on_demand, fixed.share_on_demand, count + 1):
        return zone_for(setup, state)
    step = step_at(time, setup.market.units.shape[1])
    zone = spot_zone(setup, state, step, fixed.cap_chance)
    if zone == NOBODY:
        now.on_demand_until = time + fixed.look_again
        now.spot_refused += 1
        note(state, time, EventKind.NO_SPOT, Cause.NEED, i, 0, 0, NOBODY)
        return zone_for(setup, state)
    one.kind = SPOT
    note(state, time, EventKind.SPOT_BOUGHT, Cause.NEED, i, zone, setup.market.units[zone, step], NOBODY)
    return zone


@inner
def reclaim(setup: Setup, state: State, time: float) -> None:
    """The market takes back what it drew for this step: each is told so, and drains for as long as the notice lasts."""
    now = state.now[0]
    fixed = setup.fixed[0]
    step = step_at(time, setup.market.units.shape[1])
    for a in range(now.living):
        i = state.alive[a]
        one = state.instances[i]
        if one.kind != SPOT or not (one.state == Life.BOOTING or one.state == Life.WARMING or one.state == Life.SERVING):
            continue
        if uniform(fixed.seed, STREAM_RECLAIM, 1_000_003 * step + i) < setup.market.chances[one.zone, step]:
            one.deadline = time + fixed.spot_notice
            now.reclaimed += 1
            dismiss(setup, state, i, time, NOBODY, False, Reason.RECLAIMED)


@hot
def spot_price(setup: Setup, state: State, time: float) -> float:
    """What the spot instances cost a second by the market, besides their disks and addresses."""
    step = step_at(time, setup.market.units.shape[1])
    total = 0.0
    for z in range(len(state.zones)):
        total += state.zones[z].spot * setup.market.units[z, step]
    return total / (UNIT * 3600.0)
