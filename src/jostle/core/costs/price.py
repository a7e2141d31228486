"""The bill: instance time by price, in exact decimals, and every amount attributed to whom it was paid for."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.engine.code import Billed
from jostle.core.engine.compile import MONTH_HOURS, Crew
from jostle.core.engine.result import Result

_MICRO = Decimal(1_000_000)
_HOUR = Decimal(3600)
_HOUR_MICROS = 3600 * 10**6


@dataclass(frozen=True)
class Bill:
    """What one spell, or the whole group, cost; `what` is machine, disk, address or load balancer."""

    instance: int | None
    zone: str
    version: int
    overflow: bool
    what: str
    amount: Decimal


def seconds_exactly(seconds: float) -> Decimal:
    """Seconds to a millionth."""
    return Decimal(round(float(seconds) * 1e6)) / _MICRO


def _micros(seconds: NDArray[np.float64]) -> NDArray[np.int64]:
    return np.asarray(np.round(seconds * 1e6), dtype=np.int64)


def billed_micros(micros: NDArray[np.int64], crew: Crew) -> NDArray[np.int64]:
    """Microseconds of running machines that are paid for: up to the started hour, or to the least that is billed."""
    machine = crew.machine_type
    if machine.billed_by == "hour":
        return np.asarray(np.maximum(-(-micros // _HOUR_MICROS), 1) * _HOUR_MICROS)
    return np.asarray(np.maximum(micros, round(machine.least_billed * 1e6)))


def hourly_beside(crew: Crew) -> dict[str, Decimal]:
    """What a running instance costs an hour besides its machine."""
    disk = crew.prices.disk_gib_month * Decimal(str(crew.launch.disk_gib)) / MONTH_HOURS
    address = crew.prices.address_hour if crew.launch.fields.public_address else Decimal(0)
    return {"disk": disk, "address": address}


def bill(seconds: NDArray[np.float64] | Sequence[float], crew: Crew) -> Decimal:
    """What running stays of these lengths cost, with their disks and addresses."""
    stays = _micros(np.asarray(seconds, dtype=np.float64))
    machine = int(billed_micros(stays, crew).sum()) * crew.machine_type.price_per_hour
    beside = int(stays.sum()) * sum(hourly_beside(crew).values(), Decimal(0))
    return (machine + beside) / _MICRO / _HOUR


def group_cost(seconds: float, crew: Crew) -> Decimal:
    """What the group pays for itself over a time, however many instances it has."""
    return seconds_exactly(seconds) * crew.prices.load_balancer_hour / _HOUR if crew.group.load_balancer else Decimal(0)


def total(result: Result, crew: Crew) -> Decimal:
    """What a run cost in all: the sum of its bills, from whole microseconds and so without a rounding on the way."""
    machine, disk = crew.machine_type, hourly_beside(crew)["disk"]
    standing = int(_micros(result.spell_seconds(Billed.STANDING)).sum())
    stopped = standing * (disk + (machine.price_per_hour if machine.billed_when_stopped else 0))
    return bill(result.spell_seconds(Billed.RUNNING), crew) + stopped / _MICRO / _HOUR + group_cost(result.elapsed, crew)


def bills(result: Result, crew: Crew) -> list[Bill]:
    """Every amount of a run, by instance and by what it was paid for."""
    rows, spells = result.instances, result.spells
    ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
    machine, beside = crew.machine_type, hourly_beside(crew)
    found: dict[tuple[int, str], Decimal] = defaultdict(Decimal)
    micros = _micros(ends - spells["begin"])
    told_spells = zip(
        spells["instance"].tolist(), spells["kind"], micros.tolist(), billed_micros(micros, crew).tolist(), strict=True
    )
    for number, kind, lasted, billed in told_spells:
        seconds = lasted / _MICRO
        found[number, "disk"] += seconds * beside["disk"] / _HOUR
        if kind == Billed.RUNNING:
            found[number, "machine"] += billed / _MICRO * machine.price_per_hour / _HOUR
            found[number, "address"] += seconds * beside["address"] / _HOUR
        elif machine.billed_when_stopped:
            found[number, "stopped machine"] += seconds * machine.price_per_hour / _HOUR
    told = [
        Bill(n, crew.launch.zones[int(rows["zone"][n])], int(rows["version"][n]), bool(rows["overflow"][n]), what, amount)
        for (n, what), amount in found.items()
        if amount
    ]
    balancer = group_cost(result.elapsed, crew)
    return told + ([Bill(None, "", 0, False, "load balancer", balancer)] if balancer else [])
