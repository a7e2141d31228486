"""The bill: instance time by price, in exact decimals, and every amount attributed to whom it was paid for."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import maker
from jostle.core.costs.market_price import MarketPrice
from jostle.core.costs.part import DETACHED
from jostle.core.costs.traffic import traffic_cost
from jostle.core.engine.code import Billed
from jostle.core.engine.compile import Crew
from jostle.core.engine.mix import SPOT, bought, type_of
from jostle.core.engine.result import Result
from jostle.core.plan.tariff import MICROS, Tariff, paid_micros

_HOUR = Decimal(3600)


@dataclass(frozen=True)
class Bill:
    """What one spell, or the whole group, cost. `what` is machine, stopped machine, disk, detached disk, address, load
    balancer, load balancer data or data out."""

    instance: int | None
    zone: str
    version: int
    overflow: bool
    what: str
    amount: Decimal
    machine: str = ""
    spot: bool = False


def seconds_exactly(seconds: float) -> Decimal:
    """Seconds to a millionth."""
    return Decimal(round(float(seconds) * 1e6)) / MICROS


def _micros(seconds: NDArray[np.float64]) -> NDArray[np.int64]:
    return np.asarray(np.round(seconds * 1e6), dtype=np.int64)


@maker
def _paid(micros: np.ndarray, hourly: bool, least_micros: int) -> np.ndarray:
    paid = np.empty(len(micros), np.int64)
    for i in range(len(micros)):
        paid[i] = paid_micros(micros[i], hourly, least_micros)
    return paid


def billed_micros(micros: NDArray[np.int64], tariff: Tariff) -> NDArray[np.int64]:
    """Microseconds of running machines that are paid for."""
    return _paid(micros, tariff.hourly, tariff.least_micros)


def bill(seconds: NDArray[np.float64] | Sequence[float], tariff: Tariff) -> Decimal:
    """What running stays of these lengths cost, with their disks and addresses."""
    stays = _micros(np.asarray(seconds, dtype=np.float64))
    machine = int(billed_micros(stays, tariff).sum()) * tariff.machine
    beside = int(stays.sum()) * (tariff.disk + tariff.address)
    return (machine + beside) / MICROS / _HOUR


def group_cost(seconds: float, crew: Crew) -> Decimal:
    """What the group pays for itself over a time, however many instances it has."""
    return seconds_exactly(seconds) * crew.prices.load_balancer_hour / _HOUR if crew.group.load_balancer else Decimal(0)


def total(result: Result, crew: Crew) -> Decimal:
    """What a run cost in all: the sum of its bills, from whole microseconds and so without a rounding on the way."""
    own = group_cost(result.elapsed, crew) + sum(traffic_cost(result, crew).values())
    if not result.instances["kind"].any():
        standing = int(_micros(result.spell_seconds(Billed.STANDING)).sum()) * crew.tariff.standing / MICROS / _HOUR
        detached = int(_micros(result.spell_seconds(Billed.DETACHED)).sum()) * crew.tariff.disk / MICROS / _HOUR
        return bill(result.spell_seconds(Billed.RUNNING), crew.tariff) + standing + detached + own
    return sum((one.amount for one in _stays(result, crew)), Decimal()) + own


def bills(result: Result, crew: Crew) -> list[Bill]:
    """Every amount of a run, by instance and by what it was paid for."""
    found: dict[tuple[int | None, str], Bill] = {}
    for one in _stays(result, crew):
        known = found.get((one.instance, one.what))
        found[one.instance, one.what] = replace(one, amount=one.amount + (known.amount if known else 0))
    own = {"load balancer": group_cost(result.elapsed, crew), **traffic_cost(result, crew)}
    told = [one for one in found.values() if one.amount]
    return told + [Bill(None, "", 0, False, what, amount) for what, amount in own.items() if amount]


def _stays(result: Result, crew: Crew) -> Iterator[Bill]:
    """Amounts of each stretch that an instance ran or stood."""
    rows, spells, tariffs = result.instances, result.spells, crew.tariffs
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    begins, micros = _micros(spells["begin"]), _micros(ends - spells["begin"])
    market = MarketPrice(result.setup) if result.setup.of("spot") else None
    told = zip(
        spells["instance"].tolist(),
        spells["kind"].tolist(),
        begins.tolist(),
        micros.tolist(),
        _billed(micros, rows["kind"][spells["instance"]] // 2, tariffs).tolist(),
        strict=True,
    )
    for number, kind, begin, lasted, billed in told:
        row, seconds = rows[number], Decimal(lasted) / MICROS
        bought_as = int(row["kind"])
        spot, tariff = market is not None and bought(bought_as) == SPOT, tariffs[type_of(bought_as)]
        zone, machine_name = int(row["zone"]), crew.machine_of(bought_as)
        about = number, crew.launch.zones[zone], int(row["version"]), bool(row["overflow"])
        if kind == Billed.RUNNING:
            machine = Decimal(billed) / MICROS * tariff.machine / _HOUR
            if market is not None and spot:
                machine = market.amount(bought_as, zone, begin, begin + lasted)
            yield Bill(*about, "machine", machine, machine_name, spot)
            yield Bill(*about, "address", seconds * tariff.address / _HOUR, machine_name, spot)
        elif kind == Billed.STANDING:
            yield Bill(*about, "stopped machine", seconds * tariff.stopped / _HOUR, machine_name)
        what = DETACHED if kind == Billed.DETACHED else "disk"
        yield Bill(*about, what, seconds * tariff.disk / _HOUR, machine_name, spot)


def _billed(micros: NDArray[np.int64], types: NDArray[np.int64], tariffs: Sequence[Tariff]) -> NDArray[np.int64]:
    """Microseconds that are paid for of running machines of these types."""
    paid = np.zeros_like(micros)
    for number, tariff in enumerate(tariffs):
        of_type = types == number
        paid[of_type] = billed_micros(micros[of_type], tariff)
    return paid
