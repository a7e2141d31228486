"""Swaps: a cheaper instance comes in the place of a dearer one, which leaves once it serves."""

from jostle.core.compiled import hot, inner, leaf
from jostle.core.decide.code import NOBODY, Cause, Reason
from jostle.core.engine.buying import launched, spot_place
from jostle.core.engine.code import Choose, EventKind, Life
from jostle.core.engine.identity import free_post
from jostle.core.engine.instance import accepted
from jostle.core.engine.kind import is_coming, weight_of, worth
from jostle.core.engine.launch import ask_for, quota_at
from jostle.core.engine.leaving import dismiss, price_now
from jostle.core.engine.market import UNIT, step_at
from jostle.core.engine.mix import ON_DEMAND, SPOT, bought, kind_of, wanted_on_demand
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def swaps_under_way(state: State) -> int:
    """How many are there twice meanwhile."""
    number = 0
    for a in range(state.now[0].living):
        number += is_coming(state, state.alive[a])
    return number


@leaf
def may_double(setup: Setup) -> bool:
    """Whether one may be there while that in whose place it comes still is."""
    return setup.fixed[0].swap_ticks > 0 or setup.fixed[0].guest != NOBODY


@leaf
def units_doubled(setup: Setup, state: State) -> int:
    """What is there beyond the count meanwhile, in what the group counts in."""
    now, number = state.now[0], 0
    if not now.doubled:
        return number
    now.doubled = False
    for a in range(now.living):
        i = state.alive[a]
        now.doubled = now.doubled or state.instances[i].replaces != NOBODY
        if is_coming(state, i):
            number += weight_of(setup, state, i)
    return number


@inner
def is_being_replaced(state: State, i: int) -> bool:
    for a in range(state.now[0].living):
        other = state.alive[a]
        if state.instances[other].replaces == i and is_coming(state, other):
            return True
    return False


@inner
def dearest(setup: Setup, state: State, time: float) -> int:
    """Of those that serve and may be swapped, the dearest, the oldest of several: on-demand ones beyond those that the mix wants,
    and spot ones where spot goes to the cheapest zone. NOBODY if there is none."""
    fixed = setup.fixed[0]
    present, on_demand = launched(setup, state)
    for a in range(state.now[0].living):
        i = state.alive[a]
        if is_coming(state, i):
            present -= weight_of(setup, state, i)
            old = state.instances[i].replaces
            if bought(state.instances[old].kind) == ON_DEMAND:
                on_demand -= weight_of(setup, state, old)
    beyond = on_demand - wanted_on_demand(fixed.first_on_demand, fixed.share_on_demand, present)
    best, most = NOBODY, 0.0
    for a in range(state.now[0].living):
        i = state.alive[a]
        one = state.instances[i]
        if one.state != Life.SERVING or (one.pinned and not fixed.swap_pinned) or is_being_replaced(state, i):
            continue
        if not (weight_of(setup, state, i) <= beyond if bought(one.kind) == ON_DEMAND else fixed.choice == Choose.CHEAPEST):
            continue
        price = price_now(setup, one.zone, one.kind, time) / worth(setup, one.kind)
        if price > most:
            best, most = i, price
    return best


@inner
def look_for_swaps(setup: Setup, state: State, time: float) -> None:
    """Send for a cheaper one in the place of each that is dear enough, no more at once than said, and none during a rollout."""
    now = state.now[0]
    fixed = setup.fixed[0]
    step = step_at(time, setup.market.units.shape[2])
    if state.memory.row[0].rollout != NOBODY:
        return
    for _ in range(fixed.swap_at_once - swaps_under_way(state)):
        old = dearest(setup, state, time)
        if old == NOBODY:
            return
        was = state.instances[old]
        own = setup.kinds[was.kind]
        quota = quota_at(setup, time)
        t, zone = spot_place(setup, state, step, fixed.swap_chance, quota, own.capacity, own.weight, NOBODY, was.version)
        if zone == NOBODY:
            return
        kind = kind_of(t, SPOT)
        now_asked = setup.market.units[t, zone, step] / UNIT
        before = price_now(setup, was.zone, was.kind, time)
        if now_asked / worth(setup, kind) > before / worth(setup, was.kind) * (1.0 - fixed.swap_saves):
            return
        i = ask_for(state, time, was.version, NOBODY, free_post(setup, state))
        state.instances[i].kind, state.instances[i].replaces, now.doubled = kind, old, True
        accepted(setup, state, i, zone, time)
        note(state, time, EventKind.SWAP_BEGINS, Cause.NEED, i, old, int(round((before - now_asked) * UNIT)), NOBODY)
    now.next_due = min(now.next_due, time)


@inner
def complete_swaps(setup: Setup, state: State, time: float) -> None:
    """Those in whose place another serves now leave."""
    if not state.now[0].doubled:
        return
    for a in range(state.now[0].living):
        i = state.alive[a]
        one = state.instances[i]
        if one.replaces == NOBODY or one.state != Life.SERVING:
            continue
        old, one.replaces = one.replaces, NOBODY
        if state.instances[old].state != Life.SERVING:
            continue
        if setup.fixed[0].guest != NOBODY:
            note(state, time, EventKind.COPY_MOVED, Cause.NEED, i, old, state.instances[old].host, NOBODY)
            dismiss(setup, state, old, time, NOBODY, False, Reason.MOVED)
            continue
        note(state, time, EventKind.SWAP_ENDS, Cause.NEED, i, old, 0, NOBODY)
        state.now[0].swaps += 1
        dismiss(setup, state, old, time, NOBODY, False, Reason.SWAPPED)
