"""Requests: visitors at the counters, each served and gone within moments, or tired of waiting.

The line is an average over all that chance may bring, at the load that the group is under; what was counted and burnt in
a tick is drawn.
"""

import math

import numpy as np

from jostle.core.compiled import hot, inner
from jostle.core.draw import STREAM_BURN, bell
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
def column(setup: Setup, row: int, col: int, place: float) -> float:
    """What a load comes to, between the loads of the table."""
    table = setup.line.tables[row, col]
    low = int(place)
    high = min(low + 1, len(table) - 1)
    return table[low] + (place - low) * (table[high] - table[low])


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
def answered(setup: Setup, state: State, served: float, row: int, level: int, place: float) -> None:
    """Count so many answers at a load."""
    low = int(place)
    part = place - low
    high = min(low + 1, state.stay.shape[1] - 1)
    where = level * setup.line.tables.shape[0] + row
    state.stay[where, low] += served * (1.0 - part)
    state.stay[where, high] += served * part
    if setup.fixed[0].meter_latency:
        now = state.now[0]
        now.low_load, now.high_load = min(now.low_load, low), max(now.high_load, high)
        now.low_row, now.high_row = min(now.low_row, where), max(now.high_row, where)
        state.period_stay[where, low] += served * (1.0 - part)
        state.period_stay[where, high] += served * part


@hot
def let_through(setup: Setup, row: int, can: float, there: float, guess: int) -> tuple[float, float, float, float]:
    """What an instance that can do so much in a tick does with the requests that are `there`.

    Returns its place among the loads, its load, the requests that go, and those of them that give up.
    """
    line = setup.line
    place = load_place(line.tables[row, Col.LINE], line.loads, can, there, guess)
    low = int(place)
    load = line.loads[low]
    if place > low:
        load += (place - low) * (line.loads[low + 1] - load)
    gone = min(there, can * load)
    lost = max(gone * column(setup, row, Col.LOST, place), gone - can)
    if place >= len(line.loads) - 1:  # beyond all loads of the table
        lost = max(lost, there - column(setup, row, Col.LINE, place) - can)
        gone = can + lost
    return place, load, gone, lost


@inner
def meet(setup: Setup, state: State, row: int, level: int, arrived: float) -> tuple[float, float, float]:
    """The instances, all alike, meet a tick's arrivals. Returns those served and lost of them, and their load."""
    now = state.now[0]
    there = (now.line + arrived) / now.serving
    place, load, gone, lost = let_through(setup, row, setup.kinds[0].capacity * setup.fixed[0].tick, there, now.at_load)
    now.at_load = int(place)
    now.line = now.serving * (there - gone)
    done = now.serving * (gone - lost)
    answered(setup, state, done, row, level, place)
    if setup.fixed[0].fails:
        now.errors = errors_of(setup, 0, now.tick, done)
    state.series[noted(state, now.tick)].latency = column(setup, row, Col.P95, place)
    return done - now.errors, now.serving * lost, load


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
def meet_by_kind(setup: Setup, state: State, row: int, level: int, arrived: float) -> tuple[float, float, float]:
    """The same for kinds that can do unlike amounts: each gets its part of the arrivals, and keeps its line.
    What waits with those that left is taken over in the same measure."""
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
        place, load, gone, own = let_through(setup, row + kind.line, kind.capacity * fixed.tick, max(0.0, there), crew.at_load)
        crew.at_load = int(place)
        crew.line = crew.serving * (max(0.0, there) - gone)
        now.line += crew.line
        done = crew.serving * (gone - own)
        errors = errors_of(setup, m, now.tick, done)
        now.errors += errors
        served += done - errors
        lost += crew.serving * own
        most = max(most, load)
        waits = done * column(setup, row + kind.line, Col.P95, place)
        stay += waits
        answered(setup, state, done * (1.0 - kind.failing), row + kind.line, level, place)
        if fixed.builds > 1:
            crew.done, crew.stay = done, waits + done * (fixed.base_latency + now.extra_latency)
            crew.errors = errors + crew.serving * own
            crew.done += crew.serving * own
            crew.cpu = crew_cpu(setup, m, done / (crew.serving * kind.capacity * fixed.tick), done, now.tick)
    state.series[noted(state, now.tick)].latency = stay / served if served > 0.0 else column(setup, row, Col.P95, 0.0)
    return served, lost, most


@inner
def meet_unevenly(setup: Setup, state: State, row: int, level: int, arrived: float) -> tuple[float, float, float]:
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
        place, load, gone, own = let_through(setup, own_row, can, there, one.at_load)
        one.at_load = int(place)
        one.line = there - gone
        one.busy = (gone - own) / can
        one.answered = gone - own
        now.line += one.line
        served += gone - own
        lost += own
        most = max(most, load)
        waits = (gone - own) * column(setup, own_row, Col.P95, place)
        stay += waits
        crew = state.crews[one.kind]
        answered(setup, state, (gone - own) * (1.0 - setup.kinds[one.kind].failing), own_row, level, place)
        crew.done += gone - own
        if fixed.builds > 1:
            crew.stay += waits + (gone - own) * (fixed.base_latency + now.extra_latency)
            crew.errors += own
    for m in range(len(setup.kinds)):
        crew = state.crews[m]
        errors = errors_of(setup, m, now.tick, crew.done)
        now.errors += errors
        served -= errors
        if fixed.builds > 1:
            crew.done += crew.errors
            crew.errors += errors
        else:
            crew.done = 0.0
    state.series[noted(state, now.tick)].latency = stay / served if served > 0.0 else column(setup, row, Col.P95, 0.0)
    return served, lost, most


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
        burnt = math.sqrt(fixed.unevenness / done) * busy * bell(fixed.seed, STREAM_BURN + 1, 64 * k + m)
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
    state.series[noted(state, k)].latency = math.nan
    return lost


@hot
def serve_requests(setup: Setup, state: State, k: int) -> None:
    """Tick k's requests meet the serving instances. Broken ones that are still given work fail their share."""
    now = state.now[0]
    fixed = setup.fixed[0]
    mean, drawn = setup.means[k], setup.arrivals[k]
    can = (can_do(setup, state) - tired(setup, state)) * fixed.tick
    if len(setup.thinks) > 0:
        ask(setup, state, k, mean, can)
        mean += state.sent[k].mean
        drawn += state.sent[k].drawn
    dead = now.dead / (now.serving + now.dead) if now.dead > 0 else 0.0
    arrived = mean * (1.0 - dead)
    state.entered[k + 1] = state.entered[k] + arrived
    row = state.series[noted(state, k)]
    now.errors = 0.0
    if now.serving == 0:
        now.line += arrived
        served, lost, load = 0.0, wait_outside(setup, state, k), 0.0
    else:
        level = extra_level(setup, state) if now.extra_latency > 0.0 else 0
        counted = setup.line.row_of[min(now.serving, len(setup.line.row_of) - 1)]
        if now.uneven or fixed.alike:
            drift(setup, state)
            served, lost, load = meet_unevenly(setup, state, counted, level, arrived)
            now.own_lines = True
        elif fixed.mixed:
            served, lost, load = meet_by_kind(setup, state, counted, level, arrived)
            now.own_lines = False
        else:
            served, lost, load = meet(setup, state, counted, level, arrived)
            now.own_lines = False
        row.latency += fixed.base_latency + now.extra_latency
    # What was drawn beside the mean is answered as soon as there is room, or fails in the same measure.
    beside = drawn - mean
    lost += now.errors
    failed = lost + dead * drawn
    if beside != 0.0 or now.held != 0.0:
        alive = beside * (1.0 - dead)
        misses = lost / (served + lost) if lost > 0.0 else 0.0
        now.held += alive * (1.0 - misses)
        failed += alive * misses
        if failed < 0.0:
            now.held += failed
            failed = 0.0
        more = min(max(now.held, -served), can - served - now.errors)
        served += more
        now.held -= more
    now.backlog = now.line + now.held
    row.waiting = max(0.0, now.backlog)
    over = load >= 1.0 or arrived > can
    row.short = over or failed - now.errors > FEW * drawn
    now.in_use = drawn / fixed.tick
    now.served += served
    now.failed += failed
    meter = state.meters[0]
    meter.served += served
    meter.failed += failed
    meter.arrived += drawn
    row.capacity, row.served, row.failed = can / fixed.tick, served, failed
    if len(setup.thinks) > 0:
        note_answer(setup, state, served, lost)
    now.departed = max(now.departed, state.entered[k + 1] - now.line)
    now.head = entry_tick(state.entered, now.departed, now.head, k)
    row.age = 0.0
    if over and now.line > 0.0:
        row.age = (k + 1 - entry_time(state.entered, now.departed, now.head)) * fixed.tick
    if now.serving == 0:
        row.cpu = math.nan
        return
    busy = (served + now.errors) / can
    if fixed.by_chance and busy < 1.0:
        burnt = math.sqrt(served * fixed.unevenness) / can * bell(fixed.seed, STREAM_BURN, k)
        busy += min(max(burnt, -min(busy, 1.0 - busy)), min(busy, 1.0 - busy))
    now.busy = busy
    row.cpu = uneven_cpu(setup, state) if now.uneven else fixed.idle_cpu + (fixed.full_cpu - fixed.idle_cpu) * busy
    if fixed.builds > 1:
        if not now.uneven:
            row.cpu = mean_cpu(setup, state)
        tell_sides(setup, state)
