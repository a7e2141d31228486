"""Sessions: guests who take a seat and stay a while."""

import math

import numpy as np

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause, Dial
from jostle.core.draw import STREAM_ARRIVE, STREAM_ERROR, STREAM_LEAVE, Stream, bell, binomial, poisson, stream_of, uniform
from jostle.core.engine.burst import read_cpu
from jostle.core.engine.code import EventKind
from jostle.core.engine.kind import can_do
from jostle.core.engine.note import note
from jostle.core.engine.seats import draw_in, leave_levels, leave_one, level_seats, seat_packed, seat_spread, write_seats
from jostle.core.engine.setup import Setup
from jostle.core.engine.side import tell_sides
from jostle.core.engine.state import State, noted
from jostle.core.plan.machine import Machine
from jostle.core.plan.notice import Notice
from jostle.core.plan.work import Sessions

# Ends of a step up to which it is drawn whose each is; and ends on average from which how many there are is drawn from a bell
MOST_ONE_BY_ONE, MANY_ENDS = 4, 5.0
# Part of a session that a step lasts, at most: the refused of Erlang B then come out within a few per cent
END_SHARE = 1 / 16


def fill_sessions(row: np.record, kind: np.record, work: Sessions, machine: Machine, notice: Notice | None) -> float:
    """The numbers of sessions; a Spare policy counts their seats, of which there are no more than the network carries."""
    kind.capacity = kind.draw = seats = min(work.seats, max(1, int(min(machine.most_each(work.kib_out), work.seats))))
    row.full_cpu = work.full_cpu
    if seats < work.seats:
        row.full_cpu = work.idle_cpu + (work.full_cpu - work.idle_cpu) * seats / work.seats
    row.pack = work.place == "pack"
    row.by_chance = True
    row.steps = math.ceil(row.tick / work.length / END_SHARE)
    step = row.tick / row.steps / work.length
    if notice is not None:
        row.notice_times, row.notice_every, row.heed, row.come_back = notice.times, notice.every, notice.heed, notice.come_back
        row.moves = 1.0 - math.exp(-row.tick / row.steps / notice.within)
    row.session_end = 1.0 - math.exp(-step)
    row.log_stay = math.log1p(-row.session_end)
    row.at_once = 1.0 - row.session_end / step
    return float(seats)


@hot
def read_seats(setup: Setup, state: State, s: int, serving: float) -> None:
    """Reading s of the seats that were free, with so many serving over the period."""
    seats = serving * setup.kinds[0].capacity
    free = seats - state.meters[0].sessions / setup.fixed[0].period_ticks
    row = state.sight.samples[0]
    row[Dial.FREE_SEATS, s] = free
    row[Dial.FREE_SEATS_SHARE, s] = free / seats


@hot
def may_end(stream: Stream, step: int, mean: float) -> bool:
    """Whether any of some that end independently may be drawn to end, so many on average. Surely none is below this chance, which
    is less than that of none, and takes less to work out (Bernoulli's inequality)."""
    return uniform(stream, step) > 1.0 - mean


@hot
def leave_draining(setup: Setup, state: State, step: int, time: float) -> None:
    """Sessions of those that take no more end; the last of an instance ends by `time`."""
    now = state.now[0]
    fixed = setup.fixed[0]
    d = 0
    while d < now.emptying:
        i = state.draining[d]
        one = state.instances[i]
        stream = stream_of(fixed.seed, STREAM_LEAVE + 4096 * (1 + i))
        if may_end(stream, step, one.sessions * fixed.session_end):
            none = (1.0 - fixed.session_end) ** one.sessions
            ended = binomial(stream, step, one.sessions, fixed.session_end, none)
            one.sessions -= ended
            now.in_use -= ended
        if fixed.notice_times > 0:
            heed_notice(setup, state, i, step, time)
        if one.sessions == 0:
            now.next_due = min(now.next_due, time)
            now.emptying -= 1
            state.draining[d] = state.draining[now.emptying]
        else:
            d += 1


@hot
def drawn_of(setup: Setup, stream: int, step: int, number: int, share: float) -> int:
    """How many of so many it is, each with a chance; all of them where it is certain."""
    if share >= 1.0 or number == 0:
        return number
    small = min(share, 1.0 - share)
    drawn = binomial(stream_of(setup.fixed[0].seed, stream), step, number, small, (1.0 - small) ** number)
    return number - drawn if share > small else drawn


@inner
def heed_notice(setup: Setup, state: State, i: int, step: int, time: float) -> None:
    """Those on the draining instance i are told that it leaves, and some of those who heed it go."""
    now = state.now[0]
    fixed = setup.fixed[0]
    one = state.instances[i]
    stream = STREAM_LEAVE + 4096 * (1 + i)
    one.heeding = min(one.heeding, one.sessions)
    if one.told < fixed.notice_times and time >= one.drains + one.told * fixed.notice_every:
        one.told += 1
        others = one.sessions - one.heeding
        one.heeding += drawn_of(setup, stream + 1024, step, others, fixed.heed)
    if one.heeding == 0:
        return
    gone = drawn_of(setup, stream + 2048, step, one.heeding, fixed.moves)
    one.heeding -= gone
    one.sessions -= gone
    now.in_use -= gone
    now.moved += gone
    now.coming_back += drawn_of(setup, stream + 3072, step, gone, fixed.come_back)


@hot
def ends_of(setup: Setup, ends: Stream, step: int, held: int) -> int:
    """How many of so many sessions end within a step, drawn from the stream `ends`: binomial, from its mean, variance and
    skewness where many do (Cornish and Fisher, 1938)."""
    fixed = setup.fixed[0]
    share = fixed.session_end
    mean = held * share
    if mean < MANY_ENDS:
        return binomial(ends, step, held, share, math.exp(held * fixed.log_stay))
    z = bell(ends, step)
    ended = mean + math.sqrt(mean * (1.0 - share)) * z + (1.0 - 2.0 * share) * (z * z - 1.0) * (1.0 / 6.0)
    return min(held, max(0, int(ended + 0.5)))


@hot
def leave_seats(setup: Setup, state: State, step: int, time: float, ends: Stream, places: Stream) -> int:
    """Sessions that end within a step, which is over at `time`. Returns how many of them with those that serve.

    How many end is drawn for all, from the stream `ends`, and then, where they are few, for each whose it is; else, from the
    stream `places`, where the first of them lies.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    if now.emptying > 0:
        leave_draining(setup, state, step, time)
    total = now.seated
    if total == 0:
        return 0
    draw_in(state)
    ended = ends_of(setup, ends, step, total)
    if ended > MOST_ONE_BY_ONE:
        return leave_levels(state, ended, uniform(places, step))
    for e in range(ended):
        leave_one(state, int((total - e) * uniform(stream_of(fixed.seed, STREAM_LEAVE + 2 + 16 * e), step)))
    return ended


@inner
def find_seats(setup: Setup, step: int, came: int, free: int, left: int) -> int:
    """How many of those that come find a seat where so many are free and so many more become so, all in an order by chance."""
    seed = setup.fixed[0].seed
    found = 0
    for event in range(came + left):
        if (came + left) * uniform(stream_of(seed, STREAM_LEAVE + 1 + 16 * event), step) < left:
            free += 1
            left -= 1
        else:
            came -= 1
            if free > 0:
                free -= 1
                found += 1
    return found


@hot
def leave_at_once(setup: Setup, state: State, step: int, begun: int, at_once: Stream) -> None:
    """Of the sessions begun within a step, those that end within it, by the stream `at_once`."""
    if may_end(at_once, step, begun * setup.fixed[0].at_once):
        end_at_once(setup, state, step, begun)


@inner
def end_at_once(setup: Setup, state: State, step: int, begun: int) -> None:
    """As many of the sessions begun within a step end within it as is drawn."""
    now = state.now[0]
    fixed = setup.fixed[0]
    ended = binomial(stream_of(fixed.seed, STREAM_LEAVE), step, begun, fixed.at_once, (1.0 - fixed.at_once) ** begun)
    for e in range(min(ended, now.seated)):
        leave_one(state, int(now.seated * uniform(stream_of(fixed.seed, STREAM_LEAVE + 4 + 16 * e), step)))


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


@inner
def fail_sessions(setup: Setup, state: State, step: int, came: int) -> int:
    """Of so many sessions that come those that break off at once, for the version of their instance. Returns how many."""
    failed, serving = 0, state.now[0].serving
    for m in range(len(setup.kinds)):
        crew, kind = state.crews[m], setup.kinds[m]
        if crew.serving > 0 and kind.failing > 0.0:
            own = drawn_of(setup, STREAM_ERROR + m % 16, step, came - failed, kind.failing * crew.serving / serving)
            crew.done += own
            crew.errors += own
            failed += own
    return failed


@inner
def seated_cpu(setup: Setup, state: State) -> float:
    """Mean CPU of the serving instances, of which each version takes its own for a session."""
    fixed, now = setup.fixed[0], state.now[0]
    total = 0.0
    for m in range(len(setup.kinds)):
        crew = state.crews[m]
        crew.cpu = min(1.0, fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * now.busy * setup.kinds[m].cpu)
        total += crew.serving * crew.cpu
    return total / now.serving


@hot
def hold_sessions(setup: Setup, state: State, first: int, goal: int) -> int:
    """The sessions of each tick from `first` to before `goal`, or until the last of an instance that drains has ended: in so many
    steps that few are over within one some end, new ones take seats, or are refused. Returns the tick that is next. What changes
    with each tick beside who sits where is held here, not in the state."""
    now, fixed, meter = state.now[0], setup.fixed[0], state.meters[0]
    if not now.levelled:
        level_seats(state)
    steps, tick, serving = fixed.steps, fixed.tick, now.serving
    seats, capacity = can_do(setup, state), int(setup.kinds[0].capacity)
    idle_cpu, span, builds, entered = fixed.idle_cpu, fixed.full_cpu - fixed.idle_cpu, fixed.builds, state.entered[first]
    apart = builds > 1 or setup.kinds[0].cpu != 1.0
    served_ever, failed_ever, departed = now.served, now.failed, now.departed
    served_read, failed_read, arrived_read, held_read = meter.served, meter.failed, meter.arrived, meter.sessions
    comes, at_once = stream_of(fixed.seed, STREAM_ARRIVE), stream_of(fixed.seed, STREAM_LEAVE)
    ends, places = stream_of(fixed.seed, STREAM_LEAVE + 3), stream_of(fixed.seed, STREAM_LEAVE + 2)
    k = first
    while k < goal:
        begun = refused = 0
        for s in range(steps):
            step = k * steps + s
            free = int(seats) - now.seated
            left = leave_seats(setup, state, step, (k + 1) * tick, ends, places)
            came = int(setup.arrivals[k]) if steps == 1 else poisson(comes, step, setup.means[k] / steps)
            if now.coming_back > 0:
                came += now.coming_back
                now.came_back += now.coming_back
                now.coming_back = 0
            lost = int(round(came * now.dead / (serving + now.dead))) if now.dead > 0 else 0
            if fixed.fails:
                lost += fail_sessions(setup, state, step, came - lost)
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
                leave_at_once(setup, state, step, new, at_once)
        arrived, seated = begun + refused, now.seated
        entered += arrived
        state.entered[k + 1] = entered
        served_ever += begun
        failed_ever += refused
        departed += arrived
        served_read += begun
        failed_read += refused
        arrived_read += arrived
        held_read += seated
        row = state.series[noted(state, k)]
        row.capacity, row.served, row.failed, row.waiting = seats, begun, refused, 0.0
        row.age, row.taken, row.in_use, row.seated = 0.0, 0.0, now.in_use, seated
        row.short = refused > 0
        row.latency = row.cpu = math.nan
        if fixed.meter_zones:
            seat_zones(state)
        if serving > 0:
            now.busy = seated / seats
            cpu = seated_cpu(setup, state) if apart else idle_cpu + span * now.busy
            row.cpu = read_cpu(setup, state, cpu)
        if builds > 1:
            for m in range(len(setup.kinds)):
                if serving > 0:
                    state.crews[m].done += begun * state.crews[m].serving / serving
            tell_sides(setup, state)
        k += 1
        if k * tick >= now.next_due:
            break
    now.served, now.failed, now.departed = served_ever, failed_ever, departed
    meter.served, meter.failed, meter.arrived, meter.sessions = served_read, failed_read, arrived_read, held_read
    return k


@inner
def seat_zones(state: State) -> None:
    """Write down how many sessions the serving instances of each zone hold."""
    write_seats(state)
    for z in range(len(state.zones)):
        state.zones[z].sessions = 0
    for r in range(state.now[0].ordered):
        one = state.instances[state.order[r]]
        state.zones[one.zone].sessions += one.sessions
