"""Meters: dials read at intervals, whose readings reach the policies late."""

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import DIALS, Dial
from jostle.core.engine.code import Life
from jostle.core.engine.kind import can_do, weight_of
from jostle.core.engine.queue import beyond_at
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State, noted
from jostle.core.engine.work import flow, in_use, read_asked, read_own, under_way, zone_cpu


@hot
def run_meters(setup: Setup, state: State, first: int, goal: int) -> None:
    """Add the ticks from `first` to before `goal`, in which the same served, to the running meter period."""
    now, meter = state.now[0], state.meters[0]
    serving = now.serving
    if serving == 0:
        return
    cpu, ever = meter.cpu, now.cpu_ticks
    for k in range(first, goal):
        own = state.series[noted(state, k)].cpu * serving
        cpu += own
        ever += own
    meter.cpu, now.cpu_ticks = cpu, ever
    meter.serving += serving * (goal - first)
    meter.units += now.units * (goal - first)
    now.served_ticks += serving * (goal - first)
    if setup.fixed[0].meter_zones:
        run_zone_meters(setup, state, first)


@inner
def run_zone_meters(setup: Setup, state: State, k: int) -> None:
    """Add tick k to the running meter period of each zone."""
    now, row = state.now[0], state.series[noted(state, k)]
    for z in range(len(state.zones)):
        zone = state.zones[z]
        meter = state.meters[1 + z]
        meter.cpu += zone_cpu(setup, state, z, row.cpu)
        meter.serving += zone.serving
        meter.sessions += zone.sessions
        meter.served += row.served * zone.serving / now.serving
        meter.units += zone.serving
    if setup.fixed[0].weighed:
        weigh_zones(setup, state)


@hot
def weigh_zones(setup: Setup, state: State) -> None:
    """Add what the serving instances of each zone are beyond one each, in what the group counts in."""
    for a in range(state.now[0].living):
        i = state.alive[a]
        if state.instances[i].state == Life.SERVING:
            state.meters[1 + state.instances[i].zone].units += weight_of(setup, state, i) - 1


@hot
def read_meter(setup: Setup, state: State, z: int, k: int) -> None:
    """Reading k of the metrics of the group (z 0) or of a zone, over the instances that served in the period."""
    fixed = setup.fixed[0]
    meter = state.meters[z]
    if meter.serving <= 0.0:
        return
    row = state.sight.samples[z]
    period = fixed.period_ticks * fixed.tick
    serving = meter.serving / fixed.period_ticks
    each = meter.served / (serving * period)
    sessions = meter.sessions / meter.serving
    row[Dial.CPU, k] = meter.cpu / meter.serving
    row[Dial.REQUESTS_PER_INSTANCE, k] = each * (meter.serving / meter.units)
    row[Dial.SESSIONS_PER_INSTANCE, k] = sessions * (meter.serving / meter.units)
    row[Dial.MEMORY, k] = memory(setup, state, each, sessions)
    moved = flow(setup, each, sessions)
    row[Dial.NETWORK_IN, k] = fixed.in_each * moved
    row[Dial.NETWORK_OUT, k] = fixed.out_each * moved
    row[Dial.DISK, k] = fixed.disk_each * moved


@hot
def memory(setup: Setup, state: State, each: float, sessions: float) -> float:
    """The share of its memory that an instance uses where it finishes `each` (1/s) or holds so many sessions; on average over
    the kinds that serve, of which each does its part."""
    if len(setup.kinds) <= 2 or state.now[0].serving == 0:
        kind = setup.kinds[0]
        return min(1.0, kind.idle_memory + kind.memory_each * under_way(setup, 0, each, sessions))
    mean = can_do(setup, state) / state.now[0].serving
    total = 0.0
    for m in range(len(setup.kinds)):
        kind = setup.kinds[m]
        if state.crews[m].serving == 0:
            continue
        own = under_way(setup, m, each * kind.capacity / mean, sessions)
        total += state.crews[m].serving * min(1.0, kind.idle_memory + kind.memory_each * own)
    return total / state.now[0].serving


@hot
def later_than(setup: Setup, state: State, t: int) -> float:
    """Answers of the running period that took longer than the time number t of the line, or longer than it to the next."""
    now = state.now[0]
    rows = setup.line.tables.shape[0]
    times = setup.line.times
    later = 0.0
    for where in range(now.low_row, now.high_row + 1):
        extra = setup.extras[where // rows]
        for i in range(now.low_load, now.high_load + 1):
            weight = state.period_stay[where, i]
            if weight > 0.0:
                tail = setup.line.tails[where % rows, i]
                later += weight * (tail[t] if extra == 0.0 else beyond_at(tail, times, times[t] - extra, 1.0))
    return later


@inner
def read_latency(setup: Setup, state: State) -> float:
    """95th percentile of the requests answered in the period (s), over the loads and delays that it met. It is looked for from
    where that of the last period lay, ever farther from there, and then by halving."""
    now = state.now[0]
    times = setup.line.times
    met = state.period_stay[now.low_row : now.high_row + 1, now.low_load : now.high_load + 1]
    answers = 0.0
    for row in range(met.shape[0]):
        for i in range(met.shape[1]):
            answers += met[row, i]
    allowed = 0.05 * answers
    low, high = 0, len(times) - 1
    before, after = answers, 0.0
    at, reach = min(max(1, now.late_at), high - 1), 1
    while high - low > 1:
        later = later_than(setup, state, at)
        if later > allowed:
            low, before, at = at, later, at + reach
        else:
            high, after, at = at, later, at - reach
        reach *= 2
        if not low < at < high:
            at = (low + high) // 2
    now.late_at = low
    met[:] = 0.0
    now.low_load, now.high_load = len(setup.line.loads), 0
    now.low_row, now.high_row = state.stay.shape[0], 0
    part = (before - allowed) / (before - after) if before > after else 0.0
    return setup.fixed[0].base_latency + times[low] + part * (times[high] - times[low])


@hot
def take_sample(setup: Setup, state: State, k: int) -> None:
    """Close the meter period that ends with tick k: one reading of each metric.

    Metrics that come from instances have no reading (nan) where none served.
    """
    now = state.now[0]
    fixed = setup.fixed[0]
    s = now.samples
    row = state.sight.samples[0]
    meter = state.meters[0]
    serving, units = meter.serving / fixed.period_ticks, meter.units / fixed.period_ticks
    state.sight.metered[s] = units
    asked = meter.served + meter.failed
    row[Dial.BACKLOG, s] = state.series[noted(state, k)].waiting
    row[Dial.AGE, s] = state.series[noted(state, k)].age
    row[Dial.FAILED_SHARE, s] = meter.failed / asked if asked > 0.0 else 0.0
    row[Dial.IN_USE, s] = in_use(setup, state)
    row[Dial.ARRIVALS, s] = meter.arrived / (fixed.period_ticks * fixed.tick)
    read_asked(setup, state, s, k)
    for z in range(state.sight.samples.shape[0]):
        read_meter(setup, state, z, s)
    if serving > 0.0:
        row[Dial.BACKLOG_PER_INSTANCE, s] = state.series[noted(state, k)].waiting / units
        read_own(setup, state, s, k, serving)
        if fixed.meter_latency and meter.served > 0.0:
            row[Dial.LATENCY_P95, s] = read_latency(setup, state)
    for o in range(setup.outside.shape[0]):
        row[DIALS + o, s] = setup.outside[o, s]
    for z in range(len(state.meters)):
        meter = state.meters[z]
        meter.cpu = meter.serving = meter.units = meter.served = meter.failed = meter.sessions = meter.arrived = 0.0
    now.samples += 1
