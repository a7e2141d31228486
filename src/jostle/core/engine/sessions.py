"""Sessions: guests who take a seat and stay a while."""

import math

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause
from jostle.core.draw import STREAM_ARRIVE, STREAM_LEAVE, binomial, poisson, uniform
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def leave_seats(setup: Setup, state: State, step: int, time: float) -> tuple[int, int]:
    """Sessions that end within a step, drawn for each instance; the step is over at `time`.

    Returns how many those that serve had before, and how many of these end.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    before = left = 0
    for a in range(now.living):
        i = state.alive[a]
        one = state.instances[i]
        if one.sessions == 0 or (one.state != Life.SERVING and one.state != Life.DRAINING):
            continue
        none = setup.stays[one.sessions]
        ended = binomial(fixed.seed, STREAM_LEAVE + 4096 * (1 + i), step, one.sessions, fixed.session_end, none)
        if one.state == Life.SERVING:
            before += one.sessions
            left += ended
        one.sessions -= ended
        now.in_use -= ended
        if one.state == Life.DRAINING and one.sessions == 0:
            now.next_due = min(now.next_due, time)
    return before, left


@inner
def find_seats(setup: Setup, step: int, came: int, free: int, left: int) -> int:
    """How many of those that come find a seat where so many are free and so many more become so, all in an order by chance."""
    seed = setup.fixed[0].seed
    found = 0
    for event in range(came + left):
        if (came + left) * uniform(seed, STREAM_LEAVE + 1 + 16 * event, step) < left:
            free += 1
            left -= 1
        else:
            came -= 1
            if free > 0:
                free -= 1
                found += 1
    return found


@inner
def leave_at_once(setup: Setup, state: State, step: int, begun: int) -> None:
    """Of the sessions begun within a step, those that end within it."""
    now = state.now[0]
    fixed = setup.fixed[0]
    left = binomial(fixed.seed, STREAM_LEAVE, step, begun, fixed.at_once, (1.0 - fixed.at_once) ** begun)
    for a in range(now.living):
        one = state.instances[state.alive[(a + step) % now.living]]
        if left > 0 and one.state == Life.SERVING and one.sessions > 0:
            gone = min(left, 1 + one.sessions // 2)
            one.sessions -= gone
            now.in_use -= gone
            left -= gone


@inner
def cut_off(state: State, i: int, time: float) -> None:
    """The sessions that instance i held when it ended are over before their time."""
    now = state.now[0]
    one = state.instances[i]
    if one.sessions > 0:
        note(state, time, EventKind.SESSIONS_CUT, Cause.NEED, i, one.sessions, 0, NOBODY)
        now.cut_off += one.sessions
        now.in_use -= one.sessions
        one.sessions = 0


@hot
def fill_level(state: State, seats: int, number: int) -> int:
    """The highest level to which emptier instances can be filled with so many sessions, none beyond its seats.

    It lies no further above the emptiest than there are sessions to fill it with.
    """
    living = state.now[0].living
    low = seats
    for a in range(living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            low = min(low, one.sessions)
    high = min(seats, low + number)
    while low < high:
        level = (low + high + 1) // 2
        needed = 0
        for a in range(living):
            one = state.instances[state.alive[a]]
            if one.state == Life.SERVING and one.sessions < level:
                needed += level - one.sessions
        if needed <= number:
            low = level
        else:
            high = level - 1
    return low


@hot
def seat_spread(setup: Setup, state: State, number: int) -> int:
    """Seat new sessions with the emptiest instances; returns how many found a seat."""
    seats = int(setup.fixed[0].capacity)
    level = fill_level(state, seats, number)
    left = number
    for turn in range(2):
        for a in range(state.now[0].living):
            one = state.instances[state.alive[a]]
            if one.state != Life.SERVING or left == 0:
                continue
            room = max(0, level - one.sessions) if turn == 0 else min(1, seats - one.sessions) if one.sessions <= level else 0
            taken = min(left, room)
            one.sessions += taken
            left -= taken
    return number - left


@inner
def seat_packed(setup: Setup, state: State, number: int) -> int:
    """Seat new sessions with the fullest instances that have room; returns how many found a seat."""
    seats = int(setup.fixed[0].capacity)
    left = number
    while left > 0:
        best = -1
        for a in range(state.now[0].living):
            one = state.instances[state.alive[a]]
            if one.state == Life.SERVING and one.sessions < seats and (best < 0 or one.sessions > state.instances[best].sessions):
                best = state.alive[a]
        if best < 0:
            break
        taken = min(left, seats - state.instances[best].sessions)
        state.instances[best].sessions += taken
        left -= taken
    return number - left


@hot
def hold_sessions(setup: Setup, state: State, k: int) -> None:
    """Tick k, in so many steps that few sessions are over within one: some end, new ones take seats, or are refused."""
    now = state.now[0]
    fixed = setup.fixed[0]
    steps = fixed.steps
    begun = refused = 0
    for s in range(steps):
        step = k * steps + s
        before, left = leave_seats(setup, state, step, (k + 1) * fixed.tick)
        came = int(setup.arrivals[k]) if steps == 1 else poisson(fixed.seed, STREAM_ARRIVE, step, setup.means[k] / steps)
        lost = int(round(came * now.dead / (now.serving + now.dead))) if now.dead > 0 else 0
        seated = came - lost
        free = now.serving * int(fixed.capacity) - before
        if seated > free:
            seated = find_seats(setup, step, seated, free, left)
        if seated > 0:
            seated = seat_packed(setup, state, seated) if fixed.pack else seat_spread(setup, state, seated)
        now.in_use += seated
        begun += seated
        refused += came - seated
        if seated > 0:
            leave_at_once(setup, state, step, seated)
    arrived = begun + refused
    state.entered[k + 1] = state.entered[k] + arrived
    now.served += begun
    now.failed += refused
    now.departed += arrived
    meter = state.meters[0]
    meter.served += begun
    meter.failed += refused
    meter.arrived += arrived
    row = state.series[k]
    row.capacity, row.served, row.failed, row.waiting = now.serving * fixed.capacity, begun, refused, 0.0
    row.age = 0.0
    row.short = refused > 0
    row.latency = math.nan
    seated = 0
    for z in range(len(state.zones)):
        state.zones[z].sessions = 0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            seated += one.sessions
            state.zones[one.zone].sessions += one.sessions
    meter.sessions += seated
    row.seated = seated
    if now.serving > 0:
        now.busy = seated / (now.serving * fixed.capacity)
        row.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy
    else:
        row.cpu = math.nan
