"""The two bounds of cost for one demand: always-peak and foresight.

Always-peak is the careful neighbour who leaves every light on: the smallest fixed count that keeps the promises.
Foresight is the one who knows the week beforehand: it has, minute by minute, just the count that one utilisation
asks for, the highest at which the promises still hold over the whole span, and pays for boots and drains.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.figure import beyond_at, late_requests, needed_counts, sessions_there
from jostle.core.costs.price import bill, group_cost
from jostle.core.costs.traffic import traffic_of_all
from jostle.core.decide.row import no_orders
from jostle.core.engine.compile import Crew
from jostle.core.engine.market import MARKET_STEP, UNIT
from jostle.core.engine.outset import cheapest_of
from jostle.core.engine.queue import Col
from jostle.core.engine.result import Result, run
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNLIMITED
from jostle.core.plan.promise import AgePromise, AnswersPromise, RoomPromise, SeatsPromise, ServicePromise
from jostle.core.plan.tariff import MICROS, Tariff
from jostle.core.plan.work import WorkKind

MOST_OVER_MAXIMUM = 4
# Share that may fail, or be left, where nothing is promised: even one in a thousand gives up by chance
FEW_FAIL = 0.001
AT_LEAST_TO = 64
NO_QUOTA = np.full(1, UNLIMITED, np.int32)


@dataclass(frozen=True)
class Bounds:
    """Costs over the whole span; None where no count keeps the promises."""

    always_peak_count: int | None
    always_peak: Decimal | None
    foresight: Decimal | None


def bounds(setup: Setup, promises: list[ServicePromise], crew: Crew) -> Bounds:
    """Both bounds. Without a promise of service, the promise taken is that hardly anything fails or is left at the end."""
    alone, tariff = cheapest_alone(setup, crew)
    span = setup.ticks * setup.tick
    count = always_peak_count(alone, promises)
    peak = None if count is None else bill([span] * count, tariff) + _own_cost(alone, crew)
    least = foresight_cost(setup, promises, crew)
    # A fixed count may let a short peak wait, which the utilisation of foresight never does.
    foresight = min((amount for amount in (peak, least) if amount is not None), default=None)
    return Bounds(count, peak, foresight)


def _own_cost(setup: Setup, crew: Crew) -> Decimal:
    """What the group costs however many instances it has."""
    return group_cost(setup.ticks * setup.tick, crew) + traffic_of_all(setup, crew)


def cheapest_alone(setup: Setup, crew: Crew) -> tuple[Setup, Tariff]:
    """The setup with one type of machine, the cheapest on demand for what it does, and what that costs."""
    number = cheapest_of(setup)
    return setup.of_type(number), crew.tariff_of(number)


def keeps(result: Result, promises: list[ServicePromise]) -> bool:
    """Whether a run kept its promises of service."""
    if not promises:
        return result.tally("failed") + result.tally("backlog") <= max(1.0, FEW_FAIL * result.arrived)
    return all(broken_share(result, promise) <= 1 - promise.share + 1e-12 for promise in promises)


def broken_share(result: Result, promise: ServicePromise) -> float:
    """Share of the requests, jobs or sessions for which a promise was not kept."""
    match promise:
        case AnswersPromise():
            return result.late_share(promise.within)
        case AgePromise():
            return result.late_jobs(promise.within)
        case SeatsPromise():
            return result.refused_share
        case RoomPromise():
            return result.unborne_share


def late_between(before: Result, after: Result, promise: AnswersPromise | AgePromise) -> float:
    """How many requests were late or failed, or jobs taken up late, from one state of a run to a later one."""
    if isinstance(promise, AnswersPromise):
        return max(0.0, after.late_requests(promise.within) - before.late_requests(promise.within))
    return after.taken_late(promise.within, int(before.state.now["tick"][0]))


def _undisturbed(setup: Setup, **numbers: float) -> Setup:
    """The setup without policies, calendar, hands, limits or market, its count following the orders that it is given."""
    quiet = setup.changed(
        minimum=0,
        owned=UNLIMITED,
        cold=False,
        surplus=0,
        pinned=0,
        brake=0,
        meter_latency=False,
        meter_zones=False,
        spot=False,
        shut=False,
        **numbers,
    )
    return quiet._replace(
        rules=quiet.rules._replace(policies=setup.rules.policies[:0], bands=setup.rules.bands[:0]),
        hands=setup.hands[:0],
        outside=setup.outside[:, :0][:0],
    )


def _steady(setup: Setup, count: int) -> Setup:
    """A fixed count throughout, whatever breaks being replaced."""
    step = int(setup.of("evaluate_ticks")) if len(setup.incidents) or math.isfinite(setup.of("fault_every")) else setup.ticks
    fixed = _undisturbed(setup, maximum=count, first_count=count, evaluate_ticks=step, period_ticks=setup.ticks)
    evaluations = setup.ticks // step
    orders = no_orders(evaluations)
    orders["low"] = orders["high"] = count
    return fixed._replace(orders=orders, quota=NO_QUOTA)


def _following(setup: Setup, counts: NDArray[np.int64]) -> Setup:
    """Counts known beforehand: an instance is there the moment it is wanted, its boot being billed and not waited for."""
    fixed = _undisturbed(
        setup, maximum=max(1, int(counts.max())), first_count=int(counts[0]), period_ticks=setup.ticks,
        boot=0.0, warm_up=0.0, never_boots=0.0, fault_every=math.inf,
    )  # fmt: skip
    orders = no_orders(len(setup.orders))
    orders["low"] = orders["high"] = np.append(counts[1:], counts[-1])[: len(orders)]
    return fixed._replace(orders=orders, quota=NO_QUOTA, incidents=setup.incidents[:0])


def farthest(setup: Setup) -> int:
    """How far counts are sought: four times the maximum of the group, rounded up to a power of two, and up to 64 in any case.

    A demand that needs more is not the group's, and to rehearse thousands of instances would take minutes.
    """
    return int(max(AT_LEAST_TO, MOST_OVER_MAXIMUM * 2 ** math.ceil(math.log2(max(1, setup.of("maximum"))))))


def always_peak_count(setup: Setup, promises: list[ServicePromise]) -> int | None:
    """The smallest fixed count that keeps the promises, since more is never worse; None beyond the `farthest`.

    The count that would do if every tick were steady is a good guess; from it the search walks with doubling strides.
    """

    def kept(count: int) -> bool:
        return keeps(run(_steady(setup, count)), promises)

    low, high = 0, _steady_count(setup, promises)
    stride, most = 1, farthest(setup)
    if high > most:
        return None
    if kept(high):
        while high - stride > 0 and kept(high - stride):
            high, stride = high - stride, 2 * stride
        low = max(0, high - stride)
    else:
        while not kept(high):
            low, high, stride = high, high + stride, 2 * stride
            if high > most:
                return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if kept(middle) else (middle, high)
    return high


def _load(setup: Setup) -> NDArray[np.float64]:
    """What each tick asks for, in the unit of an instance's capacity: arrivals per second, or sessions under way.

    Jobs ask for as long as they take. Sessions under way follow their arrivals with the mean length as time constant.
    """
    if setup.of("work") == WorkKind.JOBS:
        lasts = max(1, round(setup.of("job_time") / setup.tick))
        summed = np.cumsum(np.concatenate([np.zeros(lasts), setup.offered]))
        return np.asarray(np.maximum(0.0, summed[lasts:] - summed[:-lasts]) / lasts)
    if setup.of("work") != WorkKind.SESSIONS:
        return setup.offered
    return sessions_there(setup.arrivals, _ending(setup), math.inf)[0]


def _ending(setup: Setup) -> float:
    """Share of the sessions under way that end within a tick."""
    return float(1.0 - (1.0 - setup.of("session_end")) ** setup.of("steps"))


def _steady_count(setup: Setup, promises: list[ServicePromise]) -> int:
    """The smallest count that keeps the promises if every tick were steady; without such promises, that of the mean load."""
    load = _load(setup)
    answers = [p for p in promises if isinstance(p, AnswersPromise)]
    seats = [p for p in promises if isinstance(p, SeatsPromise)]
    capacity = setup.of("capacity")
    if not answers and not seats:
        most = load.max() if setup.of("work") != WorkKind.JOBS else load.mean()
        return max(1, int(np.ceil(most / capacity)))
    tables = [(_late_by_load(setup, p.within), (1 - p.share) * load.sum()) for p in answers]

    def fits(count: int) -> bool:
        late = (
            late_requests(load, setup.ticks, capacity, 1.0, count, setup.line.loads, setup.line.row_of, t) <= a for t, a in tables
        )
        if not all(late):
            return False
        refused = sessions_there(setup.arrivals, _ending(setup), count * capacity)[1] if seats else 0.0
        return all(refused <= (1 - p.share) * setup.arrivals.sum() for p in seats)

    low, high = 0, max(1, int(np.ceil(load.max() / capacity)))
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if fits(middle) else (middle, high)
    return high


def foresight_cost(setup: Setup, promises: list[ServicePromise], crew: Crew) -> Decimal | None:
    """What the whole span costs with perfect knowledge, or None where no count keeps the promises. A group that buys spot has at
    each instant the lowest price that is asked anywhere, and nothing is taken back from it."""
    alone, tariff = cheapest_alone(setup, crew)
    stays = foresight_stays(alone, promises)
    if stays is None:
        return None
    begins, ends = stays
    least = bill(ends - begins, tariff)
    if setup.of("spot"):
        least = min(least, _lowest_bill(setup, float(alone.kinds["capacity"][0]), begins, ends, tariff))
    return least + _own_cost(alone, crew)


def foresight_stays(setup: Setup, promises: list[ServicePromise]) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """When each stay begins and ends (s) with perfect knowledge, or None where no count keeps the promises."""
    counts = foresight_counts(setup, promises)
    return None if counts is None else _stays(setup, counts)


def _lowest_bill(setup: Setup, each: float, begins: NDArray[np.float64], ends: NDArray[np.float64], tariff: Tariff) -> Decimal:
    """What stays from `begins` to `ends` (s) cost of instances that do `each`, where each instant is paid at the lowest price for
    as much, on demand or on the market."""
    market = setup.market
    worth = each / setup.kinds.view(np.ndarray)["capacity"][: 2 * len(market.units) : 2]
    asked = np.where(market.offered, market.units * worth[:, None, None] / UNIT, np.inf).min(axis=(0, 1))
    paid = np.append(0.0, np.cumsum(np.minimum(asked, float(tariff.machine)) * MARKET_STEP / 3600))
    edges = np.arange(len(paid)) * MARKET_STEP
    machines = float((np.interp(ends, edges, paid) - np.interp(begins, edges, paid)).sum())
    return Decimal(round(machines * 1e6)) / MICROS + bill(ends - begins, tariff._replace(machine=Decimal(0)))


def foresight_counts(setup: Setup, promises: list[ServicePromise]) -> NDArray[np.int64] | None:
    """The count of each interval between evaluations with perfect knowledge, or None where no utilisation keeps the promises or
    it takes more than the `farthest`."""
    load, capacity, step = _load(setup), setup.of("capacity"), setup.of("evaluate_ticks")
    if int(needed_counts(load, step, capacity, 1.0).max(initial=0)) > farthest(setup):
        return None
    if setup.of("work") == WorkKind.REQUESTS:
        answers = [p for p in promises if isinstance(p, AnswersPromise)]
        tables = [(_late_by_load(setup, p.within), (1 - p.share) * load.sum()) for p in answers]

        def kept(share: float) -> bool:
            return all(
                late_requests(load, step, capacity, share, 0, setup.line.loads, setup.line.row_of, late) <= allowed
                for late, allowed in tables
            )

        found = _highest(kept, 12)
    else:

        def kept(share: float) -> bool:
            return keeps(run(_following(setup, needed_counts(load, step, capacity, share))), promises)

        found = _highest(kept, 7)
    return None if found is None else np.asarray(needed_counts(load, step, capacity, found))


def _highest(kept: Callable[[float], bool], turns: int) -> float | None:
    """The highest utilisation up to 1 that is kept, by halving; None where not even a twentieth is."""
    low, high = 0.05, 1.0
    if kept(high):
        return high
    if not kept(low):
        return None
    for _ in range(turns):
        middle = (low + high) / 2
        low, high = (middle, high) if kept(middle) else (low, middle)
    return low


def _late_by_load(setup: Setup, within: float) -> NDArray[np.float64]:
    """Share of requests that take longer than `within` seconds or fail, by number of instances and load, as the line has them."""
    line, stay = setup.line, within - setup.of("base_latency")
    beyond = np.array([[beyond_at(tail, line.times, stay, 1.0) for tail in row] for row in line.tails])
    lost = line.tables[:, Col.LOST]
    return np.ascontiguousarray(lost + (1.0 - lost) * beyond)


def _stays(setup: Setup, counts: NDArray[np.int64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """When each stay begins and ends (s) for a path of counts, the n-th instance being there while the count is n or more.

    Each stay also pays for its boot, warm-up and drain; a gap shorter than those is bridged instead.
    """
    before, after = setup.of("boot") + setup.of("warm_up"), setup.of("drain")
    step, end = setup.of("evaluate_ticks"), setup.ticks * setup.tick
    all_begins: list[float] = []
    all_ends: list[float] = []
    for n in range(1, int(counts.max(initial=0)) + 1):
        turns = np.flatnonzero(np.diff(np.concatenate([[0], (counts >= n).astype(np.int8), [0]])))
        edges = np.minimum(turns * step, setup.ticks) * setup.tick
        begins, ends = np.maximum(edges[::2] - before, 0.0), np.minimum(edges[1::2] + after, end)
        apart = np.flatnonzero(begins[1:] > ends[:-1])
        all_begins += begins[np.append(0, apart + 1)].tolist()
        all_ends += ends[np.append(apart, len(ends) - 1)].tolist()
    return np.array(all_begins), np.array(all_ends)
