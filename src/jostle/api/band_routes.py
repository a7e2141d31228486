"""Routes for a take under many seeds: the spread of its figures, and its outlines as bands."""

import json
from collections import OrderedDict
from threading import Lock

import numpy as np
from fastapi import APIRouter
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from jostle.api.axis import bucket_times, span_between
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.problem import RESPONSES
from jostle.api.strips import Numbers, numbers
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearsal import clock_of, rehearse
from jostle.core.rehearsal.spread import Spread, spread
from jostle.core.rehearsal.strip import wanted
from jostle.core.rehearsal.verdict import Verdict, verdict

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}", responses=RESPONSES)
KEPT = 256


class BandRequest(BaseModel):
    """How many seeds are wanted, from the take's own on, and over what part of the strips."""

    take: int
    seeds: int = Field(ge=1, le=200)
    begin: float | None = Field(default=None, description="ms since 1970")
    end: float | None = None
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


Curves = tuple[Verdict, dict[str, tuple[NDArray[np.float64], NDArray[np.float64]]]]
_curves: OrderedDict[str, Curves] = OrderedDict()
_lock = Lock()


@router.post("/bands")
def band(group: str, asked: BandRequest, kept: PlanDep, desk: DeskDep) -> Band:
    """A take under its seed and those after it. Seeds that were played for the same part before are not played again."""
    take = desk.store.take(kept.id, group, asked.take)
    plan = with_group(kept.plan, group, take.document)
    clock = clock_of(plan)
    span = span_between(clock, asked.begin, asked.end, asked.buckets)
    found: dict[int, Curves] = {}
    for seed in range(take.seed, take.seed + asked.seeds):
        key = json.dumps([kept.id, kept.revision, group, take.document, seed, span.begin, span.end, len(span.edges)])
        with _lock:
            known = _curves.get(key)
        if known is None:
            rehearsal = rehearse(plan, group, seed)
            series = rehearsal.result.state.series
            drawn = {
                "demand": wanted(rehearsal),
                "capacity": series["capacity"],
                "desired": series["desired"],
                "cpu": series["cpu"] * 100.0,
            }
            cuts = {name: span.buckets(one) for name, one in drawn.items()}
            known = verdict(rehearsal, with_bounds=False), {name: (cut.low, cut.high) for name, cut in cuts.items()}
            with _lock:
                _curves[key] = known
                while len(_curves) > KEPT:
                    _curves.popitem(last=False)
        found[seed] = known
    outlines = {
        name: _outline([curves[name] for _, curves in found.values()]) for name in ("demand", "capacity", "desired", "cpu")
    }
    return Band(
        seeds=asked.seeds,
        times=bucket_times(clock, span),
        spread=spread({seed: judged for seed, (judged, _) in found.items()}),
        **outlines,
    )


def _outline(cuts: list[tuple[NDArray[np.float64], NDArray[np.float64]]]) -> Outline:
    low, high = np.fmin.reduce([cut[0] for cut in cuts]), np.fmax.reduce([cut[1] for cut in cuts])
    return Outline(low=numbers(low), high=numbers(high))
