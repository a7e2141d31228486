"""The bill: instance time by price, in exact decimals, and every amount attributed to whom it was paid for."""

from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.figure import all_paid_micros
from jostle.core.built.play import type_of
from jostle.core.costs.market_price import MarketPrice, at_market
from jostle.core.costs.part import DETACHED, STOPPED
from jostle.core.costs.traffic import traffic_cost
from jostle.core.engine.code import Billed
from jostle.core.engine.compile import Crew
from jostle.core.engine.mix import are_spot, types_of
from jostle.core.engine.result import Result
from jostle.core.plan.tariff import HOUR_MICROS, MICROS, Tariff

_HOUR = Decimal(3600)


class Bill(NamedTuple):
    """What one instance, or the whole group, cost. `what` is machine, stopped machine, disk, detached disk, address, load
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


def billed_micros(micros: NDArray[np.int64], tariff: Tariff) -> NDArray[np.int64]:
    """Microseconds of running machines that are paid for."""
    return all_paid_micros(micros, tariff.hourly, tariff.least_micros)


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
    spent, amount = _spent(result, crew), Decimal()
    for number, tariff in enumerate(crew.tariffs):
        of_type = spent.types == number
        paid, ran, stood, left = (int(micros[of_type].sum()) for micros in (spent.paid, spent.ran, spent.stood, spent.left))
        amount += sum(_amounts(tariff, paid, ran, stood, left).values())
    own = group_cost(result.elapsed, crew) + sum(traffic_cost(result, crew).values())
    return amount / HOUR_MICROS + at_market(sum(spent.owed.values())) + own


def bills(result: Result, crew: Crew) -> list[Bill]:
    """Every amount of a run, by instance and by what it was paid for."""
    spent, tariffs = _spent(result, crew), crew.tariffs
    fields = (result.instances[field].tolist() for field in ("zone", "version", "overflow", "kind"))
    times = (column.tolist() for column in (spent.spot, spent.paid, spent.ran, spent.stood, spent.left))
    found = []
    for number, (zone, version, overflow, kind, spot, *micros) in enumerate(zip(*fields, *times, strict=True)):
        owed = _amounts(tariffs[type_of(kind)], *micros)
        amounts = {what: amount / HOUR_MICROS for what, amount in owed.items()}
        if number in spent.owed:
            amounts["machine"] = at_market(spent.owed[number])
        about = number, crew.launch.zones[zone], version, overflow
        machine = crew.machine_of(kind)
        found += [Bill(*about, what, amount, machine, spot and what != STOPPED) for what, amount in amounts.items() if amount]
    own = {"load balancer": group_cost(result.elapsed, crew), **traffic_cost(result, crew)}
    return found + [Bill(None, "", 0, False, what, amount) for what, amount in own.items() if amount]


def _amounts(tariff: Tariff, paid: int, ran: int, stood: int, left: int) -> dict[str, Decimal]:
    """What so many microseconds of each kind come to, times the microseconds of an hour; see `_Spent`."""
    return {
        "machine": paid * tariff.machine,
        "address": ran * tariff.address,
        STOPPED: stood * tariff.stopped,
        "disk": (ran + stood) * tariff.disk,
        DETACHED: left * tariff.disk,
    }


class _Spent(NamedTuple):
    """Of instances, shape (instances,) each: their types of machine, whether they are spot, and the microseconds for which their
    machines are paid for, that they ran, stood stopped, and left their disks behind. What a spot instance owes at market prices
    (see `MarketPrice`) is by its number, and nothing is paid for besides."""

    types: NDArray[np.integer]
    spot: NDArray[np.bool_]
    paid: NDArray[np.int64]
    ran: NDArray[np.int64]
    stood: NDArray[np.int64]
    left: NDArray[np.int64]
    owed: dict[int, int]


def _spent(result: Result, crew: Crew) -> _Spent:
    rows, spells, whose = result.instances, result.spells, result.spells["instance"]
    kinds, types = rows["kind"], types_of(rows["kind"])
    spot = are_spot(kinds) & bool(result.setup.of("spot"))
    begins = _micros(spells["begin"])
    lasted = _micros(np.where(np.isnan(spells["end"]), result.elapsed, spells["end"]) - spells["begin"])
    running = spells["kind"] == Billed.RUNNING
    at_prices = running & spot[whose]
    there, paid = np.zeros((len(Billed), len(rows)), np.int64), np.zeros(len(rows), np.int64)
    np.add.at(there, (spells["kind"], whose), lasted)
    np.add.at(paid, whose, np.where(running & ~at_prices, _billed(lasted, types[whose], crew.tariffs), 0))
    owed: dict[int, int] = defaultdict(int)
    if at_prices.any():
        market = MarketPrice(result.setup)
        here = whose[at_prices]
        columns = (here, kinds[here], rows["zone"][here], begins[at_prices], (begins + lasted)[at_prices])
        for number, kind, zone, begin, end in zip(*(column.tolist() for column in columns), strict=True):
            owed[number] += market.owed(kind, zone, begin, end)
    return _Spent(types, spot, paid, there[Billed.RUNNING], there[Billed.STANDING], there[Billed.DETACHED], owed)


def _billed(micros: NDArray[np.int64], types: NDArray[np.integer], tariffs: Sequence[Tariff]) -> NDArray[np.int64]:
    """Microseconds that are paid for of running machines of these types."""
    paid = np.zeros_like(micros)
    for number, tariff in enumerate(tariffs):
        of_type = types == number
        paid[of_type] = billed_micros(micros[of_type], tariff)
    return paid
