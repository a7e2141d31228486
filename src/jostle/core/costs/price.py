"""The bill: instance time by price, in exact decimals, and every amount attributed to whom it was paid for."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import maker
from jostle.core.costs.traffic import traffic_cost
from jostle.core.engine.code import Billed
from jostle.core.engine.compile import Crew
from jostle.core.engine.result import Result
from jostle.core.plan.tariff import MICROS, Tariff, paid_micros

_HOUR = Decimal(3600)


@dataclass(frozen=True)
class Bill:
    """What one spell, or the whole group, cost. `what` is machine, stopped machine, disk, address, load
    balancer, load balancer data or data out."""

    instance: int | None
    zone: str
    version: int
    overflow: bool
    what: str
    amount: Decimal


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
    tariff = crew.tariff
    standing = int(_micros(result.spell_seconds(Billed.STANDING)).sum()) * tariff.standing / MICROS / _HOUR
    return (
        bill(result.spell_seconds(Billed.RUNNING), tariff)
        + standing
        + group_cost(result.elapsed, crew)
        + sum(traffic_cost(result, crew).values())
    )


def bills(result: Result, crew: Crew) -> list[Bill]:
    """Every amount of a run, by instance and by what it was paid for."""
    rows, spells = result.instances, result.spells
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    tariff = crew.tariff
    found: dict[tuple[int, str], Decimal] = defaultdict(Decimal)
    micros = _micros(ends - spells["begin"])
    told_spells = zip(
        spells["instance"].tolist(), spells["kind"], micros.tolist(), billed_micros(micros, tariff).tolist(), strict=True
    )
    for number, kind, lasted, billed in told_spells:
        seconds = Decimal(lasted) / MICROS
        found[number, "disk"] += seconds * tariff.disk / _HOUR
        if kind == Billed.RUNNING:
            found[number, "machine"] += Decimal(billed) / MICROS * tariff.machine / _HOUR
            found[number, "address"] += seconds * tariff.address / _HOUR
        else:
            found[number, "stopped machine"] += seconds * tariff.stopped / _HOUR
    told = [
        Bill(n, crew.launch.zones[int(rows["zone"][n])], int(rows["version"][n]), bool(rows["overflow"][n]), what, amount)
        for (n, what), amount in found.items()
        if amount
    ]
    balancer = group_cost(result.elapsed, crew)
    own = {"load balancer": balancer, **traffic_cost(result, crew)}
    return told + [Bill(None, "", 0, False, what, amount) for what, amount in own.items() if amount]
