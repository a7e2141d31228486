"""What was observed of a group held against its model, as the screen shows it."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from jostle.api.answer import column
from jostle.api.strips import Numbers, numbers
from jostle.core.fitting.backtest import Backtest
from jostle.core.fitting.estimate import Estimate, Scatter, far_from
from jostle.core.fitting.fit import Fit
from jostle.core.plan.group import Group
from jostle.core.plan.setting import setting
from jostle.formats.observed_file import TAKEN_AS

# Points of a scatter that are drawn
MOST_POINTS = 600


class ColumnView(BaseModel):
    """A column of a file, what it is taken as, and in which of the units that it may be in; null where nothing says."""

    name: str
    quantity: str | None
    unit: str | None
    units: list[str]


class ScatterView(BaseModel):
    """Points, those far off from the line, and the ends of the line."""

    across: str
    up: str
    x: Numbers
    y: Numbers
    far: list[bool]
    line_x: list[float]
    line_y: list[float]


class EstimateView(BaseModel):
    """`value` is what "take these" sets at `path`; both null where the plan has no setting for it."""

    name: str
    path: str | None
    value: float | None
    text: str
    interval: str
    has: str | None
    apart: bool = Field(description="Whether what the plan has lies outside the interval")
    beside: str
    scatter: ScatterView | None


class CourseOf(BaseModel):
    """What was and what is rehearsed, hour by hour; times are ms since 1970."""

    what: str
    times: list[float]
    was: Numbers
    would: Numbers


class FitView(BaseModel):
    """`asks` says for which columns a unit is wanted; then nothing else is told."""

    quantities: list[str] = Field(default=list(TAKEN_AS), description="What a column may be taken as")
    columns: list[ColumnView]
    asks: list[str]
    notes: list[str]
    estimates: list[EstimateView]
    not_told: list[str]
    said: list[str] = Field(description="How far the past rehearsed is from what was")
    course: list[CourseOf]


def fit_view(columns: list[ColumnView], notes: list[str], found: Fit, group: Group, tried: Backtest | None) -> FitView:
    """Estimates beside what the plan has, and the past rehearsed."""
    document = group.model_dump(mode="json")
    return FitView(
        columns=columns,
        asks=[],
        notes=notes,
        estimates=[_estimate(one, document) for one in found.estimates],
        not_told=found.not_told,
        said=tried.said if tried else [],
        course=[
            CourseOf(what=what, times=column(1000 * times), was=numbers(was), would=numbers(would))
            for what, (times, was, would) in (tried.course if tried else {}).items()
        ],
    )


def _estimate(one: Estimate, document: dict[str, object]) -> EstimateView:
    has = float(setting(document, one.path)) if one.path else None
    return EstimateView(
        name=one.name,
        path=one.path or None,
        value=float(f"{one.value:.4g}") if one.path else None,
        text=one.say(one.value),
        interval=f"{one.say(one.low)} to {one.say(one.high)}",
        has=None if has is None else one.say(has),
        apart=has is not None and not one.low <= has <= one.high,
        beside=one.beside,
        scatter=None if one.scatter is None else _scatter(one.scatter),
    )


def _scatter(seen: Scatter) -> ScatterView:
    (x0, y0), (x1, y1) = seen.ends
    slope = (y1 - y0) / (x1 - x0) if x1 > x0 else 0.0
    far = far_from(seen.y - y0 - slope * (seen.x - x0))
    some: NDArray[np.int64] = np.unique(np.linspace(0, len(seen.x) - 1, min(MOST_POINTS, len(seen.x))).astype(np.int64))
    return ScatterView(
        across=seen.across,
        up=seen.up,
        x=numbers(seen.x[some]),
        y=numbers(seen.y[some]),
        far=far[some].tolist(),
        line_x=[x0, x1],
        line_y=[y0, y1],
    )
