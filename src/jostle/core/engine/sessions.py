"""Sessions: guests who take a seat and stay a while."""

import math

import numpy as np

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause, Dial
from jostle.core.draw import STREAM_ARRIVE, STREAM_LEAVE, bell, binomial, poisson, uniform
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.kind import can_do
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.work import Sessions

# Ends of a step up to which it is drawn whose each is; and ends on average from which how many there are is drawn from a bell
MOST_ONE_BY_ONE, MANY_ENDS = 4, 5.0
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
def level_seats(state: State) -> None:
    """Know the sessions with those that serve by level: instances that hold as many are alike until one of them is picked out.

    Those that were known so before keep their order; who is new stands before those that hold as many, the newest first.
    """
    now = state.now[0]
    levels, starts = state.levels[0], state.levels[1]
    levels[:] = 0
    starts[:] = 0
    now.levelled = True
    now.seated = now.emptying = 0
    found = 0
    for a in range(now.living):
        i = state.alive[now.living - 1 - a]
        one = state.instances[i]
        if one.state == Life.SERVING:
            levels[one.sessions] += 1
            now.seated += one.sessions
            if not one.in_order:
                one.in_order = True
                state.sorting[found] = i
                found += 1
        elif one.state == Life.DRAINING and one.sessions > 0:
            state.draining[now.emptying] = i
            now.emptying += 1
    for r in range(now.ordered):
        i = state.order[r]
        if state.instances[i].state == Life.SERVING:
            state.sorting[found] = i
            found += 1
        else:
            state.instances[i].in_order = False
    rank = 0
    for level in range(len(levels)):
        starts[level] = rank
        rank += levels[level]
    for r in range(found):
        i = state.sorting[r]
        held = state.instances[i].sessions
        state.order[starts[held]] = i
        starts[held] += 1
    starts[:] = 0
    now.ordered = found
    now.low_level, now.high_level = 0, len(levels) - 1


@inner
def write_seats(state: State) -> None:
    """Write down with each instance what it holds, before one of them is picked out or told of."""
    now = state.now[0]
    if not now.levelled:
        return
    now.levelled = False
    rank = 0
    for level in range(now.low_level, now.high_level + 1):
        for _ in range(state.levels[0, level]):
            state.instances[state.order[rank]].sessions = level
            rank += 1


@hot
def draw_in(state: State) -> None:
    """Have the lowest and the highest level be levels at which there are instances."""
    now = state.now[0]
    levels = state.levels[0]
    while now.low_level < now.high_level and levels[now.low_level] == 0:
        now.low_level += 1
    while now.high_level > now.low_level and levels[now.high_level] == 0:
        now.high_level -= 1


@hot
def leave_draining(setup: Setup, state: State, step: int, time: float) -> None:
    """Sessions of those that take no more end; the last of an instance ends by `time`."""
    now = state.now[0]
    fixed = setup.fixed[0]
    d = 0
    while d < now.emptying:
        i = state.draining[d]
        one = state.instances[i]
        none = (1.0 - fixed.session_end) ** one.sessions
        ended = binomial(fixed.seed, STREAM_LEAVE + 4096 * (1 + i), step, one.sessions, fixed.session_end, none)
        one.sessions -= ended
        now.in_use -= ended
        if one.sessions == 0:
            now.next_due = min(now.next_due, time)
            now.emptying -= 1
            state.draining[d] = state.draining[now.emptying]
        else:
            d += 1


@hot
def leave_one(state: State, picked: int) -> None:
    """The session in place `picked`, counted from the emptiest instances that serve, ends."""
    now = state.now[0]
    levels = state.levels[0]
    level = max(1, now.low_level)
    while level < now.high_level and picked >= levels[level] * level:
        picked -= levels[level] * level
        level += 1
    levels[level] -= 1
    levels[level - 1] += 1
    now.low_level = min(now.low_level, level - 1)
    now.seated -= 1
    now.in_use -= 1


@hot
def leave_levels(setup: Setup, state: State, step: int, ended: int) -> int:
    """So many sessions end within a step, those in evenly spaced places counted from the emptiest instances. Returns them.

    How many end is as chance has it, and each is as likely as any other to be among them; only how they lie to each other is
    more even than by chance.
    """
    now = state.now[0]
    levels = state.levels[0]
    share = ended / now.seated
    place = uniform(setup.fixed[0].seed, STREAM_LEAVE + 2, step)
    left = 0
    for level in range(max(1, now.low_level), now.high_level + 1):
        number = levels[level]
        if number > 0:
            place += number * level * share
            own = int(place) - left
            left += own
            each = own // number if own >= number else 0  # a division costs more than all else here
            more = own - each * number
            levels[level] = 0
            levels[level - each] += number - more
            if more > 0:
                levels[level - each - 1] += more
                each += 1
            now.low_level = min(now.low_level, level - each)
    now.seated -= left
    now.in_use -= left
    return left


@hot
def ends_of(setup: Setup, step: int, held: int) -> int:
    """How many of so many sessions end within a step: binomial, from its mean, variance and skewness where many do (Cornish and
    Fisher, 1938)."""
    fixed = setup.fixed[0]
    share = fixed.session_end
    mean = held * share
    if mean < MANY_ENDS:
        return binomial(fixed.seed, STREAM_LEAVE + 3, step, held, share, math.exp(held * math.log1p(-share)))
    z = bell(fixed.seed, STREAM_LEAVE + 3, step)
    ended = mean + math.sqrt(mean * (1.0 - share)) * z + (1.0 - 2.0 * share) * (z * z - 1.0) / 6.0
    return min(held, max(0, int(ended + 0.5)))


@hot
def leave_seats(setup: Setup, state: State, step: int, time: float) -> int:
    """Sessions that end within a step, which is over at `time`. Returns how many of them with those that serve.

    How many end is drawn for all, and then, where they are few, for each whose it is.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    if now.emptying > 0:
        leave_draining(setup, state, step, time)
    total = now.seated
    if total == 0:
        return 0
    draw_in(state)
    ended = ends_of(setup, step, total)
    if ended > MOST_ONE_BY_ONE:
        return leave_levels(setup, state, step, ended)
    for e in range(ended):
        leave_one(state, int((total - e) * uniform(fixed.seed, STREAM_LEAVE + 2 + 16 * e, step)))
    return ended


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


@hot
def leave_at_once(setup: Setup, state: State, step: int, begun: int) -> None:
    """Of the sessions begun within a step, those that end within it."""
    fixed = setup.fixed[0]
    # Below this chance none ends; it is less than that of none, which takes longer to work out.
    if uniform(fixed.seed, STREAM_LEAVE, step) > 1.0 - begun * fixed.at_once:
        end_at_once(setup, state, step, begun)


@inner
def end_at_once(setup: Setup, state: State, step: int, begun: int) -> None:
    """As many of the sessions begun within a step end within it as is drawn."""
    now = state.now[0]
    fixed = setup.fixed[0]
    ended = binomial(fixed.seed, STREAM_LEAVE, step, begun, fixed.at_once, (1.0 - fixed.at_once) ** begun)
    for e in range(min(ended, now.seated)):
        leave_one(state, int(now.seated * uniform(fixed.seed, STREAM_LEAVE + 4 + 16 * e, step)))


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
def seat_spread(state: State, seats: int, number: int) -> int:
    """Seat new sessions with the emptiest instances; returns how many found a seat."""
    now = state.now[0]
    levels = state.levels[0]
    left, level = number, now.low_level
    while left > 0 and level < seats:
        moved = min(left, levels[level])
        if moved > 0:
            levels[level] -= moved
            levels[level + 1] += moved
            left -= moved
            now.high_level = max(now.high_level, level + 1)
        level += 1
    return number - left


@inner
def seat_packed(state: State, seats: int, number: int) -> int:
    """Seat new sessions with the fullest instances that have room; returns how many found a seat."""
    now = state.now[0]
    levels = state.levels[0]
    left, level = number, seats - 1
    while left > 0 and level >= now.low_level:
        if levels[level] > 0:
            room = seats - level
            filled = min(levels[level], left // room)
            levels[level] -= filled
            levels[seats] += filled
            left -= filled * room
            if left > 0 and levels[level] > 0:
                levels[level] -= 1
                levels[level + left] += 1
                left = 0
            now.high_level = seats
        level -= 1
    return number - left


@hot
def hold_sessions(setup: Setup, state: State, k: int) -> None:
    """Tick k, in so many steps that few sessions are over within one: some end, new ones take seats, or are refused."""
    now = state.now[0]
    fixed = setup.fixed[0]
    steps = fixed.steps
    begun = refused = 0
    if not now.levelled:
        level_seats(state)
    seats = can_do(setup, state)
    capacity = int(setup.kinds[0].capacity)
    for s in range(steps):
        step = k * steps + s
        free = int(seats) - now.seated
        left = leave_seats(setup, state, step, (k + 1) * fixed.tick)
        came = int(setup.arrivals[k]) if steps == 1 else poisson(fixed.seed, STREAM_ARRIVE, step, setup.means[k] / steps)
        lost = int(round(came * now.dead / (now.serving + now.dead))) if now.dead > 0 else 0
        new = came - lost
        if new > free:
            new = find_seats(setup, step, new, free, left)
        if new > 0:
            new = seat_packed(state, capacity, new) if fixed.pack else seat_spread(state, capacity, new)
        now.in_use += new
        now.seated += new
        begun += new
        refused += came - new
        if new > 0:
            leave_at_once(setup, state, step, new)
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
        write_seats(state)
        for z in range(len(state.zones)):
            state.zones[z].sessions = 0
        for r in range(now.ordered):
            one = state.instances[state.order[r]]
            state.zones[one.zone].sessions += one.sessions
    meter.sessions += now.seated
    row.seated = now.seated
    if now.serving > 0:
        now.busy = now.seated / seats
        row.cpu = fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy
    else:
        row.cpu = math.nan
