"""Choosing who leaves, and sending them."""

import numpy as np

from jostle.core.compiled import hot, inner, leaf, part
from jostle.core.decide.code import NOBODY, Cause, Reason, Standing
from jostle.core.decide.leaving import is_kept, next_to_leave, paid_left, why_it
from jostle.core.engine.code import EventKind, Life, Side
from jostle.core.engine.instance import end, forsake, leave_zone, stop_or_end, stop_serving
from jostle.core.engine.kind import is_present, weight_of
from jostle.core.engine.market import UNIT, step_at
from jostle.core.engine.mix import ON_DEMAND, SPOT, bought, kind_of, type_of
from jostle.core.engine.note import note
from jostle.core.engine.room import close_room
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNLIMITED, State
from jostle.core.engine.work import start_draining
from jostle.core.plan.work import WorkKind
from jostle.core.reference import by_reference


@hot
def may_leave(state: State, i: int, side: int) -> bool:
    """Whether instance i is there to be picked, of a Side. A pinned one is only when the whole group falls asleep, or to be
    replaced by another version."""
    one, now = state.instances[i], state.memory.row[0]
    if side != Side.ALL and (one.version == state.now[0].coming) != (side == Side.FRESH):
        return False
    return is_present(one.state) and (not one.pinned or now.asleep or side != Side.ALL)


@inner
def list_candidates(setup: Setup, state: State, time: float, side: int) -> int:
    """Write a row for each instance of a Side that may leave; returns how many there are."""
    number = 0
    for a in range(state.now[0].living):
        i = state.alive[a]
        if not may_leave(state, i, side):
            continue
        one, row = state.instances[i], state.candidates[number]
        row.number, row.zone, row.version, row.overflow, row.sessions = i, one.zone, one.version, one.overflow, one.sessions
        if setup.fixed[0].work == WorkKind.HOSTING:
            row.sessions = state.deck.rooms[i].copies
        row.standing, row.paid_left, row.weight = Standing.COMING, 0.0, setup.kinds[one.kind].weight
        row.spot, row.price = bought(one.kind) == SPOT, price_now(setup, one.zone, one.kind, time)
        if one.state == Life.REQUESTED:
            row.standing = Standing.ASKED
        elif one.state == Life.SERVING:
            row.standing = Standing.SERVING
        elif one.state == Life.BROKEN:
            row.standing = Standing.BROKEN
        if one.state != Life.REQUESTED:
            row.paid_left = paid_left(time, state.spells[one.spell].begin)
        number += 1
    return number


@hot
def price_now(setup: Setup, zone: int, kind: int, time: float) -> float:
    """What an hour of the machine of an instance costs."""
    steps = setup.market.units.shape[2]
    if bought(kind) == ON_DEMAND or steps == 0:
        return setup.kinds[kind_of(type_of(kind), ON_DEMAND)].price_machine * 3600.0
    return setup.market.units[type_of(kind), zone, step_at(time, steps)] / UNIT


@part
def dismiss(setup: Setup, state: State, i: int, time: float, who: int, to_stop: bool, why: int) -> None:
    """Instance i leaves, for a Reason; see `have_leave`."""
    have_leave(setup, state, int(i), time, int(who), bool(to_stop), why)


@inner
def have_leave(setup: Setup, state: State, i: int, time: float, who: int, to_stop: bool, why: int) -> None:
    """Instance i leaves, for a Reason: one that serves drains, another ends or stops at once."""
    one = state.instances[i]
    now = state.now[0]
    leave_zone(state, i)
    one.sent_by = who
    note(state, time, EventKind.INSTANCE_LEAVES, Cause.NEED, i, why, 0, NOBODY)
    one.unwanted = why != Reason.RECLAIMED and why != Reason.SWAPPED and why != Reason.HAND and why != Reason.ROLLOUT
    one.to_stop = to_stop and one.state != Life.REQUESTED and one.state != Life.BROKEN
    forsake(state, i)
    if one.state == Life.SERVING:
        start_draining(setup, state, i)
        stop_serving(state, i)
        one.state = Life.DRAINING
        close_room(setup, state, i, False)
        one.drains = time
        now.draining += 1
        now.next_due = min(now.next_due, time)
    elif one.to_stop:
        stop_or_end(setup, state, i, time)
    else:
        end(setup, state, i, time)


@inner
def send_away(setup: Setup, state: State, time: float, number: int, who: int, sleep: bool, side: int) -> None:
    """Instances of a Side leave one after the other, as long as the next in turn is worth no more than what is too many."""
    owned = setup.fixed[0].owned < UNLIMITED
    candidates = list_candidates(setup, state, time, side)
    left = number
    while left > 0:
        c = next_to_leave(setup.rules, state.candidates, candidates, state.zones["present"])
        if c == NOBODY or state.candidates[c].weight > left:
            return
        row = state.candidates[c]
        left -= row.weight
        why = why_it(setup.rules, state.candidates, candidates, state.zones["present"], c) if side == Side.ALL else Reason.ROLLOUT
        row.standing = Standing.LEFT
        dismiss(setup, state, row.number, time, who, is_kept(sleep, owned, row.overflow) and not row.spot, why)


@inner
def drop_coming(setup: Setup, state: State, time: float, number: int) -> int:
    """Instances that do not serve yet end, newest first, up to so much of what the group counts in; returns what they were."""
    now = state.now[0]
    dropped = 0
    for a in range(now.living - 1, -1, -1):
        i = state.alive[a]
        kind = state.instances[i].state
        weight = weight_of(setup, state, i)
        if dropped + weight <= number and (kind in (Life.REQUESTED, Life.BOOTING, Life.WARMING)):
            dismiss(setup, state, i, time, NOBODY, False, Reason.SURPLUS)
            dropped += weight
    return dropped


@inner
def pinned_there(setup: Setup, state: State) -> int:
    """How many of those present are pinned, in what the group counts in."""
    number = 0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.pinned and is_present(one.state):
            number += weight_of(setup, state, state.alive[a])
    return number


@leaf
def next_by_each(setup: Setup, state: State, time: float, each: np.ndarray, chosen: np.ndarray) -> None:
    """Write into `chosen` which instance would leave next by each of the criteria alone, NOBODY where none would. The rules of
    `setup` are to have one criterion, which is written over."""
    setup, state = by_reference(setup, state)
    number = list_candidates(setup, state, time, Side.ALL)
    for k in range(len(each)):
        setup.rules.criteria[0] = each[k]
        c = next_to_leave(setup.rules, state.candidates, number, state.zones["present"])
        chosen[k] = NOBODY if c == NOBODY else state.candidates[c].number


@leaf
def next_out(setup: Setup, state: State, time: float) -> tuple[int, int]:
    """Instance that would leave next, or NOBODY, and the Reason."""
    setup, state = by_reference(setup, state)
    number = list_candidates(setup, state, time, Side.ALL)
    c = next_to_leave(setup.rules, state.candidates, number, state.zones["present"])
    if c == NOBODY:
        return NOBODY, Reason.ONLY
    return state.candidates[c].number, why_it(setup.rules, state.candidates, number, state.zones["present"], c)
