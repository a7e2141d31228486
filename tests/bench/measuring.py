"""How much is measured, and how it is said."""

import statistics
import time
from collections.abc import Callable
from typing import NamedTuple


class Size(NamedTuple):
    """How much of everything is measured. A test measures a little of all, so that no part is found broken by whoever wants
    its figures."""

    times: int = 31
    edits: int = 30
    weeks: int = 1000
    days: float = 3.0
    long: float = 364.0
    hours: float = 3.0
    groups: int = 50
    ledger_days: int = 365
    rounds: int = 60
    seeds: int = 20
    sets: int = 600
    drawn: int = 20_000
    workers: tuple[int, ...] = (1, 2)
    starts: int = 3


SMALL = Size(
    times=1,
    edits=2,
    weeks=2,
    days=0.05,
    long=1.0,
    hours=0.1,
    groups=2,
    ledger_days=2,
    rounds=2,
    seeds=2,
    sets=8,
    drawn=20,
    workers=(1,),
    starts=1,
)


def say(what: str, value: str) -> None:
    print(f"{what:<62}{value}", flush=True)


def median_ms(act: Callable[[], object], times: int) -> str:
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        taken.append((time.perf_counter() - began) * 1000)
    return f"{statistics.median(taken):8.1f} ms   (least {min(taken):.1f}, of {times})"


def late(taken: list[float]) -> str:
    """The median and the 95th percentile of times in ms."""
    after = sorted(taken)
    at = min(len(after) - 1, round(0.95 * len(after)))
    return f"{statistics.median(after):8.0f} ms   (95th percentile {after[at]:.0f}, of {len(after)})"
