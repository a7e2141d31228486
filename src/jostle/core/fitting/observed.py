"""What was observed of a group, quantity by quantity, on one even grid of times."""

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.outside import Samples

# Arrivals are in 1/s, of the group; CPU and memory shares of one, the mean over instances; latency in s, the mean over requests;
# sessions those that are there at once; done in 1/s; waiting a number
Quantity = Literal["arrivals", "instances", "wanted", "cpu", "memory", "latency", "sessions", "done", "waiting"]
QUANTITIES: tuple[Quantity, ...] = get_args(Quantity)


@dataclass(frozen=True)
class Observed:
    """Values are valid for one step (s) from their time on, not a number where there was none. `first` is s since 1970."""

    first: float
    step: float
    values: dict[Quantity, NDArray[np.float64]]

    @property
    def rows(self) -> int:
        return len(next(iter(self.values.values())))

    @property
    def times(self) -> NDArray[np.float64]:
        """s since 1970."""
        return np.asarray(self.first + self.step * np.arange(self.rows), dtype=np.float64)

    def has(self, *wanted: Quantity) -> bool:
        return all(one in self.values for one in wanted)


def together(found: dict[Quantity, Samples]) -> Observed:
    """Series of one step on the grid that they share, from the first time of any to the last."""
    step = min(one.step for one in found.values())
    first = min(one.first.timestamp() for one in found.values())
    last = max(one.first.timestamp() + one.step * len(one.rates) for one in found.values())
    rows = max(1, round((last - first) / step))
    values: dict[Quantity, NDArray[np.float64]] = {}
    for name, one in found.items():
        place = np.floor((first + step * np.arange(rows) - one.first.timestamp()) / one.step + 1e-6).astype(np.int64)
        inside = (place >= 0) & (place < len(one.rates))
        values[name] = np.where(inside, np.asarray(one.rates)[np.clip(place, 0, len(one.rates) - 1)], np.nan)
    return Observed(first, step, values)
