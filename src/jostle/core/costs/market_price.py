"""What spot instances cost: their time by the price of each moment, in whole numbers and so without a rounding on the way."""

from decimal import Decimal
from itertools import accumulate

from jostle.core.built.play import type_of
from jostle.core.engine.market import MARKET_STEP, UNIT
from jostle.core.engine.setup import Setup
from jostle.core.plan.tariff import HOUR_MICROS, MICROS

STEP_MICROS = round(MARKET_STEP * MICROS)


class MarketPrice:
    """The market of a setup as sums: what an instance of a type of machine in a zone costs from the beginning to a moment."""

    def __init__(self, setup: Setup) -> None:
        _, self._zones, steps = setup.market.units.shape
        self._units: list[list[int]] = setup.market.units.reshape(-1, steps).tolist()
        # Of the largest prices the sums have no room in 64 bits.
        self._before = [list(accumulate(row, initial=0)) for row in self._units]

    def owed(self, kind: int, zone: int, begin: int, end: int) -> int:
        """From one moment to another, in microseconds from the start, by an instance of a kind: in ten-thousandths of the
        currency an hour, times microseconds."""
        place = type_of(kind) * self._zones + zone
        return self._until(place, end) - self._until(place, begin)

    def amount(self, kind: int, zone: int, begin: int, end: int) -> Decimal:
        """The same in the currency."""
        return at_market(self.owed(kind, zone, begin, end))

    def _until(self, place: int, micros: int) -> int:
        step = min(micros // STEP_MICROS, len(self._units[place]) - 1)
        return self._before[place][step] * STEP_MICROS + self._units[place][step] * (micros - step * STEP_MICROS)


def at_market(owed: int) -> Decimal:
    """The amount that is owed; see `MarketPrice.owed`."""
    return Decimal(owed) / (UNIT * HOUR_MICROS)
