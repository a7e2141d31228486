"""Choosing who leaves, and sending them."""

from jostle.core.compiled import hot, inner
from jostle.core.engine.code import (
    BOOTING,
    BROKEN,
    DRAINING,
    FEWEST_SESSIONS,
    NEAREST_PAID_HOUR,
    NEWEST,
    NOBODY,
    OLDEST,
    OLDEST_VERSION,
    REQUESTED,
    SERVING,
    WARMING,
)
from jostle.core.engine.instance import end, forsake, leave_zone, stop_or_end, stop_serving
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNLIMITED, State


@hot
def may_leave(state: State, i: int) -> bool:
    """Whether instance i is there to be picked. A pinned one is only when the whole group falls asleep."""
    one = state.instances[i]
    there = one.state <= SERVING or one.state == BROKEN
    return there and (not one.pinned or state.now[0].asleep)


@hot
def rank(setup: Setup, state: State, i: int, criterion: int, time: float) -> float:
    """Place of instance i by one criterion: the lowest leaves first. A launch's number stands for its age."""
    one = state.instances[i]
    if criterion == OLDEST_VERSION:
        return float(one.version)
    if criterion == OLDEST:
        return float(i)
    if criterion == NEWEST:
        return -float(i)
    if criterion == NEAREST_PAID_HOUR:
        return 0.0 if one.state == REQUESTED else 3600.0 - (time - state.spells[one.spell].begin) % 3600.0
    return float(one.sessions) if criterion == FEWEST_SESSIONS else 0.0


@hot
def leaves_before(setup: Setup, state: State, i: int, j: int, time: float) -> bool:
    """Whether instance i goes before j: requests not taken, the fullest zone, overflow, broken, not yet serving, the list."""
    one, other = state.instances[i], state.instances[j]
    asked, other_asked = one.state == REQUESTED, other.state == REQUESTED
    if asked or other_asked:
        return i > j if asked and other_asked else asked
    if setup.fixed[0].balance_zones:
        crowd, other_crowd = state.zones[one.zone].present, state.zones[other.zone].present
        if crowd != other_crowd:
            return crowd > other_crowd
    if one.overflow != other.overflow:
        return one.overflow
    broken, other_broken = one.state == BROKEN, other.state == BROKEN
    if broken != other_broken:
        return broken
    coming, other_coming = one.state == BOOTING or one.state == WARMING, other.state == BOOTING or other.state == WARMING
    if coming != other_coming:
        return coming
    if coming:
        return i > j
    for criterion in setup.criteria:
        place, other_place = rank(setup, state, i, criterion, time), rank(setup, state, j, criterion, time)
        if place != other_place:
            return place < other_place
    return i < j


@inner
def next_to_leave(setup: Setup, state: State, time: float) -> int:
    """Position of the instance that leaves first, or NOBODY where none may."""
    best = NOBODY
    for a in range(state.now[0].living):
        i = state.alive[a]
        if may_leave(state, i) and (best == NOBODY or leaves_before(setup, state, i, best, time)):
            best = i
    return best


@inner
def dismiss(setup: Setup, state: State, i: int, time: float, who: int, to_stop: bool) -> None:
    """Instance i leaves: one that serves drains, another ends or stops at once."""
    one = state.instances[i]
    now = state.now[0]
    leave_zone(state, i)
    one.sent_by = who
    one.to_stop = to_stop and one.state != REQUESTED and one.state != BROKEN
    forsake(state, i)
    if one.state == SERVING:
        stop_serving(state, i)
        one.state = DRAINING
        one.drains = time
        now.draining += 1
        now.next_due = min(now.next_due, time)
    elif one.to_stop:
        stop_or_end(setup, state, i, time)
    else:
        end(setup, state, i, time)


@inner
def send_away(setup: Setup, state: State, time: float, number: int, who: int, sleep: bool) -> None:
    """So many instances leave. Those of the base are stopped, and so are all when the group falls asleep."""
    owned = setup.fixed[0].base_size < UNLIMITED
    for _ in range(number):
        i = next_to_leave(setup, state, time)
        if i == NOBODY:
            return
        dismiss(setup, state, i, time, who, sleep or (owned and not state.instances[i].overflow))


@inner
def drop_coming(setup: Setup, state: State, time: float, number: int) -> int:
    """Up to so many instances that do not serve yet end, newest first; returns how many did."""
    now = state.now[0]
    dropped = 0
    for a in range(now.living - 1, -1, -1):
        i = state.alive[a]
        kind = state.instances[i].state
        if dropped < number and (kind in (REQUESTED, BOOTING, WARMING)):
            dismiss(setup, state, i, time, NOBODY, False)
            dropped += 1
    return dropped


@inner
def may_go(setup: Setup, state: State) -> int:
    """How many instances scale in may still pick."""
    number = 0
    for a in range(state.now[0].living):
        if may_leave(state, state.alive[a]):
            number += 1
    return number
