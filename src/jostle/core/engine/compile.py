"""A validated plan becomes plain arrays and scalars. All strings, dates and units end here."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.calendar.orders import orders
from jostle.core.compiled import maker
from jostle.core.demand.clock import Clock
from jostle.core.demand.series import on_clock
from jostle.core.draw import STREAM_ARRIVE, poisson
from jostle.core.engine import code
from jostle.core.engine.queue import LOADS, wait_tables
from jostle.core.engine.setup import FIXED, HAND, INCIDENT, ORDER, POLICY, SETTING, Setup
from jostle.core.engine.state import UNLIMITED, rows
from jostle.core.plan.demand import Breaking, Incident, NoCapacity, SlowBoots, SlowDependency, ZoneLost
from jostle.core.plan.group import Group
from jostle.core.plan.hand import Hand, HandKill, HandPin, HandSet, HandStress
from jostle.core.plan.machine_type import MachineType, Prices
from jostle.core.plan.metric import Metric
from jostle.core.plan.outside import Samples
from jostle.core.plan.policy import MOST_BANDS, HoldPolicy, Policy, SparePolicy, TriggerPolicy
from jostle.core.plan.promise import AgePromise
from jostle.core.plan.template import Launch
from jostle.core.plan.work import Jobs, Requests, Sessions

METRIC_CODES = {
    Metric.CPU: code.CPU,
    Metric.MEMORY: code.MEMORY,
    Metric.REQUESTS_PER_INSTANCE: code.REQUESTS_PER_INSTANCE,
    Metric.LATENCY_P95: code.LATENCY_P95,
    Metric.FAILED_SHARE: code.FAILED_SHARE,
    Metric.BACKLOG: code.BACKLOG,
    Metric.BACKLOG_PER_INSTANCE: code.BACKLOG_PER_INSTANCE,
    Metric.AGE: code.AGE,
    Metric.SESSIONS_PER_INSTANCE: code.SESSIONS_PER_INSTANCE,
    Metric.FREE_SEATS: code.FREE_SEATS,
    Metric.FREE_SEATS_SHARE: code.FREE_SEATS_SHARE,
    Metric.NETWORK_IN: code.NETWORK_IN,
    Metric.NETWORK_OUT: code.NETWORK_OUT,
}
_FOLDS = {
    "average": code.AVERAGE,
    "minimum": code.MINIMUM,
    "maximum": code.MAXIMUM,
    "latest": code.LATEST,
    "sum": code.SUM,
    "count": code.COUNT,
    "p90": code.P90,
}
_ACTIONS = {"add": code.ADD, "remove": code.REMOVE, "set": code.SET}
_WORKS = {"requests": code.REQUESTS, "jobs": code.JOBS, "sessions": code.SESSIONS}
_MODES = {"both_ways": code.BOTH_WAYS, "out_only": code.OUT_ONLY, "held": code.HELD}
_SEEN = {"machine": code.FAULT_STOPPED, "heartbeat": code.FAULT_FROZEN, "load_balancer": code.FAULT_HUNG}
_FAULTS = {"stopped": code.FAULT_STOPPED, "frozen": code.FAULT_FROZEN, "hung": code.FAULT_HUNG}
_CRITERIA = {
    "oldest_version": code.OLDEST_VERSION,
    "oldest": code.OLDEST,
    "newest": code.NEWEST,
    "nearest_paid_hour": code.NEAREST_PAID_HOUR,
    "fewest_sessions": code.FEWEST_SESSIONS,
}
STOP_TIME = 30.0
MONTH_HOURS = 730
MEBI_MB = 1024 * 1024 / 1e6
KIBI_MB = 1024 / 1e6


@dataclass(frozen=True)
class Crew:
    """A group with what it runs on: the part of a plan that one rehearsal needs besides its demand."""

    group: Group
    launch: Launch
    machine_type: MachineType
    prices: Prices
    incidents: tuple[Incident, ...] = ()
    outside: tuple[tuple[str, Samples], ...] = ()


def compile_setup(
    crew: Crew, clock: Clock, rate: NDArray[np.float64], seed: int = 1, quota: NDArray[np.int32] | None = None
) -> Setup:
    """The setup of one rehearsal.

    `rate` is the demand of each tick in 1/s, shape (clock.ticks,); `quota` the instances that the type's quota leaves to
    the group at each evaluation, all it wants if left out.
    """
    group = crew.group
    evaluate_ticks = round(group.evaluate_every / clock.tick)
    evaluations = clock.ticks // evaluate_ticks
    fixed = rows(1, FIXED)
    row = fixed[0]
    row.tick, row.ticks, row.seed = clock.tick, clock.ticks, seed
    row.evaluate_ticks, row.period_ticks = evaluate_ticks, round(group.meters.period / clock.tick)
    row.meter_delay = group.meters.delay
    row.meter_latency = any(
        policy.metric == Metric.LATENCY_P95 for policy in group.policies if not isinstance(policy, SparePolicy)
    )
    row.meter_zones = any(getattr(policy, "zone", None) for policy in group.policies)
    _work(row, crew)
    _life(row, crew)
    _orders(row, crew)
    _money(row, crew)
    arrivals = np.ascontiguousarray(rate * clock.tick, dtype=np.float64)
    if row.work == code.SESSIONS:
        arrivals = _drawn(arrivals, seed)
    seats = int(row.capacity) if row.work == code.SESSIONS else 0
    waits = np.zeros((3, LOADS))
    if row.work == code.REQUESTS:
        waits = wait_tables(int(row.vcpus), float(row.capacity), float(row.service_rate))
    times = np.asarray(clock.tick * evaluate_ticks * (1.0 + np.arange(evaluations)), dtype=np.float64)
    calendar, settings = _calendar(crew, clock, times)
    policies, bands = _policies(crew)
    return Setup(
        fixed=fixed,
        arrivals=arrivals,
        waits=waits,
        stays=(1.0 - row.session_end) ** np.arange(seats + 1.0),
        policies=policies,
        bands=bands,
        criteria=np.array([_CRITERIA[c] for c in group.leaving.criteria if c in _CRITERIA], np.int8),
        calendar=calendar,
        settings=settings,
        quota=np.full(evaluations, UNLIMITED, np.int32) if quota is None else quota,
        incidents=_incidents(crew, clock),
        hands=_hands(group.hands, clock),
        outside=_outside(crew, clock),
    )


@maker
def _drawn(means: np.ndarray, seed: int) -> np.ndarray:
    """Poisson counts of these means, one draw for each tick."""
    counts = np.empty(len(means))
    for k in range(len(means)):
        counts[k] = poisson(seed, STREAM_ARRIVE, k, means[k])
    return counts


def _work(row: np.record, crew: Crew) -> None:
    work, machine = crew.group.work, crew.machine_type
    memory = machine.memory_gib * 1024
    row.work, row.vcpus = _WORKS[work.kind], machine.vcpus
    row.idle_cpu, row.full_cpu = work.idle_cpu, 1.0
    row.idle_memory, row.memory_each = work.idle_memory_mib / memory, work.memory_mib_each / memory
    row.in_each, row.out_each = work.kib_in * KIBI_MB, work.kib_out * KIBI_MB
    row.service_rate = machine.speed
    match work:
        case Requests():
            row.service_rate = machine.speed / work.cpu_seconds
            row.capacity = row.unit = machine.vcpus * row.service_rate * (1.0 - work.idle_cpu)
            row.base_latency, row.timeout, row.sticky = work.base_latency, work.timeout, work.sticky
        case Jobs():
            row.job_time, row.concurrency, row.unit = work.job_seconds / machine.speed, work.concurrency, work.concurrency
            row.capacity = work.concurrency / row.job_time
            row.patience = min((p.within for p in crew.group.promises if isinstance(p, AgePromise)), default=0.0)
        case Sessions():
            row.capacity = row.unit = work.seats
            row.full_cpu, row.pack = work.full_cpu, work.place == "pack"
            row.session_end = 1.0 - math.exp(-row.tick / work.length)


def _life(row: np.record, crew: Crew) -> None:
    group, launch = crew.group, crew.launch
    health, faults = group.health, group.faults
    row.boot, row.start, row.boot_spread = launch.boot_time, launch.start_time, crew.machine_type.boot_spread
    row.warm_up = launch.warm_up + health.healthy_after * health.interval
    row.drain, row.stop = group.drain, STOP_TIME
    row.zones, row.balance_zones = len(launch.zones), group.leaving.balance_zones
    row.health, row.grace = _SEEN[health.basis], health.grace
    row.notice, row.restarts = health.unhealthy_after * health.interval, group.mending.restarts
    row.fault_every = math.inf if faults.every is None else faults.every
    row.frozen, row.hung, row.never_boots = faults.frozen, faults.hung, faults.never_boots


def _orders(row: np.record, crew: Crew) -> None:
    group, brake = crew.group, crew.group.leaving.brake
    row.minimum, row.maximum, row.first_count = group.minimum, group.maximum, group.first_count
    row.base_size = UNLIMITED if group.base_size is None else group.base_size
    row.cold, row.surplus = group.first_start is not None, group.first_start.surplus if group.first_start else 0
    row.version = crew.launch.version
    row.first_version = crew.launch.version if group.start_version is None else group.start_version
    row.pinned = group.leaving.pinned
    if brake is not None:
        row.brake, row.brake_percent, row.brake_within = brake.at_most, brake.of == "percent", brake.within
    row.cooldown, row.paused, row.mode = group.cooldown, group.policies_paused, _MODES[group.mode]


def _money(row: np.record, crew: Crew) -> None:
    machine, prices = crew.machine_type, crew.prices
    disk = float(prices.disk_gib_month) * crew.launch.disk_gib / MONTH_HOURS / 3600
    address = float(prices.address_hour) / 3600 if crew.launch.fields.public_address else 0.0
    row.price_machine = float(machine.price_per_hour) / 3600
    row.price = row.price_machine + disk + address
    row.price_stopped = disk + (row.price_machine if machine.billed_when_stopped else 0.0)
    row.price_group = float(prices.load_balancer_hour) / 3600 if crew.group.load_balancer else 0.0
    row.hourly, row.least_billed = machine.billed_by == "hour", machine.least_billed


def _policies(crew: Crew) -> tuple[np.recarray, NDArray[np.float64]]:
    group = crew.group
    found = rows(len(group.policies), POLICY)
    bands = np.zeros((len(group.policies), MOST_BANDS, 2))
    for number, policy in enumerate(group.policies):
        row = found[number]
        row.window = max(1, round(policy.window / group.meters.period))
        row.fold, row.cooldown, row.paused = _FOLDS[policy.fold], policy.cooldown, policy.paused
        if not isinstance(policy, SparePolicy):
            row.metric = metric_row(crew, policy)
            row.zone = 0 if policy.zone is None else 1 + crew.launch.zones.index(policy.zone)
        match policy:
            case HoldPolicy():
                row.kind = code.HOLD
                row.level, row.tolerance, row.removes = policy.level, policy.tolerance, policy.may_remove
            case SparePolicy():
                row.kind, row.percent = code.SPARE, policy.share is not None
                row.level, row.tolerance, row.removes = policy.share or policy.number, policy.slack, policy.may_remove
            case TriggerPolicy():
                row.kind = code.TRIGGER
                row.level, row.below = policy.threshold, policy.side == "below"
                row.action, row.amount = _ACTIONS[policy.action], policy.amount
                row.percent, row.removes = policy.of == "percent", policy.action != "add"
                row.bands = len(policy.bands)
                for place, band in enumerate(policy.bands):
                    bands[number, place] = band.beyond, band.amount
    return found, bands


def metric_row(crew: Crew, policy: Policy) -> int:
    """Row of the samples that a policy watches."""
    if isinstance(policy, SparePolicy):
        return code.IN_USE
    if policy.metric != Metric.OUTSIDE:
        return METRIC_CODES[policy.metric]
    return code.METRICS + [name for name, _ in crew.outside].index(policy.series or "")


def _calendar(crew: Crew, clock: Clock, times: NDArray[np.float64]) -> tuple[np.recarray, np.recarray]:
    found = orders(crew.group.calendar, clock, times)
    calendar = rows(len(times), ORDER)
    for field in ("low", "high", "low_by", "high_by", "gates", "gates_by"):
        calendar[field] = getattr(found, field)
    settings = rows(len(found.settings), SETTING)
    for number, (time, until, count, entry) in enumerate(found.settings):
        settings[number] = (time, until, count, entry)
    return calendar, settings


def _seconds(clock: Clock, moment: str) -> float:
    return clock.epoch_of(moment) - clock.first


def incidents_met(crew: Crew) -> list[Incident]:
    """The incidents as the engine numbers them: those in zones where the group has nothing are left out."""
    return [i for i in crew.incidents if getattr(i, "zone", None) in (None, *crew.launch.zones)]


def _incidents(crew: Crew, clock: Clock) -> np.recarray:
    zones, kept = crew.launch.zones, incidents_met(crew)
    found = rows(len(kept), INCIDENT)
    for number, incident in enumerate(kept):
        begin = _seconds(clock, incident.at)
        end = begin if isinstance(incident, Breaking) else begin + incident.length
        match incident:
            case ZoneLost():
                found[number] = (code.ZONE_LOST, begin, end, zones.index(incident.zone), 0.0, 0)
            case NoCapacity():
                zone = code.NOBODY if incident.zone is None else zones.index(incident.zone)
                found[number] = (code.NO_CAPACITY, begin, end, zone, 0.0, 0)
            case SlowBoots():
                found[number] = (code.SLOW_BOOTS, begin, end, 0, incident.factor, 0)
            case SlowDependency():
                found[number] = (code.SLOW_DEPENDENCY, begin, end, 0, incident.extra, 0)
            case Breaking():
                found[number] = (code.BREAKING, begin, end, 0, incident.share, _FAULTS[incident.fault])
    return found


def hands_in_order(hands: list[Hand], clock: Clock) -> list[Hand]:
    """The hands as the engine numbers them: by time, those before the start left out."""
    later = [hand for hand in hands if _seconds(clock, hand.at) >= 0]
    return sorted(later, key=lambda hand: _seconds(clock, hand.at))


def _hands(hands: list[Hand], clock: Clock) -> np.recarray:
    ordered = hands_in_order(hands, clock)
    found = rows(len(ordered), HAND)
    named = {"oldest": code.THE_OLDEST, "newest": code.THE_NEWEST}
    for number, hand in enumerate(ordered):
        time = _seconds(clock, hand.at)
        which = 0 if isinstance(hand, HandSet) else hand.instance
        which = named[which] if isinstance(which, str) else which - 1
        match hand:
            case HandSet():
                found[number] = (code.HAND_SET, time, 0, hand.count, 0.0)
            case HandKill():
                found[number] = (code.HAND_KILL, time, which, 0.0, 0.0)
            case HandPin():
                found[number] = (code.HAND_PIN, time, which, 0.0, 0.0)
            case HandStress():
                found[number] = (code.HAND_STRESS, time, which, hand.cpu, hand.length)
    return found


def _outside(crew: Crew, clock: Clock) -> NDArray[np.float32]:
    """Each outside series at the end of each meter period."""
    step = round(crew.group.meters.period / clock.tick)
    samples = clock.ticks // step
    found = np.zeros((len(crew.outside), samples), np.float32)
    for number, (_, series) in enumerate(crew.outside):
        found[number] = on_clock(series, clock)[step - 1 :: step][:samples]
    return found
