"""The kinds of work, one behind the other: what each does in a tick, and what becomes of it when an instance ends."""

from jostle.core.compiled import hot, inner
from jostle.core.engine.code import WorkKind
from jostle.core.engine.jobs import do_jobs, drain_jobs, return_jobs
from jostle.core.engine.requests import serve_requests
from jostle.core.engine.sessions import cut_off, hold_sessions
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def serve(setup: Setup, state: State, k: int) -> None:
    """Tick k's demand meets the instances."""
    kind = setup.fixed[0].work
    if kind == WorkKind.REQUESTS:
        serve_requests(setup, state, k)
    elif kind == WorkKind.JOBS:
        do_jobs(setup, state, k)
    else:
        hold_sessions(setup, state, k)


@inner
def start_draining(setup: Setup, state: State, i: int) -> None:
    """Instance i is given no more work. It is still counted among those that serve."""
    if setup.fixed[0].work == WorkKind.JOBS:
        drain_jobs(setup, state, i)


@inner
def give_back(setup: Setup, state: State, i: int, time: float, drained: float) -> None:
    """What instance i had under way when it ended, having drained for so many seconds."""
    kind = setup.fixed[0].work
    if kind == WorkKind.JOBS:
        return_jobs(setup, state, i, time, drained)
    elif kind == WorkKind.SESSIONS:
        cut_off(state, i, time)


@hot
def under_way(setup: Setup, per_instance: float, sessions: float) -> float:
    """Requests, jobs or sessions that an instance has under way, those requests that wait aside.

    `per_instance` is what one finishes (1/s), `sessions` what it holds.
    """
    fixed = setup.fixed[0]
    if fixed.work == WorkKind.SESSIONS:
        return sessions
    if fixed.work == WorkKind.JOBS:
        return per_instance * fixed.job_time
    return per_instance * (fixed.base_latency + 1.0 / fixed.service_rate)


@hot
def is_empty(setup: Setup, state: State, i: int) -> bool:
    """Whether a draining instance has nothing left to wait for."""
    return setup.fixed[0].work == WorkKind.SESSIONS and state.instances[i].sessions == 0
