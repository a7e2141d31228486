"""What spot instances cost: their time by the price of each moment, in whole numbers and so without a rounding on the way."""

from decimal import Decimal

import numpy as np

from jostle.core.engine.market import MARKET_STEP, UNIT
from jostle.core.engine.setup import Setup
from jostle.core.plan.tariff import HOUR_MICROS, MICROS

STEP_MICROS = round(MARKET_STEP * MICROS)


class MarketPrice:
    """The market of a setup as sums: what an instance in a zone costs from the beginning to a moment."""

    def __init__(self, setup: Setup) -> None:
        self._units = [[int(unit) for unit in row] for row in setup.market.units]
        self._before = [np.concatenate([[0], np.cumsum(np.array(row, dtype=object))]).tolist() for row in self._units]

    def amount(self, zone: int, begin: int, end: int) -> Decimal:
        """From one moment to another, in microseconds from the start."""
        return Decimal(self._until(zone, end) - self._until(zone, begin)) / (UNIT * HOUR_MICROS)

    def _until(self, zone: int, micros: int) -> int:
        """In ten-thousandths of the currency, times microseconds, an hour."""
        step = min(micros // STEP_MICROS, len(self._units[zone]) - 1)
        return int(self._before[zone][step]) * STEP_MICROS + self._units[zone][step] * (micros - step * STEP_MICROS)
