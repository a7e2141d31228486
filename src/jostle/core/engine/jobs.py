"""Jobs: one pile, from which every worker takes the oldest.

Jobs that all take equally long and come evenly are a steady flow. By chance, each is held by its worker for a time that is
drawn stage by stage; jobs too short for that flow, and what flows in a tick is drawn.
"""

import numpy as np

from jostle.core.built.figure import two_kinds
from jostle.core.plan.machine import Machine
from jostle.core.plan.promise import AgePromise, Promise
from jostle.core.plan.work import Jobs

SERVING, DRAINING = 0, 1
MOST_STAGES = 64
# Jobs of fewer ticks than this flow
HELD_FROM = 3.0


def fill_jobs(row: np.record, kind: np.record, work: Jobs, machine: Machine, usual: Machine, promises: list[Promise]) -> float:
    """The numbers of jobs; a Spare policy counts those that a worker does side by side. How many is told of the usual machine;
    a worker on another does as many as it has vCPUs for."""
    row.by_chance, row.unevenness = work.arrivals == "by_chance", work.unevenness
    kind.concurrency = max(1, work.concurrency * machine.vcpus // usual.vcpus)
    by_network = kind.concurrency / machine.most_each(work.kib_out)
    usual_time = max(work.job_seconds / machine.speed, by_network)
    kind.job_time = max(work.job_seconds * float(kind.cpu) / machine.speed, by_network)
    kind.draw = float(kind.concurrency) / usual_time
    row.held_jobs = (row.by_chance or row.unevenness > 0.0) and kind.job_time >= HELD_FROM * row.tick
    row.either = row.unevenness > 1.0
    row.long_kind = two_kinds(work.unevenness)[0] if row.either else 0.0
    kind.capacity = kind.concurrency / kind.job_time
    row.patience = min((p.within for p in promises if isinstance(p, AgePromise)), default=0.0)
    return float(work.concurrency)


def stages_of(row: np.record, kind: np.record) -> np.ndarray:
    """The chance that a held job passes each of its stages within a tick.

    A stage lasts a geometric number of ticks, and as many of them follow each other as make the lengths as uneven as they are
    said to be, the mean being exact. More uneven than exponential ones are of two kinds, a stage for each.
    """
    if not row.held_jobs:
        return np.zeros(1)
    pace = row.tick / kind.job_time
    if row.either:
        _, long, short = two_kinds(float(row.unevenness))
        return np.array([min(1.0, pace / short), min(1.0, pace / long)])
    number = min(MOST_STAGES, max(1, round(1 / (row.unevenness + pace))))
    return np.full(number, min(1.0, number * pace))
