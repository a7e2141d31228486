"""A demand composed from a brought series: its level, the shape of its day, weekdays, growth, unevenness, and the rushes that
stand out, each a layer that can be edited.

The rate is taken as a product of these, each found by medians of what is left when the others are divided out, so that what is
wrong in a few hours moves none of them.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.demand.series import demand_series
from jostle.core.fitting.estimate import deviation
from jostle.core.plan.clock import DAY, Clock, offsets
from jostle.core.plan.demand import Demand
from jostle.core.plan.layer import WEEK, WEEKDAYS, Daily, DailyPoint, Growth, Layer, Level, Noise, Surge, Weekdays
from jostle.core.plan.outside import Samples
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_share

# Parts of the day; a point of its shape that lies this near to the line between its neighbours is left out
SLOTS, NEAR = 48, 0.03
# Weeks from which growth is told apart from chance, and a share a week below which there is none
WEEKS_OF_GROWTH, LEAST_GROWTH = 3, 0.005
# So many times what was expected stands out; so many rushes are kept
STANDS_OUT, MOST_RUSHES = 1.35, 6
# s: rows around one by which it is judged, and a step from which on they are three
AROUND, COARSE = 2100.0, 900.0
# So many standard deviations are beyond chance
SIGMAS = 4.0
ROUNDS = 6


@dataclass(frozen=True)
class Parts:
    """What a series is taken apart into: `level` (1/s) is that of its middle; `growth` is by the week; `rushes` are first and
    after the last row of each."""

    level: float
    day: NDArray[np.float64]
    weekdays: NDArray[np.float64]
    growth: float
    spread: float
    rushes: list[tuple[int, int]]


@dataclass(frozen=True)
class Trial:
    """A week held out: how far off the composed demand is in it on average, as a share of its mean, and how far off the week
    before it would have been."""

    composed: float
    week_before: float

    @property
    def text(self) -> str:
        better = "better" if self.composed < self.week_before else "no better"
        return (
            f"the last week held out: off by {say_share(self.composed)} on average, {better} than the week before, "
            f"off by {say_share(self.week_before)}"
        )


@dataclass(frozen=True)
class Composed:
    """`trial` is None where there are fewer than three weeks to hold one out of."""

    demand: Demand
    notes: list[str]
    trial: Trial | None

    @property
    def said(self) -> list[str]:
        """What is to be known of it, in words."""
        untried = "less than three weeks: none could be held out to try it on"
        return [*self.notes, untried if self.trial is None else self.trial.text]


def composed(samples: Samples, zone: ZoneInfo, start: datetime) -> Composed:
    """A demand like a series, as of its last week, for a plan that begins at `start`. Raises PlanError where the series is too
    short."""
    rates = np.asarray(samples.rates)
    if samples.step * len(rates) < DAY - samples.step:
        said = "is shorter than a day; a day's shape cannot be told from it"
        raise PlanError([Problem(("file",), f"{samples.step * len(rates) / 3600:.3g} h", said)])
    if not rates.any():
        raise PlanError([Problem(("file",), 0.0, "is zero throughout; there is nothing to compose from")])
    parts = parts_of(samples, zone)
    weeks = samples.step * len(rates) / WEEK
    notes = [] if weeks >= 2 else ["less than two weeks: a weekday is told from one day at the most"]
    if weeks < WEEKS_OF_GROWTH:
        notes.append("too short to tell growth")
    demand = Demand(layers=_layers(parts, samples, zone, start), note="Composed from what was observed.")
    if parts.rushes:
        notes.append(f"{len(parts.rushes)} {'rush' if len(parts.rushes) == 1 else 'rushes'} stood out")
    return Composed(demand, notes, _trial(samples, zone) if weeks >= 3 else None)


def parts_of(samples: Samples, zone: ZoneInfo) -> Parts:
    """Take a series apart."""
    rates, step = np.asarray(samples.rates), samples.step
    _, wall, weeks = _times(samples, zone)
    slot, weekday = _slot(wall), _weekday(wall)
    parts = Parts(float(np.median(rates[rates > 0])), np.ones(SLOTS), np.ones(7), 0.0, 0.0, [])
    usual = np.ones(len(rates), np.bool_)
    for _ in range(ROUNDS):
        day = _medians(rates / (parts.weekdays[weekday] * _grown(parts.growth, weeks)), slot, SLOTS, usual)
        level = float(day.mean()) or parts.level
        day = day / level
        week = _medians(_ratio(rates, level * _at(day, wall) * _grown(parts.growth, weeks)), weekday, 7, usual)
        known = np.bincount(weekday[usual], minlength=7) > 0
        mean = float(week[known].mean()) if known.any() else 1.0
        week = np.where(known, week / (mean or 1.0), 1.0)
        expected = _expected(level, day, week, wall)
        growth = _growth(_ratio(rates, expected), weeks, usual)
        expected = expected * _grown(growth, weeks)
        left = _ratio(rates, expected)
        off = deviation(left[usual])
        rushes = _rushes(left, off, step)
        usual = np.ones(len(rates), np.bool_)
        for low, high in rushes:
            usual[low:high] = False
        # Of what comes in a step some is chance by itself, however even the demand.
        by_chance = float(np.mean(1.0 / np.maximum(expected[usual] * step, 1e-9))) if usual.any() else 0.0
        spread = float(np.sqrt(max(0.0, off**2 - min(by_chance, off**2))))
        parts = Parts(level * (mean or 1.0), day, week, growth, spread, rushes)
    return parts


def _times(samples: Samples, zone: ZoneInfo) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """When each row is: s since 1970, the same on the wall clock, and in weeks from the middle of all."""
    epochs = np.asarray(samples.first.timestamp() + samples.step * np.arange(len(samples.rates)), dtype=np.float64)
    return epochs, epochs + offsets(epochs, zone), (epochs - (epochs[0] + epochs[-1]) / 2) / WEEK


def _weekday(wall: NDArray[np.float64]) -> NDArray[np.int64]:
    """0 for Monday to 6 for Sunday."""
    return np.asarray(((wall // DAY).astype(np.int64) + 3) % 7)


def _expected(
    level: float, day: NDArray[np.float64], weekdays: NDArray[np.float64], wall: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Rates without growth."""
    return np.asarray(level * _at(day, wall) * weekdays[_weekday(wall)])


def _slot(wall: NDArray[np.float64]) -> NDArray[np.int64]:
    return np.asarray((wall % DAY) * SLOTS / DAY, dtype=np.int64)


def _at(day: NDArray[np.float64], wall: NDArray[np.float64]) -> NDArray[np.float64]:
    """A day's shape, straight between the middles of its parts."""
    middles = (np.arange(SLOTS) + 0.5) * DAY / SLOTS
    return np.interp(wall % DAY, middles, day, period=DAY)


def _grown(growth: float, weeks: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray((1.0 + growth) ** weeks)


def _ratio(rates: NDArray[np.float64], expected: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.divide(rates, expected, out=np.ones_like(rates), where=expected > 1e-12)


def _medians(values: NDArray[np.float64], group: NDArray[np.int64], groups: int, usual: NDArray[np.bool_]) -> NDArray[np.float64]:
    """The median of each group; of all where a group has none."""
    whole = float(np.median(values[usual])) if usual.any() else float(np.median(values))
    found = np.full(groups, whole)
    for one in range(groups):
        mine = values[(group == one) & usual]
        if len(mine):
            found[one] = np.median(mine)
    return found


def _growth(left: NDArray[np.float64], weeks: NDArray[np.float64], usual: NDArray[np.bool_]) -> float:
    """Growth by the week, from medians of days (the slope of Theil and Sen); none where chance would do as well."""
    # Only here: it takes 40 MiB, which a service that composes nothing does without.
    from scipy.stats import theilslopes

    if weeks[-1] - weeks[0] < WEEKS_OF_GROWTH - 0.01:
        return 0.0
    day = np.floor((weeks - weeks[0]) * 7 + 1e-9).astype(np.int64)
    days = np.unique(day[usual & (left > 0)])
    if len(days) < 14:
        return 0.0
    logs = np.array([np.log(np.median(left[(day == one) & usual & (left > 0)])) for one in days])
    slope, _, low, high = theilslopes(logs, days / 7.0, 0.99)
    if low <= 0 <= high or abs(slope) < LEAST_GROWTH:
        return 0.0
    return float(np.exp(slope) - 1.0)


def _rushes(left: NDArray[np.float64], off: float, step: float) -> list[tuple[int, int]]:
    """Runs of rows so much above what was expected that it is no chance, the longest and highest kept, in the order of time."""
    from scipy.ndimage import median_filter

    # Single rows that are far off are no rush: the median of some around each.
    around = 3 if step >= COARSE else max(5, 2 * round(AROUND / step / 2) + 1)
    smooth = median_filter(left, size=around, mode="nearest")
    high = smooth > max(STANDS_OUT, 1.0 + SIGMAS * off)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], high.astype(np.int8), [0]]))).tolist()
    lasting = list(zip(edges[::2], edges[1::2], strict=True))
    weight = {(low, end): float((smooth[low:end] - 1.0).sum()) for low, end in lasting}
    return sorted(sorted(lasting, key=lambda run: -weight[run])[:MOST_RUSHES])


def _layers(parts: Parts, samples: Samples, zone: ZoneInfo, start: datetime) -> list[Layer]:
    epochs = samples.first.timestamp() + samples.step * np.arange(len(samples.rates) + 1)
    # As of the last week: its middle grown on to the plan's first instant would be a forecast, and is left to the growth layer.
    weeks = (epochs[-1] - (epochs[0] + epochs[-1]) / 2) / WEEK - min(0.5, (epochs[-1] - epochs[0]) / WEEK / 2)
    level = parts.level * (1.0 + parts.growth) ** weeks
    found: list[Layer] = [Level(kind="level", rate=_short(level)), Daily(kind="daily", points=_points(parts.day))]
    if (np.abs(parts.weekdays - 1.0) > 0.01).any():
        factors = {day: _short(float(factor)) for day, factor in zip(WEEKDAYS, parts.weekdays, strict=True)}
        found.append(Weekdays(kind="weekdays", **factors))
    if parts.growth:
        found.append(Growth(kind="growth", weekly=round(parts.growth, 4)))
    if parts.spread > 0.005:
        found.append(Noise(kind="noise", spread=round(min(1.0, parts.spread), 3), period=max(1.0, min(DAY, samples.step))))
    return found + _surges(parts, samples, zone, start)


def _short(number: float) -> float:
    return float(f"{number:.4g}")


def _points(day: NDArray[np.float64]) -> list[DailyPoint]:
    """The shape's points, without those that the line between their neighbours has too."""
    kept = list(range(SLOTS))
    top = float(day.max()) or 1.0
    while len(kept) > 2:
        bends = []
        for place, one in enumerate(kept):
            before, after = kept[place - 1], kept[(place + 1) % len(kept)]
            span, into = (after - before) % SLOTS or SLOTS, (one - before) % SLOTS
            line = day[before] + (day[after] - day[before]) * into / span
            bends.append(abs(float(day[one]) - float(line)))
        least = int(np.argmin(bends))
        if bends[least] > NEAR * top:
            break
        del kept[least]
    minutes = [round((one + 0.5) * 1440 / SLOTS) for one in kept]
    times = [f"{at // 60:02d}:{at % 60:02d}" for at in minutes]
    return [DailyPoint(at=at, factor=_short(float(day[one]))) for at, one in zip(times, kept, strict=True)]


def _surges(parts: Parts, samples: Samples, zone: ZoneInfo, start: datetime) -> list[Layer]:
    """The rushes, moved by whole weeks into the first of the plan; muted but for those of the last week that was observed."""
    rates, step = np.asarray(samples.rates), samples.step
    epochs, wall, weeks = _times(samples, zone)
    left = _ratio(rates, _expected(parts.level, parts.day, parts.weekdays, wall) * _grown(parts.growth, weeks))
    found: list[Layer] = []
    for low, high in parts.rushes:
        run = left[low:high]
        high_up = run >= 1.0 + 0.6 * (float(np.quantile(run, 0.9)) - 1.0)
        factor = float(np.median(run[high_up]))
        full = np.flatnonzero(run >= 1.0 + 0.85 * (factor - 1.0))
        ramp, hold = full[0] * step, (full[-1] - full[0] + 1) * step
        begun = datetime.fromtimestamp(float(epochs[low]), zone).replace(tzinfo=None)
        at = _moved(begun, start.astimezone(zone).replace(tzinfo=None))
        surge = Surge(
            kind="surge",
            at=at.isoformat(timespec="minutes"),
            factor=_short(factor),
            ramp=ramp,
            hold=hold,
            decay=max(0.0, (high - low) * step - ramp - hold),
            muted=bool(epochs[low] < epochs[-1] - WEEK),
        )
        found.append(surge)
    return found


def _moved(at: datetime, start: datetime) -> datetime:
    """The same time of the same weekday in the week that begins at `start`."""
    weeks = ((start - at) + timedelta(days=7)) // timedelta(days=7)
    moved = at + timedelta(days=7) * weeks
    return moved - timedelta(days=7) if moved - start >= timedelta(days=7) else moved


def _trial(samples: Samples, zone: ZoneInfo) -> Trial:
    """Hold the last week out, compose from what lies before it, and lay that over the week."""
    rates, step = np.asarray(samples.rates), samples.step
    week = round(WEEK / step)
    before = samples.model_copy(update={"rates": samples.rates[:-week]})
    begin = datetime.fromtimestamp(samples.first.timestamp() + step * (len(rates) - week), zone)
    told = _layers(parts_of(before, zone), before, zone, begin)
    layers = [layer for layer in told if not isinstance(layer, Noise | Surge)]
    clock = Clock(begin.timestamp(), step, week, zone)
    # A level as of the middle of the week before has grown by one week until the middle of this one.
    grown = next((layer.weekly for layer in layers if isinstance(layer, Growth)), 0.0)
    foretold = demand_series(Demand(layers=[one for one in layers if not isinstance(one, Growth)]), clock, 1) * (1.0 + grown)
    came, earlier = rates[-week:], rates[-2 * week : -week]
    mean = float(came.mean()) or 1.0
    return Trial(float(np.abs(foretold - came).mean()) / mean, float(np.abs(earlier - came).mean()) / mean)
