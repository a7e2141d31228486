"""The kinds of work, one behind the other: what each does in a tick, and what becomes of it when an instance ends."""

import numpy as np

from jostle.core.engine.hosting import fill_hosting
from jostle.core.engine.jobs import fill_jobs
from jostle.core.engine.requests import fill_requests
from jostle.core.engine.sessions import fill_sessions
from jostle.core.plan.group import Group
from jostle.core.plan.machine import Machine
from jostle.core.plan.work import Hosting, Jobs, Requests, Sessions, WorkKind


def fill(row: np.record, kind: np.record, group: Group, machine: Machine, usual: Machine) -> float:
    """The numbers of a group's work on a machine, in rows of FIXED and KIND, `usual` being that of its template. Returns what a
    Spare policy counts of one instance."""
    work = group.work
    row.work = WorkKind[work.kind.upper()]
    match work:
        case Requests():
            return fill_requests(row, kind, group, work, machine)
        case Jobs():
            return fill_jobs(row, kind, work, machine, usual, group.promises)
        case Sessions():
            return fill_sessions(row, kind, work, machine, group.notice)
        case Hosting():
            return fill_hosting(kind, group, machine)


def places_each(kind: np.record, group: Group) -> float:
    """Of what a Spare policy counts, what one arrival a second takes on average."""
    work = group.work
    return work.length if isinstance(work, Sessions) else float(kind.job_time) if isinstance(work, Jobs) else 1.0
