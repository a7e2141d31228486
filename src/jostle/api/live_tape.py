"""The tape of a group that lives: through now, what was lived behind it and what is likely ahead."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import wanted
from jostle.live.life import Life

# Seconds behind and ahead of now, in so many parts
BACK, AHEAD, POINTS = 5 * 3600.0, 6 * 3600.0, 132


class Tape(BaseModel):
    """A group through now; columns over `times` (ms since 1970), null where a line is not. Demand and capacity are in `unit`."""

    times: list[float]
    unit: str
    demand: Numbers
    capacity: Numbers
    likely_demand: Numbers
    likely_capacity: Numbers
    rehearsed: Numbers = Field(description="The capacity that was rehearsed for the time that was lived")
    changes: list[float]
    read: float = Field(description="When the newest reading was taken, ms since 1970")


def tape_of(life: Life) -> Tape:
    """The tape as of the last whole minute, made once."""
    key = (int(life.time // 60), life.hands, len(life.legs), life.ground.silent)
    if life.tape is None or life.tape[0] != key:
        life.tape = key, _new_tape(life)
    found: Tape = life.tape[1]
    return found


def _new_tape(life: Life) -> Tape:
    """The last hours and the next, at the middle of each of so many parts."""
    record, tick = life.record(), life.ground.setup.tick
    step = (BACK + AHEAD) / POINTS
    begin = life.time - BACK
    edges = np.asarray(begin + step * np.arange(POINTS + 1), dtype=np.float64)
    lived = _columns(record, edges, 0.0, life.time)
    likely = _columns(life.likely(AHEAD), edges, life.time, min(life.time + AHEAD, life.ground.ends))
    before = _mean(life.rehearsed, edges, tick, 0.0, life.time)
    rows = record.result.decisions
    near = rows[(rows["time"] > begin) & (rows["decided"] != rows["desired"])]
    return Tape(
        times=((life.clock.first + edges[:-1] + step / 2) * 1000).tolist(),
        unit=life.leg.crew.group.work.load,
        demand=lived[0],
        capacity=lived[1],
        likely_demand=likely[0],
        likely_capacity=likely[1],
        rehearsed=before,
        changes=((life.clock.first + near["time"]) * 1000).tolist(),
        read=(life.clock.first + life.ground.heard * life.leg.crew.group.meters.period) * 1000,
    )


def _columns(rehearsal: Rehearsal, edges: NDArray[np.float64], since: float, until: float) -> tuple[Numbers, Numbers]:
    """Means of demand and capacity between the edges, null outside of `since` to `until`; all s from the start."""
    series = rehearsal.result.series["capacity"]
    tick = rehearsal.clock.tick
    return _mean(wanted(rehearsal), edges, tick, since, until), _mean(series, edges, tick, since, until)


def _mean(series: NDArray[np.floating], edges: NDArray[np.float64], tick: float, since: float, until: float) -> Numbers:
    places = np.round(edges / tick).astype(int)
    means = np.full(len(edges) - 1, np.nan)
    for k in np.flatnonzero((edges[1:] > since + 1e-6) & (edges[:-1] < until - 1e-6)):
        part = series[max(0, places[k], round(since / tick)) : min(places[k + 1], round(until / tick))]
        if len(part):
            means[k] = part.mean()
    return numbers(means)
