"""Running the engine in tests: a small plan in, its result out."""

from typing import Any

import numpy as np

from jostle.core.engine.compile import compile_setup
from jostle.core.engine.result import Result, run
from jostle.core.engine.setup import Setup
from jostle.core.plan.clock import Clock
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import plan


def result(rates: Any = None, **settings: Any) -> Result:
    """The result of the small plan's group; `rates` (1/s for each tick) replace its demand."""
    return rehearse(plan(**settings), "web").result if rates is None else run(setup(rates, **settings))


def setup(rates: Any, seed: int = 1, **settings: Any) -> Setup:
    rates = np.asarray(rates, dtype=np.float64)
    made = plan(**settings)
    clock = Clock.of(made.start, len(rates) * made.tick / 86400, made.tick, made.zone)
    return compile_setup(crew_of(made, "web"), clock, rates, seed)


def changes(found: Result) -> list[tuple[float, int, int]]:
    """Time (s), count before and count after of every change."""
    rows = found.decisions[found.decisions["decided"] != found.decisions["desired"]]
    return [(float(row["time"]), int(row["desired"]), int(row["decided"])) for row in rows]
