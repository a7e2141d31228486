"""A demand's layers, laid over one another on a clock."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import maker
from jostle.core.demand.clock import DAY, Clock, offsets
from jostle.core.draw import STREAM_NOISE, normal
from jostle.core.plan.demand import (
    BASES,
    WEEKDAYS,
    Brought,
    Bursts,
    Daily,
    Demand,
    Growth,
    Layer,
    Level,
    LoadTest,
    Noise,
    Scale,
    Surge,
    Weekdays,
)
from jostle.core.plan.outside import Samples

Series = NDArray[np.float64]
WEEK = 7.0 * DAY


def demand_series(demand: Demand, clock: Clock, seed: int) -> Series:
    """Arrivals per second in each tick, shape (ticks,): the bases shaped, and what load tests send besides.

    Raises ValueError where a brought layer still names a file that nobody has read.
    """
    base = np.zeros(clock.ticks)
    shape = np.ones(clock.ticks)
    besides = np.zeros(clock.ticks)
    for number, layer in enumerate(demand.layers):
        if layer.muted:
            continue
        one = layer_series(layer, number, clock, seed)
        if isinstance(layer, BASES):
            base += one
        elif isinstance(layer, LoadTest):
            besides += one
        else:
            shape *= one
    return np.asarray(base * shape + besides)


def layer_series(layer: Layer, number: int, clock: Clock, seed: int) -> Series:
    """One layer by itself in each tick: arrivals per second of a base or a load test, a factor of any other.

    `number` is its place in the demand, by which noise is drawn.
    """
    match layer:
        case Level():
            return np.full(clock.ticks, layer.rate)
        case Brought():
            return layer.scale * on_clock(laid(layer, clock), clock)
        case Bursts():
            return bursts(layer, clock)
        case LoadTest():
            since = clock.epochs - clock.epoch_of(layer.at)
            return np.asarray(layer.clients * layer.each * strength(since, layer.ramp, layer.hold, 0.0))
        case Daily():
            return daily(layer, clock)
        case Weekdays():
            return np.array([getattr(layer, day) for day in WEEKDAYS])[clock.weekday]
        case Growth():
            return np.asarray((1.0 + layer.weekly) ** ((clock.epochs - clock.first) / WEEK))
        case Scale():
            return np.full(clock.ticks, layer.factor)
        case Surge():
            return surge(layer, clock)
        case Noise():
            first = round(clock.first // layer.period)
            return _noise(clock.ticks, clock.tick, layer.period, layer.spread, seed, STREAM_NOISE + 16 * number, first)


def laid(layer: Brought, clock: Clock) -> Samples:
    """A brought series where and as long as it is laid. Raises ValueError where nobody has read its file."""
    if layer.samples is None:
        raise ValueError(f"the series of {layer.file} has not been read")
    first = layer.samples.first if layer.at is None else clock.at(clock.epoch_of(layer.at))
    return layer.samples.model_copy(update={"first": first, "step": layer.samples.step * layer.stretch})


def daily(layer: Daily, clock: Clock) -> Series:
    """Factor of each tick: straight lines between the points, over midnight too."""
    times = [seconds_of_day(p.at) for p in layer.points]
    return np.interp(clock.time_of_day, times, [p.factor for p in layer.points], period=DAY)


def bursts(layer: Bursts, clock: Clock) -> Series:
    """Arrivals per second of each tick: each burst is spread evenly over its length, from its time on the wall clock."""
    rate = np.zeros(clock.ticks)
    for at in layer.at:
        into = (clock.time_of_day - seconds_of_day(at)) % DAY
        part = np.clip(np.minimum(into + clock.tick, layer.over) - into, 0.0, clock.tick)
        rate += layer.amount / layer.over * part / clock.tick
    return rate


def surge(layer: Surge, clock: Clock) -> Series:
    """Factor of each tick: from 1 up over `ramp`, `factor` for `hold`, back to 1 over `decay`."""
    since = clock.epochs - clock.epoch_of(layer.at)
    return np.asarray(1.0 + (layer.factor - 1.0) * strength(since, layer.ramp, layer.hold, layer.decay))


def strength(since: Series, ramp: float, hold: float, decay: float) -> Series:
    """0 before its beginning, rising to 1 over `ramp`, 1 for `hold`, falling to 0 over `decay`; `since` is seconds from it."""
    ends = np.cumsum([0.0, ramp, hold, decay])
    rising = since / ramp if ramp else np.ones(len(since))
    falling = (ends[3] - since) / decay if decay else np.zeros(len(since))
    return np.select(
        [since < 0, since < ends[1], since < ends[2], since < ends[3]],
        [np.zeros(len(since)), rising, np.ones(len(since)), falling],
    )


def seconds_of_day(at: str) -> int:
    """Seconds from midnight to a time of day such as 06:30."""
    return sum(int(part) * unit for part, unit in zip(at.split(":"), (3600, 60, 1), strict=False))


@maker
def _noise(ticks: int, tick: float, period: float, spread: float, seed: int, stream: int, first: int) -> np.ndarray:
    """Factor of each tick: one draw for each period, mean 1, never below zero. The period's number counts from 1970."""
    factors = np.empty(ticks)
    last = -1
    value = 1.0
    for k in range(ticks):
        index = int(k * tick / period)
        if index != last:
            last = index
            value = max(0.0, 1.0 + spread * normal(seed, stream, first + index))
        factors[k] = value
    return factors


def on_clock(samples: Samples, clock: Clock) -> Series:
    """Rate of each tick from brought samples, the mean over a tick that spans several.

    Beyond its ends the series repeats on the wall clock: by whole weeks if it is at least a week long, else by whole
    days if at least a day, else by its own length.
    """
    rates = np.asarray(samples.rates)
    first, length = samples.first.timestamp(), samples.step * len(rates)
    unit = next((span for span in (7.0 * DAY, float(DAY)) if length + samples.step / 2 >= span), length)
    repeat = unit * ((length + samples.step / 2) // unit)
    epochs = clock.epochs
    turns = np.floor((epochs - first) / repeat)
    turns[(epochs >= first) & (epochs < first + length)] = 0
    source = epochs - turns * repeat
    if repeat >= DAY and np.any(turns):
        order = np.argsort(source, kind="stable")
        ahead = np.empty_like(source)
        ahead[order] = offsets(source[order], clock.zone)
        source = np.where(turns == 0, source, source + (clock.wall - epochs) - ahead)
    cumulative = np.concatenate([[0.0], np.cumsum(rates * samples.step)])
    grid = samples.step * np.arange(len(rates) + 1)
    begin = np.clip(source - first, 0, length - min(samples.step, length))
    if clock.tick <= samples.step:
        return rates[np.minimum((begin / samples.step + 1e-9).astype(np.int64), len(rates) - 1)]
    end = np.minimum(begin + clock.tick, length)
    return np.asarray((np.interp(end, grid, cumulative) - np.interp(begin, grid, cumulative)) / (end - begin))
