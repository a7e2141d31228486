"""What an hour of everything costs that a group pays for, and how the time of a machine is counted."""

from decimal import Decimal
from typing import NamedTuple

from jostle.core.plan.machine import Machine, Prices
from jostle.core.plan.template import Launch

MONTH_HOURS = 730
MICROS = 10**6
HOUR_MICROS = 3600 * MICROS
GIB = 2**30


class Tariff(NamedTuple):
    """Amounts an hour: of a running machine, its disk and its address, and of the machine once it is stopped. `hourly` says that
    machines are paid for by the started hour, `least_micros` what of their time is paid for at the least."""

    machine: Decimal
    disk: Decimal
    address: Decimal
    stopped: Decimal
    hourly: bool
    least_micros: int

    @property
    def running(self) -> Decimal:
        return self.machine + self.disk + self.address

    @property
    def standing(self) -> Decimal:
        return self.disk + self.stopped


def tariff_of(machine: Machine, prices: Prices, launch: Launch) -> Tariff:
    """The tariff of instances of a launch on a machine."""
    return Tariff(
        machine=machine.price_per_hour,
        disk=prices.disk_gib_month * Decimal(str(launch.disk_gib)) / MONTH_HOURS,
        address=prices.address_hour if launch.fields.public_address else Decimal(0),
        stopped=machine.price_per_hour if machine.billed_when_stopped else Decimal(0),
        hourly=machine.billed_by == "hour",
        least_micros=round(machine.least_billed * MICROS),
    )


class Traffic(NamedTuple):
    """One kind of it: so many bytes of each request or job, or second of a session, at a price for a GiB."""

    what: str
    each: float
    price: Decimal

    def moved(self, pieces: float) -> int:
        """Whole bytes of so many pieces."""
        return round(pieces * self.each)

    def cost(self, moved: int) -> Decimal:
        return moved * self.price / GIB
