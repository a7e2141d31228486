"""Series measured elsewhere and brought as files."""

from datetime import datetime
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from jostle.core.plan.clock import DAY, Clock, offsets
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration

# Three weeks of seconds, or nearly four years of minutes
MOST_SAMPLES = 2_000_000


class Samples(Model):
    """A brought series on an even grid. `rates` (1/s for a demand) are each valid for one step from its time on."""

    first: datetime
    step: Duration = Field(gt=0)
    rates: list[Annotated[float, Field(ge=0, le=1e12)]] = Field(min_length=2, max_length=MOST_SAMPLES)

    @field_validator("first")
    @classmethod
    def _aware(cls, first: datetime) -> datetime:
        if first.tzinfo is None:
            raise wrong("the first time needs an offset, such as 2025-07-07T00:00+01:00")
        return first

    def on(self, clock: Clock) -> NDArray[np.float64]:
        """Rate of each tick of a clock, the mean over a tick that spans several samples; shape (ticks,).

        Beyond its ends the series repeats on the wall clock: by whole weeks if it is at least a week long, else by whole
        days if at least a day, else by its own length.
        """
        rates = np.asarray(self.rates)
        first, length = self.first.timestamp(), self.step * len(rates)
        unit = next((span for span in (7.0 * DAY, float(DAY)) if length + self.step / 2 >= span), length)
        repeat = unit * ((length + self.step / 2) // unit)
        epochs = clock.epochs
        turns = np.floor((epochs - first) / repeat)
        turns[(epochs >= first) & (epochs < first + length)] = 0
        source = epochs - turns * repeat
        if repeat >= DAY and np.any(turns):
            order = np.argsort(source, kind="stable")
            ahead = np.empty_like(source)
            ahead[order] = offsets(source[order], clock.zone)
            source = np.where(turns == 0, source, source + (clock.wall - epochs) - ahead)
        cumulative = np.concatenate([[0.0], np.cumsum(rates * self.step)])
        grid = self.step * np.arange(len(rates) + 1)
        begin = np.clip(source - first, 0, length - min(self.step, length))
        if clock.tick <= self.step:
            return rates[np.minimum((begin / self.step + 1e-9).astype(np.int64), len(rates) - 1)]
        end = np.minimum(begin + clock.tick, length)
        return np.asarray((np.interp(end, grid, cumulative) - np.interp(begin, grid, cumulative)) / (end - begin))


class Outside(Model):
    """A metric from outside that policies may watch: named by `file` in a plan file, held as `samples` once read."""

    file: str = Field(min_length=1, max_length=255)
    gaps: Literal["line", "hold", "zero"] = "hold"
    samples: Samples | None = Field(default=None, description="The series itself, in place of the file")
