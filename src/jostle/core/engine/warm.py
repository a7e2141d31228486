"""Compiling the engine in two halves side by side, since the compiler itself uses one core.

Run as a program it compiles one half, then the tables of waits and what plays several groups together; the other finds that in
the cache.
"""

import subprocess
import sys
from collections.abc import Callable
from typing import Any, cast

import numba

from jostle.core.compiled import is_warm
from jostle.core.engine.advance import happen
from jostle.core.engine.carry_out import bring_to_count, evaluate
from jostle.core.engine.carrying import carry_on
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.engine.incident import befall, hands_due
from jostle.core.engine.instance import settle
from jostle.core.engine.jobs import do_jobs
from jostle.core.engine.lockstep import run_together
from jostle.core.engine.meter import take_sample
from jostle.core.engine.outset import new_state
from jostle.core.engine.queue import line_of
from jostle.core.engine.requests import serve_requests
from jostle.core.engine.result import run
from jostle.core.engine.sessions import hold_sessions
from jostle.core.engine.setup import Setup
from jostle.core.engine.spread import Way
from jostle.core.plan.build import builds_of
from jostle.core.plan.clock import Clock
from jostle.core.plan.launch import launch_of
from jostle.core.plan.plan import read_plan
from jostle.core.reference import Reference

_SMALLEST = {
    "jostle": 1,
    "name": "smallest",
    "time_zone": "UTC",
    "start": "2025-07-07T00:00",
    "days": 0.01,
    "machines": {"one": {"vcpus": 1, "memory_gib": 1, "price_per_hour": 1, "boot_time": 60}},
    "templates": {"one": {"machine": "one"}},
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


def smallest() -> Setup:
    """A rehearsal of some minutes; its kind of work needs no tables."""
    plan = read_plan(_SMALLEST)
    launch = launch_of(plan, "one")
    crew = Crew(plan.groups["one"], launch, plan.prices, builds_of(plan, "one", launch))
    clock = Clock.of(plan.start, plan.days, plan.tick, plan.zone)
    return compile_setup(crew, clock, clock.epochs * 0.0)


def compile_parts(*parts: Any) -> None:
    """Compile functions of setup, state, and times or ticks."""
    setup = smallest()
    given = Reference(numba.typeof(setup)), Reference(numba.typeof(new_state(setup)))
    for part in parts:
        code = part.py_func.__code__
        told = [part.py_func.__annotations__[name] for name in code.co_varnames[2 : code.co_argcount]]
        part.compile((*given, *(numba.float64 if one is float else numba.int64 for one in told)))


def compile_all() -> None:
    """Compile the loop over ticks, half of its parts in a process of its own, which goes on with the tables of waits and with
    what plays several groups together: a host with its guests, and those that share a quota."""
    with subprocess.Popen([sys.executable, "-m", __name__], stdout=subprocess.PIPE) as other:
        compile_parts(settle, befall, hands_due, do_jobs, hold_sessions, take_sample, happen)
        if other.stdout is not None:
            other.stdout.readline()
        run(smallest())


def compile_once(tell: Callable[[], object]) -> None:
    """Compile the engine where these sources have not been compiled before, and `tell` of it first, for it takes minutes."""
    if not is_warm():
        tell()
        compile_all()


def main() -> None:
    compile_parts(bring_to_count, evaluate, serve_requests)
    print("the first parts are compiled", flush=True)
    line_of(Way.CHANCE, 1, [(1, 1.0)], 1.0, 1.0)
    setup, together = smallest(), cast(Any, carry_on)
    addresses = numba.types.Array(numba.int64, 1, "C")
    together.compile((numba.typeof(setup), numba.typeof(new_state(setup)), addresses, numba.int64, numba.int64))
    run_together([setup, setup], 1)


if __name__ == "__main__":
    main()
