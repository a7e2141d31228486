"""Compiling the engine in two halves side by side, since the compiler itself uses one core.

Run as a program it compiles what an evaluation and the kinds of work run through; the rest finds that in the cache, or waits
for nothing: whichever comes second to a function takes what the first has left there.
"""

import subprocess
import sys
from typing import Any

import numba

from jostle.core.demand.clock import Clock
from jostle.core.engine.carry_out import evaluate
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.engine.jobs import do_jobs
from jostle.core.engine.requests import serve_requests
from jostle.core.engine.sessions import hold_sessions
from jostle.core.engine.state import new_state
from jostle.core.plan.launch import launch_of
from jostle.core.plan.plan import read_plan

_SMALLEST = {
    "jostle": 1,
    "name": "smallest",
    "time_zone": "UTC",
    "start": "2025-07-07T00:00",
    "days": 0.01,
    "machine_types": {"one": {"vcpus": 1, "memory_gib": 1, "price_per_hour": 1, "boot_time": 60}},
    "templates": {"one": {"machine_type": "one"}},
    "demands": {"one": {"layers": [{"kind": "level", "rate": 1}]}},
    "groups": {
        "one": {
            "template": "one",
            "demand": "one",
            "minimum": 1,
            "maximum": 1,
            "work": {"kind": "jobs", "job_seconds": 1},
        }
    },
}


def beside() -> "subprocess.Popen[bytes]":
    """The other half, compiled by a process of its own."""
    return subprocess.Popen([sys.executable, "-m", __name__])


def main() -> None:
    plan = read_plan(_SMALLEST)
    launch = launch_of(plan, "one")
    crew = Crew(plan.groups["one"], launch, plan.machine_types["one"], plan.prices)
    clock = Clock.of(plan.start, plan.days, plan.tick, plan.zone)
    setup = compile_setup(crew, clock, clock.epochs * 0.0)
    given = numba.typeof(setup), numba.typeof(new_state(setup))
    parts: dict[Any, Any] = {evaluate: numba.float64, **dict.fromkeys((serve_requests, do_jobs, hold_sessions), numba.int64)}
    for part, last in parts.items():
        part.compile((*given, last))


if __name__ == "__main__":
    main()
