"""A demand's layers, laid over one another on a clock."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import maker
from jostle.core.demand.clock import DAY, Clock, offsets
from jostle.core.draw import STREAM_NOISE, normal
from jostle.core.plan.demand import WEEKDAYS, Brought, Daily, Demand, Level, Noise, Samples, Surge, Weekdays

Series = NDArray[np.float64]


def demand_series(demand: Demand, clock: Clock, seed: int) -> Series:
    """Rate of each tick in requests per second, shape (ticks,).

    Raises ValueError where a brought layer still names a file that nobody has read.
    """
    base = np.zeros(clock.ticks)
    shape = np.ones(clock.ticks)
    for number, layer in enumerate(demand.layers):
        match layer:
            case Level():
                base += layer.rate
            case Brought():
                if layer.samples is None:
                    raise ValueError(f"the series of {layer.file} has not been read")
                base += layer.scale * on_clock(layer.samples, clock)
            case Daily():
                shape *= daily(layer, clock)
            case Weekdays():
                shape *= np.array([getattr(layer, day) for day in WEEKDAYS])[clock.weekday]
            case Surge():
                shape *= surge(layer, clock)
            case Noise():
                first = round(clock.first // layer.period)
                shape *= _noise(clock.ticks, clock.tick, layer.period, layer.spread, seed, STREAM_NOISE + 16 * number, first)
    return np.asarray(base * shape)


def daily(layer: Daily, clock: Clock) -> Series:
    """Factor of each tick: straight lines between the points, over midnight too."""
    times = [sum(int(part) * unit for part, unit in zip(p.at.split(":"), (3600, 60, 1), strict=False)) for p in layer.points]
    return np.interp(clock.time_of_day, times, [p.factor for p in layer.points], period=DAY)


def surge(layer: Surge, clock: Clock) -> Series:
    """Factor of each tick: from 1 up over `ramp`, `factor` for `hold`, back to 1 over `decay`."""
    since = clock.epochs - clock.epoch_of(layer.at)
    ends = np.cumsum([0.0, layer.ramp, layer.hold, layer.decay])
    rising = since / layer.ramp if layer.ramp else np.ones(clock.ticks)
    falling = (ends[3] - since) / layer.decay if layer.decay else np.zeros(clock.ticks)
    strength = np.select(
        [since < 0, since < ends[1], since < ends[2], since < ends[3]],
        [np.zeros(clock.ticks), rising, np.ones(clock.ticks), falling],
    )
    return np.asarray(1.0 + (layer.factor - 1.0) * strength)


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
