"""Buying: what a launch becomes, on which machine, on demand or spot and where, and what the market takes back."""

import math

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause, Reason
from jostle.core.draw import STREAM_RECLAIM, stream_of, uniform
from jostle.core.engine.code import Bought, Choose, EventKind, Life
from jostle.core.engine.identity import home_of
from jostle.core.engine.kind import billed_of, first_type, room_of, weight_of
from jostle.core.engine.launch_zone import zone_for
from jostle.core.engine.leaving import dismiss
from jostle.core.engine.market import UNIT, step_at
from jostle.core.engine.mix import ON_DEMAND, SPOT, bought, kind_of, type_of, wanted_on_demand
from jostle.core.engine.note import note
from jostle.core.engine.room import put_on_host
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@inner
def spot_place(
    setup: Setup, state: State, step: int, most_chance: float, quota: int, least: float, weight: int, home: int, version: int
) -> tuple[int, int]:
    """The type of machine and the zone that are bought as spot for a version: of those that are sold under the cap on the price,
    with such a chance of a reclaim within the step at the most, within the quotas, and that can do so much at the `least` and
    count for that `weight`, the one that is chosen; in the zone `home` alone where it is one. NOBODY twice if there is none."""
    fixed, market = setup.fixed[0], setup.market
    best = where = NOBODY
    first = first_type(setup, version)
    for t in range(first, first + fixed.types):
        kind = setup.kinds[kind_of(t, SPOT)]
        if kind.capacity < least or kind.weight < weight or room_of(setup, state, t, quota) == 0:
            continue
        for z in range(len(state.zones)):
            zone, price, chance = state.zones[z], market.units[t, z, step], market.chances[t, z, step]
            if zone.lost > 0 or zone.closed > 0 or not market.offered[t, z, step] or home not in (NOBODY, z):
                continue
            if price > kind.cap_units or chance > most_chance:
                continue
            if best == NOBODY:
                better = True
            elif fixed.choice == Choose.CHEAPEST or (fixed.choice == Choose.IN_ORDER and z == where):
                better = price / kind.capacity < market.units[best, where, step] / setup.kinds[kind_of(best, SPOT)].capacity
            elif fixed.choice == Choose.SAFEST:
                better = chance < market.chances[best, where, step]
            elif fixed.choice == Choose.IN_ORDER and z != where:
                better = z < where
            else:
                better = is_rarer(setup, state, t, z, best, where)
            if better:
                best, where = t, z
    return best, where


@hot
def is_rarer(setup: Setup, state: State, t: int, z: int, best: int, where: int) -> bool:
    """Whether fewer are there of a type of machine in a zone than of another elsewhere: by zone first, by type then."""
    there, other = state.zones[z].present, state.zones[where].present
    return there < other or (there == other and billed_of(setup, state, t) < billed_of(setup, state, best))


@inner
def on_demand_type(setup: Setup, state: State, quota: int, version: int) -> int:
    """The type of machine that is bought on demand for a version: the cheapest for what it does of those within their quotas."""
    best = first = first_type(setup, version)
    least = math.inf
    for t in range(first, first + setup.fixed[0].types):
        kind = setup.kinds[kind_of(t, ON_DEMAND)]
        price = kind.price_machine / kind.capacity
        if price < least and room_of(setup, state, t, quota) > 0:
            best, least = t, price
    return best


@inner
def launched(setup: Setup, state: State) -> tuple[int, int]:
    """What has been launched and is not leaving, in what the group counts in; and of that, on demand."""
    count = on_demand = 0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.state == Life.BOOTING or one.state == Life.WARMING or one.state == Life.SERVING or one.state == Life.BROKEN:
            weight = weight_of(setup, state, state.alive[a])
            count += weight
            if bought(one.kind) == ON_DEMAND:
                on_demand += weight
    return count, on_demand


@inner
def how_bought(setup: Setup, state: State, time: float) -> int:
    """How the next launch is bought: a Bought."""
    fixed = setup.fixed[0]
    if not fixed.spot or time < state.now[0].on_demand_until:
        return Bought.NO_SPOT
    count, on_demand = launched(setup, state)
    if on_demand < wanted_on_demand(fixed.first_on_demand, fixed.share_on_demand, count + 1):
        return Bought.BY_MIX
    return Bought.SPOT


@inner
def to_be_had(setup: Setup, state: State, time: float, quota: int, home: int, version: int) -> bool:
    """Whether the next launch, where it is spot, finds some, or has waited for it for long enough to be on demand."""
    if how_bought(setup, state, time) != Bought.SPOT:
        return True
    now, fixed = state.now[0], setup.fixed[0]
    step = step_at(time, setup.market.units.shape[2])
    if spot_place(setup, state, step, fixed.cap_chance, quota, 0.0, 0, home, version)[1] != NOBODY:
        now.no_spot_since = math.inf
        return True
    if fixed.ordered:
        return False
    now.no_spot_since = min(now.no_spot_since, time)
    return time - now.no_spot_since >= fixed.wait - 1e-6


@inner
def place_for(setup: Setup, state: State, i: int, time: float, quota: int) -> int:
    """Decide on which machine instance i is launched, how it is bought, and in which zone."""
    now = state.now[0]
    fixed = setup.fixed[0]
    one = state.instances[i]
    if fixed.guest != NOBODY:
        return put_on_host(setup, state, i)
    one.kind = kind_of(on_demand_type(setup, state, quota, one.version), ON_DEMAND)
    home = home_of(setup, state, one.post)
    if how_bought(setup, state, time) != Bought.SPOT:
        return zone_for(setup, state, home)
    step = step_at(time, setup.market.units.shape[2])
    t, zone = spot_place(setup, state, step, fixed.cap_chance, quota, 0.0, 0, home, one.version)
    if zone == NOBODY:
        now.on_demand_until, now.no_spot_since = time + fixed.look_again, math.inf
        now.spot_refused += 1
        note(state, time, EventKind.NO_SPOT, Cause.NEED, i, 0, 0, NOBODY)
        return zone_for(setup, state, home)
    one.kind = kind_of(t, SPOT)
    note(state, time, EventKind.SPOT_BOUGHT, Cause.NEED, i, zone, setup.market.units[t, zone, step], NOBODY)
    return zone


@inner
def reclaim(setup: Setup, state: State, time: float) -> None:
    """The market takes back what it drew for this step: each is told so, and drains for as long as the notice lasts."""
    now = state.now[0]
    fixed = setup.fixed[0]
    step = step_at(time, setup.market.units.shape[2])
    for a in range(now.living):
        i = state.alive[a]
        one = state.instances[i]
        if bought(one.kind) != SPOT or not (one.state == Life.BOOTING or one.state == Life.WARMING or one.state == Life.SERVING):
            continue
        if (
            uniform(stream_of(fixed.seed, STREAM_RECLAIM), 1_000_003 * step + i)
            < setup.market.chances[type_of(one.kind), one.zone, step]
        ):
            one.deadline = time + setup.kinds[one.kind].notice
            now.reclaimed += 1
            dismiss(setup, state, i, time, NOBODY, False, Reason.RECLAIMED)


@hot
def spot_price(setup: Setup, state: State, time: float) -> float:
    """What the spot instances cost a second by the market, besides their disks and addresses."""
    step = step_at(time, setup.market.units.shape[2])
    total = 0.0
    for t in range(state.berths.shape[0]):
        for z in range(state.berths.shape[1]):
            total += state.berths[t, z] * setup.market.units[t, z, step]
    return total / (UNIT * 3600.0)
