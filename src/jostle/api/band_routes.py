"""Routes for a take under many seeds: the spread of its figures, and its outlines as bands."""

import numpy as np
from fastapi import APIRouter
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from jostle.api.axis import bucket_times, span_between
from jostle.api.bounded import Instant, Ordinal
from jostle.api.desk import Curves, DeskDep, PlanDep
from jostle.api.problem import RESPONSES
from jostle.api.strips import Numbers, numbers
from jostle.api.turns import LongRoute
from jostle.core.journal.spread_line import say_spread
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearsal import Rehearsal, clock_of
from jostle.core.rehearsal.rehearser import brisk
from jostle.core.rehearsal.spread import Spread, spread
from jostle.core.rehearsal.strip import Span, wanted
from jostle.core.rehearsal.verdict import verdict

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}", responses=RESPONSES, route_class=LongRoute)


class BandRequest(BaseModel):
    """How many seeds are wanted, from the take's own on, and over what part of the strips."""

    take: Ordinal
    seeds: int = Field(ge=1, le=200)
    begin: Instant | None = Field(default=None, description="ms since 1970")
    end: Instant | None = None
    buckets: int = Field(ge=1, le=4000)


class Outline(BaseModel):
    low: Numbers
    high: Numbers


class Band(BaseModel):
    """The lowest and the highest of each bucket over the seeds."""

    seeds: int
    times: list[float]
    demand: Outline
    capacity: Outline
    desired: Outline
    cpu: Outline
    spread: Spread
    text: str = Field(description="The spread in a sentence")


@router.post("/bands")
def band(group: str, asked: BandRequest, kept: PlanDep, desk: DeskDep) -> Band:
    """A take under its seed and those after it. Seeds that were played for the same part before are not played again."""
    take = desk.store.take(kept.id, group, asked.take)
    plan = brisk(with_group(kept.plan, group, take.document))
    clock = clock_of(plan)
    span = span_between(clock, asked.begin, asked.end, asked.buckets)
    found: dict[int, Curves] = {}
    for seed in range(take.seed, take.seed + asked.seeds):
        key = (kept.id, kept.revision, group, take.number, seed, span.begin, span.end, len(span.edges))
        found[seed] = desk.curves.get(key, lambda seed=seed: _curves(desk.rehearser.rehearse(plan, group, seed), span))  # type: ignore[misc]
    outlines = {
        name: _outline([curves[name] for _, curves in found.values()]) for name in ("demand", "capacity", "desired", "cpu")
    }
    over = spread({seed: judged for seed, (judged, _) in found.items()})
    return Band(
        seeds=asked.seeds,
        times=bucket_times(clock, span).tolist(),
        spread=over,
        text=say_spread(over),
        **outlines,
    )


def _curves(rehearsal: Rehearsal, span: Span) -> Curves:
    series = rehearsal.result.series
    drawn = {
        "demand": wanted(rehearsal),
        "capacity": series["capacity"],
        "desired": series["desired"],
        "cpu": series["cpu"] * 100.0,
    }
    cuts = {name: span.buckets(one) for name, one in drawn.items()}
    return verdict(rehearsal, whole=False), {name: (cut.low, cut.high) for name, cut in cuts.items()}


def _outline(cuts: list[tuple[NDArray[np.float64], NDArray[np.float64]]]) -> Outline:
    low, high = np.fmin.reduce([cut[0] for cut in cuts]), np.fmax.reduce([cut[1] for cut in cuts])
    return Outline(low=numbers(low), high=numbers(high))
