"""Prices of the spot market as they really were, brought as a file."""

from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from jostle.core.plan.clock import DAY
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Name

MOST_PRICES = 500_000
# A price holds no longer than this until the next is told
LONGEST_HELD = DAY
# What lasts so much of a week or a day is taken for one
NEARLY = 0.98


class PriceCourse(Model):
    """What an hour of a machine cost in a zone: each price from its time (s since 1970) until the next."""

    machine: Name
    zone: Name
    times: list[Annotated[float, Field(ge=0, le=1e11)]] = Field(min_length=1, max_length=MOST_PRICES)
    prices: list[Annotated[float, Field(gt=0, le=1e6)]] = Field(min_length=1, max_length=MOST_PRICES)

    def on(self, first: float, step: float, steps: int) -> NDArray[np.float64]:
        """The price at the beginning of each of so many steps (s), from `first` on (s since 1970); shape (steps,).

        Beyond its ends the course repeats by whole weeks if it is at least a week long, else by whole days if at least a day;
        else what it begins or ends with holds on.
        """
        times, prices = np.asarray(self.times), np.asarray(self.prices)
        epochs = first + step * np.arange(steps)
        # The last price holds for as long as one does on average
        length = (times[-1] - times[0]) * len(times) / max(1, len(times) - 1)
        unit = next((span for span in (7.0 * DAY, float(DAY)) if length >= NEARLY * span), None)
        if unit is not None:
            repeat = unit * max(1, length // unit)
            turns = np.floor((epochs - times[0]) / repeat)
            turns[(epochs >= times[0]) & (epochs < times[0] + length)] = 0
            epochs = epochs - turns * repeat
        return prices[np.clip(np.searchsorted(times, epochs, side="right") - 1, 0, len(prices) - 1)]


class SpotPrices(Model):
    """Named by `file` in a plan file, held as `courses` once read. A machine of the file is sold only where that has prices."""

    file: str = Field(min_length=1, max_length=255)
    courses: list[PriceCourse] | None = Field(default=None, max_length=5000, description="The prices, in place of the file")

    def of(self, machine: str) -> dict[str, PriceCourse]:
        """The courses of a machine, by zone."""
        return {one.zone: one for one in self.courses or () if one.machine == machine}
