"""How long a test waits for what has to come: one setting for all of them, longer on a machine that is slow."""

import os
import statistics
import time

# s that a piece of plain Python takes on a machine with nothing beside
CALM = 0.04
# s that a test waits there before it says that something will not come
USUAL = 40.0


def _taken() -> float:
    began = time.perf_counter()
    sum(range(2_000_000))
    return time.perf_counter() - began


# How many times slower than a calm machine this one was when the tests began
SLOWNESS = max(1.0, statistics.median(_taken() for _ in range(9)) / CALM)
PATIENCE = float(os.environ.get("JOSTLE_PATIENCE") or USUAL * SLOWNESS)
