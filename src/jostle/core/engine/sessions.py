"""Sessions: guests who take a seat and stay a while."""

import math

import numpy as np

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause, Dial
from jostle.core.draw import STREAM_ARRIVE, STREAM_LEAVE, binomial, poisson, uniform
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.kind import can_do
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.work import Sessions

# Ends that are dealt out one by one, and new sessions that are seated so
FEW_ENDS, ONE_BY_ONE = 12.0, 4
# Part of a session that a step lasts, at most: the refused of Erlang B then come out within a few per cent
END_SHARE = 1 / 16


def fill_sessions(row: np.record, kind: np.record, work: Sessions) -> float:
    """The numbers of sessions; a Spare policy counts their seats."""
    kind.capacity = work.seats
    row.full_cpu, row.pack = work.full_cpu, work.place == "pack"
    row.by_chance = True
    row.steps = math.ceil(row.tick / work.length / END_SHARE)
    step = row.tick / row.steps / work.length
    row.session_end = 1.0 - math.exp(-step)
    row.at_once = 1.0 - row.session_end / step
    return float(work.seats)


@hot
def read_seats(setup: Setup, state: State, s: int, serving: float) -> None:
    """Reading s of the seats that were free, with so many serving over the period."""
    seats = serving * setup.kinds[0].capacity
    free = seats - state.meters[0].sessions / setup.fixed[0].period_ticks
    row = state.sight.samples[0]
    row[Dial.FREE_SEATS, s] = free
    row[Dial.FREE_SEATS_SHARE, s] = free / seats


@hot
def look_round(state: State) -> int:
    """Write down what each of the living holds, and whether it takes more. Returns the sessions with those that serve."""
    seated = 0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        serves = one.state == Life.SERVING
        state.taking[a] = serves
        state.holding[a] = one.sessions if serves or one.state == Life.DRAINING else 0
        if serves:
            seated += one.sessions
    return seated


@hot
def gone_from(state: State, a: int, ended: int, time: float) -> int:
    """So many sessions of the a-th of the living end by `time`. Returns how many of them with one that serves."""
    now = state.now[0]
    state.holding[a] -= ended
    state.instances[state.alive[a]].sessions -= ended
    now.in_use -= ended
    if state.taking[a]:
        return ended
    if state.holding[a] == 0:
        now.next_due = min(now.next_due, time)
    return 0


@hot
def taken_by(state: State, a: int, number: int) -> None:
    """The a-th of the living takes so many new sessions."""
    state.holding[a] += number
    state.instances[state.alive[a]].sessions += number


@inner
def leave_each(setup: Setup, state: State, step: int, time: float) -> int:
    """Sessions that end within a step, where there are many: drawn for each instance. Returns how many with those that serve."""
    fixed = setup.fixed[0]
    left = 0
    for a in range(state.now[0].living):
        held = state.holding[a]
        if held > 0:
            stream = STREAM_LEAVE + 4096 * (1 + state.alive[a])
            ended = binomial(fixed.seed, stream, step, held, fixed.session_end, setup.stays[held])
            left += gone_from(state, a, ended, time)
    return left


@hot
def leave_seats(setup: Setup, state: State, step: int, time: float) -> int:
    """Sessions that end within a step, which is over at `time`. Returns how many of them with those that serve.

    Where they are few, how many is drawn for all, and then for each whose it is; which is the same chance as a
    draw for each instance.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    total = int(now.in_use)
    if total * fixed.session_end > min(FEW_ENDS, 0.5 * now.living):
        return leave_each(setup, state, step, time)
    none = math.exp(total * math.log1p(-fixed.session_end))
    ended = binomial(fixed.seed, STREAM_LEAVE + 3, step, total, fixed.session_end, none)
    left = 0
    for e in range(ended):
        picked = int(total * uniform(fixed.seed, STREAM_LEAVE + 2 + 16 * e, step))
        total -= 1
        for a in range(now.living):
            if picked < state.holding[a]:
                left += gone_from(state, a, 1, time)
                break
            picked -= state.holding[a]
    return left


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
def leave_at_once(setup: Setup, state: State, step: int, begun: int) -> int:
    """Of the sessions begun within a step, those that end within it. Returns how many."""
    now = state.now[0]
    fixed = setup.fixed[0]
    if uniform(fixed.seed, STREAM_LEAVE, step) <= 1.0 - begun * fixed.at_once:
        return 0  # below the chance that none ends, which takes longer to work out
    ended = left = binomial(fixed.seed, STREAM_LEAVE, step, begun, fixed.at_once, (1.0 - fixed.at_once) ** begun)
    for a in range(now.living):
        if left == 0:
            break
        b = (a + step) % now.living
        if state.taking[b] and state.holding[b] > 0:
            left -= gone_from(state, b, min(left, 1 + state.holding[b] // 2), math.inf)
    return ended - left


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
        if state.taking[a]:
            low = min(low, state.holding[a])
    high = min(seats, low + number)
    while low < high:
        level = (low + high + 1) // 2
        needed = 0
        for a in range(living):
            if state.taking[a]:
                needed += max(0, level - state.holding[a])
        if needed <= number:
            low = level
        else:
            high = level - 1
    return low


@hot
def seat_one(state: State, seats: int) -> bool:
    """Seat one session with the emptiest instance; whether there was a seat."""
    best = NOBODY
    fewest = seats
    for a in range(state.now[0].living):
        if state.taking[a] and state.holding[a] < fewest:
            best, fewest = a, state.holding[a]
    if best == NOBODY:
        return False
    taken_by(state, best, 1)
    return True


@hot
def seat_spread(setup: Setup, state: State, number: int) -> int:
    """Seat new sessions with the emptiest instances; returns how many found a seat."""
    seats = int(setup.kinds[0].capacity)
    if number <= ONE_BY_ONE:
        found = 0
        while found < number and seat_one(state, seats):
            found += 1
        return found
    level = fill_level(state, seats, number)
    left = number
    for turn in range(2):
        for a in range(state.now[0].living):
            if not state.taking[a] or left == 0:
                continue
            held = state.holding[a]
            room = max(0, level - held) if turn == 0 else min(1, seats - held) if held <= level else 0
            taken = min(left, room)
            if taken > 0:
                taken_by(state, a, taken)
                left -= taken
    return number - left


@inner
def seat_packed(setup: Setup, state: State, number: int) -> int:
    """Seat new sessions with the fullest instances that have room; returns how many found a seat."""
    seats = int(setup.kinds[0].capacity)
    left = number
    while left > 0:
        best, most = NOBODY, -1
        for a in range(state.now[0].living):
            if state.taking[a] and most < state.holding[a] < seats:
                best, most = a, state.holding[a]
        if best == NOBODY:
            break
        taken = min(left, seats - most)
        taken_by(state, best, taken)
        left -= taken
    return number - left


@hot
def hold_sessions(setup: Setup, state: State, k: int) -> None:
    """Tick k, in so many steps that few sessions are over within one: some end, new ones take seats, or are refused."""
    now = state.now[0]
    fixed = setup.fixed[0]
    steps = fixed.steps
    begun = refused = 0
    seated, seats = look_round(state), can_do(setup, state)
    for s in range(steps):
        step = k * steps + s
        left = leave_seats(setup, state, step, (k + 1) * fixed.tick)
        came = int(setup.arrivals[k]) if steps == 1 else poisson(fixed.seed, STREAM_ARRIVE, step, setup.means[k] / steps)
        lost = int(round(came * now.dead / (now.serving + now.dead))) if now.dead > 0 else 0
        new = came - lost
        free = int(seats) - seated
        if new > free:
            new = find_seats(setup, step, new, free, left)
        if new > 0:
            new = seat_packed(setup, state, new) if fixed.pack else seat_spread(setup, state, new)
        now.in_use += new
        begun += new
        refused += came - new
        seated += new - left
        if new > 0:
            seated -= leave_at_once(setup, state, step, new)
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
    row.capacity, row.served, row.failed, row.waiting = seats, begun, refused, 0.0
    row.age = 0.0
    row.short = refused > 0
    row.latency = math.nan
    if fixed.meter_zones:
        for z in range(len(state.zones)):
            state.zones[z].sessions = 0
        for a in range(now.living):
            if state.taking[a]:
                state.zones[state.instances[state.alive[a]].zone].sessions += state.holding[a]
    meter.sessions += seated
    row.seated = seated
    if now.serving > 0:
        now.busy = seated / seats
        row.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy
    else:
        row.cpu = math.nan
