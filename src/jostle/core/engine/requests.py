"""Requests: visitors at the counters, each served and gone within moments, or tired of waiting.

The line is an average over all that chance may bring, at the load that the group is under; what was counted and burnt in
a tick is drawn.
"""

import math

import numpy as np

from jostle.core.compiled import hot, inner
from jostle.core.draw import STREAM_BURN, Stream, bell, stream_of
from jostle.core.engine.asking import ask, note_answer
from jostle.core.engine.burst import tired
from jostle.core.engine.code import Life
from jostle.core.engine.fifo import entered_before, entry_tick, entry_time
from jostle.core.engine.kind import can_do, draws
from jostle.core.engine.queue import Col, load_place
from jostle.core.engine.setup import Setup
from jostle.core.engine.share import drift, free_part
from jostle.core.engine.side import errors_of, tell_sides
from jostle.core.engine.state import State, noted
from jostle.core.plan.group import Group
from jostle.core.plan.machine import Machine
from jostle.core.plan.work import Requests

# Share of a tick's requests that fail while nothing is amiss; beyond it the group is short
FEW = 0.001


def fill_requests(row: np.record, kind: np.record, group: Group, work: Requests, machine: Machine) -> float:
    """The numbers of requests; a Spare policy counts those that an instance answers (1/s)."""
    row.by_chance, row.unevenness = work.arrivals == "by_chance", work.unevenness
    usual = machine.speed / work.cpu_seconds * (1.0 - work.idle_cpu)
    kind.service_rate = usual / float(kind.cpu)
    kind.capacity = machine.vcpus * kind.service_rate
    by_network = machine.most_each(work.kib_out)
    kind.draw = min(by_network, machine.vcpus * usual)
    if by_network < kind.capacity:
        row.full_cpu = work.idle_cpu + (1.0 - work.idle_cpu) * by_network / kind.capacity
        kind.capacity, kind.service_rate = by_network, by_network / machine.vcpus
    row.base_latency, row.timeout, row.sticky = work.base_latency, work.timeout, group.sticky
    return float(kind.capacity)


@hot
def column(table: np.ndarray, col: int, place: float) -> float:
    """What a load comes to, between the loads of a table of waits, shape (len(Col), LOADS)."""
    low = int(place)
    high = min(low + 1, table.shape[1] - 1)
    return table[col, low] + (place - low) * (table[col, high] - table[col, low])


@hot
def extra_level(setup: Setup, state: State) -> int:
    """Which of the delays of slow dependencies holds."""
    extra = state.now[0].extra_latency
    level = 0
    for n in range(1, len(setup.extras)):
        if abs(setup.extras[n] - extra) < abs(setup.extras[level] - extra):
            level = n
    return level


@hot
def answered(setup: Setup, state: State, served: float, where: int, place: float) -> None:
    """Count so many answers at a load, in row `where` of those by delay and table."""
    low = int(place)
    part = place - low
    high = min(low + 1, state.stay.shape[1] - 1)
    state.stay[where, low] += served * (1.0 - part)
    state.stay[where, high] += served * part
    if setup.fixed[0].meter_latency:
        now = state.now[0]
        now.low_load, now.high_load = min(now.low_load, low), max(now.high_load, high)
        now.low_row, now.high_row = min(now.low_row, where), max(now.high_row, where)
        state.period_stay[where, low] += served * (1.0 - part)
        state.period_stay[where, high] += served * part


@hot
def let_through(table: np.ndarray, loads: np.ndarray, can: float, there: float, guess: int) -> tuple[float, float, float, float]:
    """What an instance that can do so much in a tick does with the requests that are `there`, by its table of waits at each load.

    Returns its place among the loads, its load, the requests that go, and those of them that give up.
    """
    place = load_place(table[Col.LINE], loads, can, there, guess)
    low = int(place)
    load = loads[low]
    if place > low:
        load += (place - low) * (loads[low + 1] - load)
    gone = min(there, can * load)
    lost = max(gone * column(table, Col.LOST, place), gone - can)
    if place >= len(loads) - 1:  # beyond all loads of the table
        lost = max(lost, there - column(table, Col.LINE, place) - can)
        gone = can + lost
    return place, load, gone, lost


@inner
def gather_lines(state: State) -> None:
    """What waits with each kind, from what waits with each instance."""
    for m in range(len(state.crews)):
        state.crews[m].line = 0.0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            state.crews[one.kind].line += one.line


@inner
def meet_by_kind(setup: Setup, state: State, k: int, row: int, first: int, arrived: float) -> tuple[float, float, float, float]:
    """Kinds that can do unlike amounts meet tick k's arrivals: each gets its part of them, and keeps its line.
    What waits with those that left is taken over in the same measure.

    `row` is that of their number in the tables, `first` the first for answers under the delay that holds. Returns those served
    and lost of them, the load and the latency p95 (s)."""
    now = state.now[0]
    fixed = setup.fixed[0]
    if now.own_lines:
        gather_lines(state)
    whole, held = draws(setup, state), 0.0
    for m in range(len(setup.kinds)):
        held += state.crews[m].line
    orphaned = now.line - held
    now.line = 0.0
    served = lost = stay = most = 0.0
    for m in range(len(setup.kinds)):
        kind, crew = setup.kinds[m], state.crews[m]
        if crew.serving == 0:
            continue
        part = kind.draw / whole
        there = crew.line / crew.serving + (arrived + orphaned) * part
        table = setup.line.tables[row + kind.line]
        place, load, gone, own = let_through(table, setup.line.loads, kind.capacity * fixed.tick, max(0.0, there), crew.at_load)
        crew.at_load = int(place)
        crew.line = crew.serving * (max(0.0, there) - gone)
        now.line += crew.line
        done = crew.serving * (gone - own)
        errors = errors_of(setup, m, k, done)
        now.errors += errors
        served += done - errors
        lost += crew.serving * own
        most = max(most, load)
        waits = done * column(table, Col.P95, place)
        stay += waits
        answered(setup, state, done * (1.0 - kind.failing), first + row + kind.line, place)
        if fixed.builds > 1:
            crew.done, crew.stay = done, waits + done * (fixed.base_latency + now.extra_latency)
            crew.errors = errors + crew.serving * own
            crew.done += crew.serving * own
            crew.cpu = crew_cpu(setup, m, done / (crew.serving * kind.capacity * fixed.tick), done, k)
    return served, lost, most, stay / served if served > 0.0 else column(setup.line.tables[row], Col.P95, 0.0)


@inner
def meet_unevenly(setup: Setup, state: State, k: int, row: int, first: int, arrived: float) -> tuple[float, float, float, float]:
    """The same for instances that differ in their shares of the arrivals or in what stress leaves them, each with its line."""
    now = state.now[0]
    fixed = setup.fixed[0]
    served = lost = stay = most = total = 0.0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            if not now.own_lines:
                one.line = now.line / now.serving
                if fixed.mixed:
                    one.line = state.crews[one.kind].line / state.crews[one.kind].serving
            total += one.line
    orphaned = max(0.0, now.line - total) / now.serving
    now.line = 0.0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state != Life.SERVING:
            continue
        can = setup.kinds[one.kind].capacity * fixed.tick * free_part(setup, one.stress, one.tired)
        there = one.line + orphaned + arrived * one.share
        own_row = row + setup.kinds[one.kind].line
        table = setup.line.tables[own_row]
        place, load, gone, own = let_through(table, setup.line.loads, can, there, one.at_load)
        one.at_load = int(place)
        one.line = there - gone
        one.busy = (gone - own) / can
        one.answered = gone - own
        now.line += one.line
        served += gone - own
        lost += own
        most = max(most, load)
        waits = (gone - own) * column(table, Col.P95, place)
        stay += waits
        crew = state.crews[one.kind]
        answered(setup, state, (gone - own) * (1.0 - setup.kinds[one.kind].failing), first + own_row, place)
        crew.done += gone - own
        if fixed.builds > 1:
            crew.stay += waits + (gone - own) * (fixed.base_latency + now.extra_latency)
            crew.errors += own
    for m in range(len(setup.kinds)):
        crew = state.crews[m]
        errors = errors_of(setup, m, k, crew.done)
        now.errors += errors
        served -= errors
        if fixed.builds > 1:
            crew.done += crew.errors
            crew.errors += errors
        else:
            crew.done = 0.0
    return served, lost, most, stay / served if served > 0.0 else column(setup.line.tables[row], Col.P95, 0.0)


@inner
def uneven_cpu(setup: Setup, state: State) -> float:
    """Mean CPU of instances that differ, and the sum of each zone's."""
    now = state.now[0]
    fixed = setup.fixed[0]
    cpu = 0.0
    for z in range(len(state.zones)):
        state.zones[z].cpu = 0.0
    for m in range(len(state.crews)):
        state.crews[m].cpu = 0.0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state == Life.SERVING:
            free = free_part(setup, one.stress, one.tired)
            own = min(1.0, fixed.idle_cpu + one.stress + (fixed.full_cpu - fixed.idle_cpu) * free * one.busy)
            one.cpu = own
            state.crews[one.kind].cpu += own / state.crews[one.kind].serving
            cpu += own
            state.zones[one.zone].cpu += own
    return cpu / now.serving


@inner
def crew_cpu(setup: Setup, m: int, busy: float, done: float, k: int) -> float:
    """The CPU of instances of a kind, of which so much of their capacity is given, with what is burnt by chance."""
    fixed = setup.fixed[0]
    if fixed.by_chance and 0.0 < busy < 1.0:
        burnt = math.sqrt(fixed.unevenness / done) * busy * bell(stream_of(fixed.seed, STREAM_BURN + 1), 64 * k + m)
        busy += min(max(burnt, -min(busy, 1.0 - busy)), min(busy, 1.0 - busy))
    return fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * busy


@inner
def mean_cpu(setup: Setup, state: State) -> float:
    """Mean CPU of the serving instances of all kinds."""
    cpu = 0.0
    for m in range(len(setup.kinds)):
        cpu += state.crews[m].serving * state.crews[m].cpu
    return cpu / state.now[0].serving


@inner
def wait_outside(setup: Setup, state: State, k: int) -> float:
    """Nobody serves: all wait, and those give up whose patience is over. Returns how many do."""
    now = state.now[0]
    fixed = setup.fixed[0]
    young = state.entered[k + 1] - entered_before(state.entered, fixed.tick, (k + 1) * fixed.tick - fixed.timeout)
    lost = max(0.0, now.line - young)
    now.line -= lost
    return lost


@inner
def meet_apart(setup: Setup, state: State, k: int, row: int, first: int, arrived: float) -> tuple[float, float, float, float]:
    """Tick k's arrivals meet instances that are not all alike, or none. Returns what `meet_by_kind` does."""
    now, fixed = state.now[0], setup.fixed[0]
    now.errors = 0.0
    if now.serving == 0:
        now.line += arrived
        return 0.0, wait_outside(setup, state, k), 0.0, math.nan
    uneven = now.uneven or fixed.alike
    if uneven:
        drift(setup, state)
        met = meet_unevenly(setup, state, k, row, first, arrived)
    else:
        met = meet_by_kind(setup, state, k, row, first, arrived)
    now.own_lines = uneven
    return met


@hot
def spread_burnt(setup: Setup, burns: Stream, k: int, busy: float, served: float, can: float) -> float:
    """The part of what the instances can do that they give in tick k, with what is burnt by chance, drawn from the
    stream `burns`."""
    fixed = setup.fixed[0]
    if not (fixed.by_chance and busy < 1.0):
        return busy
    burnt = math.sqrt(served * fixed.unevenness) / can * bell(burns, k)
    return busy + min(max(burnt, -min(busy, 1.0 - busy)), min(busy, 1.0 - busy))


@hot
def serve_requests(setup: Setup, state: State, first: int, goal: int) -> int:
    """The requests of each tick from `first` to before `goal` meet the serving instances, of which none comes or goes meanwhile.
    Broken ones that are still given work fail their share. What changes with each tick is held here, not in the state."""
    now, fixed, meter = state.now[0], setup.fixed[0], state.meters[0]
    serving, tick, asks = now.serving, fixed.tick, len(setup.thinks) > 0
    each, extra = setup.kinds[0].capacity * tick, fixed.base_latency + now.extra_latency
    can = (can_do(setup, state) - tired(setup, state)) * tick
    can_each_second = can / tick
    dead = now.dead / (serving + now.dead) if now.dead > 0 else 0.0
    lowest = extra_level(setup, state) * len(setup.line.tables) if now.extra_latency > 0.0 else 0
    counted = setup.line.row_of[min(serving, len(setup.line.row_of) - 1)]
    table, loads = setup.line.tables[counted], setup.line.loads
    idle_cpu, span, builds, fails = fixed.idle_cpu, fixed.full_cpu - fixed.idle_cpu, fixed.builds, fixed.fails
    apart, burns = serving == 0 or fixed.mixed or fixed.alike, stream_of(fixed.seed, STREAM_BURN)
    entered, line, held, departed, head = state.entered[first], now.line, now.held, now.departed, now.head
    served_ever, failed_ever, at_load = now.served, now.failed, int(now.at_load)
    served_read, failed_read, arrived_read = meter.served, meter.failed, meter.arrived
    for k in range(first, goal):
        mean, drawn = setup.means[k], setup.arrivals[k]
        if asks:
            ask(setup, state, k, mean, can)
            mean += state.sent[k].mean
            drawn += state.sent[k].drawn
        arrived = mean * (1.0 - dead)
        entered += arrived
        state.entered[k + 1] = entered
        row = state.series[noted(state, k)]
        errors = 0.0
        if not (apart or now.uneven):
            there = (line + arrived) / serving
            place, load, gone, own = let_through(table, loads, each, there, at_load)
            at_load = int(place)
            line = serving * (there - gone)
            done = serving * (gone - own)
            answered(setup, state, done, lowest + counted, place)
            if fails:
                errors = errors_of(setup, 0, k, done)
            served, lost = done - errors, serving * own
            row.latency = column(table, Col.P95, place)
            now.own_lines = False
        else:
            now.line = line
            served, lost, load, latency = meet_apart(setup, state, k, counted, lowest, arrived)
            line, errors, row.latency = now.line, now.errors, latency
        row.latency += extra
        # What was drawn beside the mean is answered as soon as there is room, or fails in the same measure.
        beside = drawn - mean
        lost += errors
        failed = lost + dead * drawn
        if beside != 0.0 or held != 0.0:
            alive = beside * (1.0 - dead)
            misses = lost / (served + lost) if lost > 0.0 else 0.0
            held += alive * (1.0 - misses)
            failed += alive * misses
            if failed < 0.0:
                held += failed
                failed = 0.0
            more = min(max(held, -served), can - served - errors)
            served += more
            held -= more
        row.waiting = max(0.0, line + held)
        over = load >= 1.0 or arrived > can
        row.short = over or failed - errors > FEW * drawn
        now.in_use = drawn / tick
        row.in_use = now.in_use
        served_ever += served
        failed_ever += failed
        served_read += served
        failed_read += failed
        arrived_read += drawn
        row.capacity, row.served, row.failed, row.taken, row.seated = can_each_second, served, failed, 0.0, 0.0
        if asks:
            now.line, now.backlog = line, line + held
            note_answer(setup, state, served, lost)
        departed = max(departed, entered - line)
        row.age = 0.0
        if over and line > 0.0:
            head = entry_tick(state.entered, departed, head, k)
            row.age = (k + 1 - entry_time(state.entered, departed, head)) * tick
        row.cpu = math.nan
        if serving > 0:
            now.busy = spread_burnt(setup, burns, k, (served + errors) / can, served, can)
            row.cpu = uneven_cpu(setup, state) if now.uneven else idle_cpu + span * now.busy
            if builds > 1:
                if not now.uneven:
                    row.cpu = mean_cpu(setup, state)
                tell_sides(setup, state)
    now.line, now.held, now.backlog, now.departed, now.head, now.at_load = line, held, line + held, departed, head, at_load
    now.served, now.failed = served_ever, failed_ever
    meter.served, meter.failed, meter.arrived = served_read, failed_read, arrived_read
    return goal
