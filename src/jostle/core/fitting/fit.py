"""What a rehearsal is told of a group, estimated from what was observed of it."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.engine.compile import Crew
from jostle.core.fitting.estimate import Estimate, Scatter, TooFewError, drawn_again, enough, far_from, interval, line
from jostle.core.fitting.observed import Observed, Quantity
from jostle.core.plan.quantity import say_duration, say_number, say_share
from jostle.core.plan.work import Hosting, Jobs, Requests, Sessions

# CPU at which requests wait, so that more of them make no more CPU, and rows for which they are worked off afterwards
FULL, AFTER = 0.97, 6
# Rounds of a line through rows that are drawn anew
DRAWN_ROUNDS = 4
# Load to which rows are used: that which makes so much CPU
USED = 0.85
# Share of its CPUs that an instance may have busy for few of its requests to wait
CALM = 0.7
# Share of the rows in which what a machine has must do
BUSIEST = 0.99


@dataclass(frozen=True)
class Fit:
    """The estimates that the columns allow, and why others cannot be had."""

    estimates: list[Estimate]
    not_told: list[str]


def fit(observed: Observed, crew: Crew) -> Fit:
    """All that can be told of a group."""
    found, missing = [], []
    for needs, tell in _WAYS[type(crew.group.work)]:
        lacking = [one for one in needs if not observed.has(one)]
        if lacking:
            missing.append(f"{tell.__name__.strip('_').replace('_', ' ')}: no column of {', '.join(lacking)}")
            continue
        try:
            found += tell(observed, crew)
        except TooFewError as error:
            missing.append(f"{tell.__name__.strip('_').replace('_', ' ')}: {error}")
    return Fit(found, missing)


def _known(observed: Observed, *names: Quantity) -> NDArray[np.bool_]:
    return np.logical_and.reduce([np.isfinite(observed.values[one]) for one in names])


def cpu_of_work(observed: Observed, crew: Crew) -> list[Estimate]:
    """CPU of a request and of an idle instance: the line of CPU over requests of an instance, which each has its share of however
    much an idle one burns."""
    values, machine = observed.values, crew.machine
    usable = _known(observed, "arrivals", "instances", "cpu") & (values["instances"] >= 1)
    known, full = int(usable.sum()), usable & (values["cpu"] >= FULL)
    worked_off = np.convolve(full, np.ones(1 + AFTER), "full")[: len(full)] > 0
    # Where the count changes within a row it was not what the row says.
    changes = np.flatnonzero(np.diff(values["instances"]) != 0)
    usable[changes] = usable[changes + 1] = False
    calm = np.flatnonzero(usable & ~worked_off)
    enough(len(calm), "CPU")
    load = np.divide(values["arrivals"], values["instances"], out=np.zeros(observed.rows), where=usable)
    # By their load, not by their CPU: what is left out by what it came to would bend the line.
    idle, slope = line(load[calm], values["cpu"][calm])
    rows = calm[load[calm] * slope <= USED - idle] if slope > 0 else calm
    enough(len(rows), "CPU")
    each, cpu = load[rows], values["cpu"][rows]
    if float(np.ptp(each)) < 0.1 * float(each.mean() or 1.0):
        raise TooFewError("the load of an instance hardly changes, so that idle CPU and that of requests cannot be told apart")
    per = machine.vcpus * machine.speed
    idle, slope = line(each, cpu)
    drawn = drawn_again(len(rows), observed.step, lambda some: line(each[some], cpu[some], DRAWN_ROUNDS))
    far = int(far_from(cpu - idle - slope * each).sum())
    away = known - len(rows)
    out = f"{away} rows at full load, after it, or in which the count changed" if away else ""
    seconds, burnt, many = per * float(slope), max(0.0, float(idle)), len(rows)
    shown = "requests/s of an instance", "CPU, %", each, 100 * cpu
    seen = Scatter.along(*shown, 100 * float(idle), 100 * float(slope))
    down = Scatter(*shown, ((0.0, 100 * float(idle)), seen.ends[1]))
    ends = interval(per * drawn[:, 1], seconds, many, 2)
    return [
        Estimate("CPU of a request", "work.cpu_seconds", seconds, *ends, many, far, out, seen),
        Estimate("idle CPU", "work.idle_cpu", burnt, *_not_below(interval(drawn[:, 0], burnt, many, 2)), many, far, out, down),
    ]


def _not_below(ends: tuple[float, float]) -> tuple[float, float]:
    return max(0.0, ends[0]), max(0.0, ends[1])


def vcpus_that_are_needed(observed: Observed, crew: Crew) -> list[Estimate]:
    """What an instance has busy of its CPUs at its busiest: all but one row of a hundred have less."""
    return [_need("vCPUs", "vcpus", "cpu", crew.machine.vcpus, 1.0, observed, crew)]


def memory_that_is_needed(observed: Observed, crew: Crew) -> list[Estimate]:
    """The same of its memory, in GiB."""
    return [_need("GiB of memory", "memory_gib", "memory", crew.machine.memory_gib, 0.5, observed, crew)]


def _need(name: str, field: str, column: Quantity, whole: float, step: float, observed: Observed, crew: Crew) -> Estimate:
    """The least of something that a machine may have and carry what an instance carried, in steps; a setting where the group
    finds its machines by needs."""
    buying = crew.group.buying
    rows = np.flatnonzero(_known(observed, column))
    enough(len(rows), f"the need of {name}")
    used = whole * observed.values[column][rows]
    drawn = drawn_again(len(rows), observed.step, lambda some: np.array([np.quantile(used[some], BUSIEST)]))
    value = float(np.quantile(used, BUSIEST))
    need, low, high = (
        max(step, step * math.ceil(one / step - 1e-9)) for one in (value, *interval(drawn[:, 0], value, len(rows)))
    )
    hours = (observed.times[rows] - observed.first) / 3600
    seen = Scatter.along("hours", f"{name} used by an instance", hours, used, need, 0.0)
    said = f"an instance used {say_number(value)} of {say_number(whole)} or less in {say_share(BUSIEST)} of them"
    path = f"buying.needs.{field}" if buying is not None and buying.needs is not None else ""
    return Estimate(f"{name} at least", path, need, low, high, len(rows), left_out=said, scatter=seen)


def length_of_sessions(observed: Observed, crew: Crew) -> list[Estimate]:
    """Sessions that are there over those that come: the law of Little, over hours."""
    rows = np.flatnonzero(_known(observed, "sessions", "arrivals"))
    enough(len(rows), "the length of sessions")
    there, came = observed.values["sessions"][rows], observed.values["arrivals"][rows]
    if came.sum() <= 0:
        raise TooFewError("no session came")
    drawn = drawn_again(len(rows), observed.step, lambda some: np.array([there[some].sum() / max(came[some].sum(), 1e-12)]))
    value = float(there.sum() / came.sum())
    seen = Scatter.along("sessions that come, 1/s", "sessions there", came, there, 0.0, value)
    ends = interval(drawn[:, 0], value, len(rows))
    return [Estimate("length of a session", "work.length", value, *ends, len(rows), scatter=seen)]


def length_of_jobs(observed: Observed, crew: Crew) -> list[Estimate]:
    """While jobs wait every worker is busy: instances over what they do."""
    work, values = crew.group.work, observed.values
    assert isinstance(work, Jobs)
    usable = _known(observed, "done", "instances", "waiting")
    rows = np.flatnonzero(usable & (values["waiting"] > 0) & (values["done"] > 0) & (values["instances"] >= 1))
    enough(len(rows), "the length of jobs, of which some must wait")
    busy, done = work.concurrency * crew.machine.speed * values["instances"][rows], values["done"][rows]
    each = busy / done
    drawn = drawn_again(len(rows), observed.step, lambda some: np.array([busy[some].sum() / done[some].sum()]))
    value, far = float(np.median(each)), int(far_from(each - np.median(each)).sum())
    value = float(busy.sum() / done.sum()) if far == 0 else value
    seen = Scatter.along("jobs side by side, at speed 1", "jobs done, 1/s", busy, done, 0.0, 1.0 / value)
    ends = interval(drawn[:, 0], value, len(rows))
    return [Estimate("length of a job", "work.job_seconds", value, *ends, len(rows), far, scatter=seen)]


def time_to_serve(observed: Observed, crew: Crew) -> list[Estimate]:
    """From the wish for more instances to their serving: boot and warm-up together."""
    known = _known(observed, "wanted", "instances")
    wanted, there = observed.values["wanted"], observed.values["instances"]
    waits: list[float] = []
    for row in np.flatnonzero(known[1:] & known[:-1] & (wanted[1:] > wanted[:-1])) + 1:
        if there[row - 1] < wanted[row - 1]:
            # It was on the way to an earlier wish still.
            continue
        later = np.flatnonzero(there[row:] >= wanted[row])
        fallen = np.flatnonzero(wanted[row:] < wanted[row])
        if len(later) and (not len(fallen) or later[0] <= fallen[0]):
            waits.append(float(later[0]) * observed.step)
    enough(len(waits), "the time to serve (rises of the wanted count)", 5)
    told = np.array(waits)
    chance = np.random.default_rng(1)
    drawn = np.median(chance.choice(told, (300, len(told))), axis=1)
    half = observed.step / 2
    low, high = interval(drawn, float(np.median(told)), len(told))
    said = f"by the step of {say_duration(observed.step)} between rows"
    value = float(np.median(told))
    seen = Scatter.along(
        "rises of the wanted count", "time until they serve, s", np.arange(1.0, 1.0 + len(told)), told, value, 0.0
    )
    return [Estimate("boot and warm-up", "", value, max(0.0, low - half), high + half, len(told), left_out=said, scatter=seen)]


def base_latency(observed: Observed, crew: Crew) -> list[Estimate]:
    """Of an answer, what no number of instances shortens: what is left of it while nobody waits, less the time on the CPU."""
    work, values = crew.group.work, observed.values
    assert isinstance(work, Requests)
    cpu = cpu_of_work(observed, crew)[0] if observed.has("cpu") else None
    factor = 1.0 / (crew.machine.speed * (1.0 - work.idle_cpu))
    service = factor * (cpu.value if cpu else work.cpu_seconds)
    usable = _known(observed, "arrivals", "instances", "latency") & (values["instances"] >= 1)
    load = np.divide(values["arrivals"], values["instances"], out=np.full(observed.rows, np.inf), where=usable)
    rows = np.flatnonzero(load * service <= CALM * crew.machine.vcpus)
    enough(len(rows), "the base latency, in which few requests wait")
    # Whether instances wait each with a line of its own or share one is not known: as much of the wait of Erlang's law as fits.
    wait, took = service * _waits(load[rows] * service, crew.machine.vcpus), values["latency"][rows] - service
    value, part = (float(one) for one in line(wait, took))
    far = int(far_from(took - value - part * wait).sum())
    drawn = drawn_again(len(rows), observed.step, lambda some: line(wait[some], took[some], DRAWN_ROUNDS))
    seen = Scatter.along("usual wait at this load, s", "latency less service, s", wait, took, value, part)
    low, high = interval(drawn[:, 0], value, len(rows), 2)
    # What is not known of the service is not known of the rest.
    less, more = (factor * (cpu.high - cpu.value), factor * (cpu.value - cpu.low)) if cpu else (0.0, 0.0)
    ends = _not_below((value - math.hypot(value - low, less), value + math.hypot(high - value, more)))
    return [Estimate("base latency", "work.base_latency", max(0.0, value), *ends, len(rows), far, scatter=seen)]


def _waits(busy: NDArray[np.float64], cpus: int) -> NDArray[np.float64]:
    """The mean wait in times of service, with so many CPUs busy of `cpus` (Erlang's second formula, by its recursion)."""
    blocked = np.ones(len(busy))
    for many in range(1, cpus + 1):
        blocked = busy * blocked / (many + busy * blocked)
    part = np.minimum(busy / cpus, 0.999)
    queued = blocked / (1.0 - part * (1.0 - blocked))
    return np.asarray(queued / (cpus * (1.0 - part)))


Way = tuple[tuple[Quantity, ...], Callable[[Observed, Crew], list[Estimate]]]
_OF_ALL: tuple[Way, ...] = (
    (("wanted", "instances"), time_to_serve),
    (("cpu",), vcpus_that_are_needed),
    (("memory",), memory_that_is_needed),
)
_WAYS: dict[type, tuple[Way, ...]] = {
    Requests: (
        (("arrivals", "instances", "cpu"), cpu_of_work),
        (("arrivals", "instances", "latency"), base_latency),
        *_OF_ALL,
    ),
    Jobs: ((("done", "instances", "waiting"), length_of_jobs), *_OF_ALL),
    Sessions: ((("sessions", "arrivals"), length_of_sessions), *_OF_ALL),
    Hosting: _OF_ALL,
}
