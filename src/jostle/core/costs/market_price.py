"""What spot instances cost: their time by the price of each moment, in whole numbers and so without a rounding on the way."""

from decimal import Decimal

import numpy as np

from jostle.core.engine.market import MARKET_STEP, UNIT
from jostle.core.engine.mix import type_of
from jostle.core.engine.setup import Setup
from jostle.core.plan.tariff import HOUR_MICROS, MICROS

STEP_MICROS = round(MARKET_STEP * MICROS)


class MarketPrice:
    """The market of a setup as sums: what an instance of a type of machine in a zone costs from the beginning to a moment."""

    def __init__(self, setup: Setup) -> None:
        self._zones = setup.market.units.shape[1]
        self._units = [[int(unit) for unit in row] for of_type in setup.market.units for row in of_type]
        self._before = [np.concatenate([[0], np.cumsum(np.array(row, dtype=object))]).tolist() for row in self._units]

    def amount(self, kind: int, zone: int, begin: int, end: int) -> Decimal:
        """From one moment to another, in microseconds from the start, of an instance of a kind."""
        place = type_of(kind) * self._zones + zone
        return Decimal(self._until(place, end) - self._until(place, begin)) / (UNIT * HOUR_MICROS)

    def _until(self, place: int, micros: int) -> int:
        """In ten-thousandths of the currency, times microseconds, an hour."""
        step = min(micros // STEP_MICROS, len(self._units[place]) - 1)
        return int(self._before[place][step]) * STEP_MICROS + self._units[place][step] * (micros - step * STEP_MICROS)
