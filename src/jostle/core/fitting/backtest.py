"""The past rehearsed: with the demand that came, what would the model have had, and how far is that from what was?"""

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from jostle.core.fitting.observed import Observed
from jostle.core.plan.clock import DAY
from jostle.core.plan.demand import Demand
from jostle.core.plan.layer import Brought
from jostle.core.plan.outside import Samples
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_number, say_share
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rehearser import Rehearser, check_size

HOUR = 3600.0
PAST = "past"
# Nine hours out of ten
MOST_HOURS = 0.9


@dataclass(frozen=True)
class Apart:
    """How far what was rehearsed is from what was, hour by hour: on average with its sign, on average without, in nine hours out
    of ten at the most, and in the worst, which begins at `worst_at` (s since 1970)."""

    what: str
    bias: float
    mean: float
    nine_of_ten: float
    worst: float
    worst_at: float
    hours: int


@dataclass(frozen=True)
class Backtest:
    """`course` has by what the hours' times, what was and what was rehearsed, for drawing."""

    rehearsal: Rehearsal
    apart: list[Apart]
    course: dict[str, tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]]

    @property
    def said(self) -> list[str]:
        return [_said(one, self.rehearsal) for one in self.apart]


def backtest(plan: Plan, group: str, observed: Observed, seed: int = 1, rehearser: Rehearser | None = None) -> Backtest:
    """Rehearse the span that was observed, from its first instances on, with the demand that came. Raises PlanError."""
    if not observed.has("arrivals"):
        raise PlanError([Problem(("arrivals",), None, "no column says what arrived; name one, such as --column rate=arrivals")])
    arrivals = observed.values["arrivals"]
    known = np.flatnonzero(np.isfinite(arrivals))
    rates = np.interp(np.arange(len(arrivals)), known, arrivals[known])
    first = datetime.fromtimestamp(observed.first, plan.zone)
    samples = Samples(first=first, step=observed.step, rates=rates.tolist())
    demand = Demand(layers=[Brought(kind="brought", file="observed.csv", samples=samples)])
    spanned = plan.model_copy(
        update={"start": first, "days": observed.step * len(rates) / DAY, "demands": {**plan.demands, PAST: demand}}
    )
    document = plan.groups[group].model_dump(mode="json", by_alias=True) | {"demand": PAST, "hands": []}
    there = observed.values.get("instances")
    if there is not None and len(begun := there[np.isfinite(there)]):
        document["start_count"] = int(np.clip(round(float(begun[0])), document["minimum"], document["maximum"]))
    made = with_group(spanned, group, document)
    check_size(made, made.groups[group])
    rehearsal = (rehearser or Rehearser()).rehearse(made, group, seed)
    apart, course = [], {}
    for what, name, field in (("count", "instances", "serving"), ("CPU", "cpu", "cpu"), ("latency", "latency", "latency")):
        if observed.has(name):  # type: ignore[arg-type]
            times, was, would = _hourly(observed, observed.values[name], rehearsal, field)  # type: ignore[index]
            if len(times):
                apart.append(_apart(what, times, was, would))
                course[what] = times, was, would
    return Backtest(rehearsal, apart, course)


def _hourly(
    observed: Observed, values: NDArray[np.float64], rehearsal: Rehearsal, field: str
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Times (s since 1970), what was, and what was rehearsed, as means of the hours of which half at the least is known."""
    tick = rehearsal.clock.tick
    series = rehearsal.result.series[field].astype(np.float64)
    if field != "serving":
        series = np.where(rehearsal.result.series["serving"] > 0, series, np.nan)
    step = max(HOUR, observed.step)
    times, was, would = [], [], []
    for begin in np.arange(0.0, observed.step * len(values), step):
        told = values[round(begin / observed.step) : round((begin + step) / observed.step)]
        made = series[round(begin / tick) : round((begin + step) / tick)]
        if np.isfinite(told).sum() * 2 >= len(told) > 0 and np.isfinite(made).any():
            times.append(observed.first + begin)
            was.append(float(np.nanmean(told)))
            would.append(float(np.nanmean(made)))
    return np.array(times), np.array(was), np.array(would)


def _apart(what: str, times: NDArray[np.float64], was: NDArray[np.float64], would: NDArray[np.float64]) -> Apart:
    off = would - was
    worst = int(np.argmax(np.abs(off)))
    nine = float(np.quantile(np.abs(off), MOST_HOURS))
    return Apart(what, float(off.mean()), float(np.abs(off).mean()), nine, float(off[worst]), float(times[worst]), len(times))


def _said(one: Apart, rehearsal: Rehearsal) -> str:
    at = say_moment(rehearsal.clock.at(one.worst_at))
    bias, mean, nine, worst = (_amount(one.what, abs(value)) for value in (one.bias, one.mean, one.nine_of_ten, one.worst))
    return (
        f"{one.what} within {nine} nine hours out of ten; on average {bias} too {'high' if one.bias > 0 else 'low'}, "
        f"{mean} off; worst {worst} at {at}, of {say_count(one.hours, 'hour')}"
    )


def _amount(what: str, value: float) -> str:
    if what == "CPU":
        return f"{say_share(value).removesuffix('%').strip()} points"
    if what == "latency":
        return f"{say_number(float(f'{1000 * value:.3g}'))} ms"
    return say_number(float(f"{value:.3g}"))
