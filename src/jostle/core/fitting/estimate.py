"""An estimate with its interval: what is far off has little say in it, and rows that hang together are drawn together."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.quantity import say_number, say_share
from jostle.core.plan.word import say_count

# How often the rows are drawn anew, how many seconds of them hang together, and the fewest blocks of these
DRAWS, BLOCK, BLOCKS = 200, 900.0, 12
# Ends of an interval of 90 %
ENDS = (0.05, 0.95)
# A residual of so many standard deviations is far off
FAR_OFF = 4.0
# Of a normal distribution, the standard deviation over the median of absolute deviations
PER_MAD = 1.4826
# Standard deviations beyond which a point has no say, for 95 % of the precision of least squares where there are none
BIWEIGHT = 4.685
FEWEST = 24

Rows = NDArray[np.float64]


@dataclass(frozen=True)
class Scatter:
    """The rows that an estimate was made of, as points of what is told across and up; and the ends of the line through them."""

    across: str
    up: str
    x: Rows
    y: Rows
    ends: tuple[tuple[float, float], tuple[float, float]]

    @classmethod
    def along(cls, across: str, up: str, x: Rows, y: Rows, begin: float, slope: float) -> "Scatter":
        """With a line that begins so high where nothing is across."""
        least, most = float(x.min()), float(x.max())
        return cls(across, up, x, y, ((least, begin + slope * least), (most, begin + slope * most)))


@dataclass(frozen=True)
class Estimate:
    """`value` lies between `low` and `high` in nine of ten cases; `path` is the setting of a group that it is for, empty where
    there is none. Of `rows` that were used, `far_off` were far from what the estimate makes of them."""

    name: str
    path: str
    value: float
    low: float
    high: float
    rows: int
    far_off: int = 0
    left_out: str = ""
    scatter: Scatter | None = None

    @property
    def beside(self) -> str:
        """What it was made from."""
        told = [f"from {say_count(self.rows, 'row')}"] + ([f"{self.far_off} of them far off"] if self.far_off else [])
        left = [f"left out: {self.left_out}" if self.path.startswith("work.") else self.left_out] if self.left_out else []
        return ", ".join(told + left)

    def say(self, value: float) -> str:
        """A value of it, with its unit."""
        if self.path == "work.idle_cpu":
            return say_share(value)
        if self.name.endswith("at least"):
            return say_number(value)
        shown, unit = (value, "s") if value >= 1 else (1000 * value, "ms")
        return f"{say_number(float(f'{shown:.3g}'))} {unit}"


class TooFewError(ValueError):
    """There are too few rows to tell something; the message says what would do."""


def line(x: Rows, y: Rows, rounds: int = 12) -> Rows:
    """Intercept and slope of a line through points, of which those far off have no say: least squares again and again, each point
    weighed by how far it was off before (first softly, then by the biweight of Beaton and Tukey, Technometrics 16, 1974)."""
    at, say = np.zeros(2), np.ones_like(x)
    for turn in range(rounds):
        whole = say.sum()
        middle_x, middle_y = (say * x).sum() / whole, (say * y).sum() / whole
        spread = (say * (x - middle_x) ** 2).sum()
        slope = (say * (x - middle_x) * (y - middle_y)).sum() / spread if spread > 0 else 0.0
        at = np.array([middle_y - slope * middle_x, slope])
        left = y - at[0] - at[1] * x
        off = PER_MAD * float(np.median(np.abs(left))) or 1e-9
        if turn < rounds // 2:
            say = 1.0 / np.sqrt(1.0 + (left / off) ** 2)
        else:
            say = np.maximum(0.0, 1.0 - (left / (BIWEIGHT * off)) ** 2) ** 2
    return at


def drawn_again(rows: int, step: float, ask: Callable[[NDArray[np.int64]], Rows], seed: int = 1) -> Rows:
    """What is asked of rows drawn anew again and again, in blocks that hang together; shape (draws, answers)."""
    block = max(1, min(rows // BLOCKS, round(BLOCK / step)))
    chance, number = np.random.default_rng(seed), -(-rows // block)
    found = []
    for _ in range(DRAWS):
        begins = chance.integers(0, rows - block + 1, number)
        found.append(ask((begins[:, None] + np.arange(block)).ravel()[:rows]))
    return np.array(found)


def interval(drawn: Rows, value: float, rows: int, told: int = 1) -> tuple[float, float]:
    """Ends between which nine of ten lie. Few blocks that `told` numbers were taken from differ more than they show."""
    blocks = min(BLOCKS, rows)
    wider = (blocks / (blocks - 1.0 - told)) ** 0.5
    low, high = np.quantile(drawn, ENDS)
    return float(value - wider * (value - low)), float(value + wider * (high - value))


def deviation(values: Rows) -> float:
    """The standard deviation of values, of which some may be far off: from the median of absolute deviations."""
    return PER_MAD * float(np.median(np.abs(values - np.median(values))))


def far_from(left: Rows) -> NDArray[np.bool_]:
    """Which residuals are far off."""
    return np.asarray(np.abs(left) > FAR_OFF * max(deviation(left), 1e-12))


def enough(rows: int, what: str, fewest: int = FEWEST) -> None:
    """Raises TooFewError."""
    if rows < fewest:
        raise TooFewError(f"{rows} rows tell too little of {what}; bring {fewest} at the least")
