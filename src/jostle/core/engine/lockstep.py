"""Groups that draw on one quota, played side by side from instant to instant: whoever asks first is served first."""

import math
from typing import Any

import numpy as np

from jostle.core.compiled import leaf
from jostle.core.engine.advance import advance
from jostle.core.engine.kind import billed_of
from jostle.core.engine.result import Result
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import grown, new_state


@leaf
def leave_to(setups: Any, states: Any, g: int, quota: int) -> None:
    """Write what the others leave of the quota for the next evaluation of group g."""
    left = quota
    for other in range(len(states)):
        if other != g:
            left -= billed_of(setups[other], states[other], 0)
    e = states[g].now[0].evaluations
    if e < len(setups[g].quota):
        setups[g].quota[e] = max(0, left)


@leaf
def next_in(since: np.ndarray, done: np.ndarray) -> int:
    """The group whose turn it is at an instant: of those not done, the one that has waited longest, the first of several."""
    best = -1
    for g in range(len(since)):
        if not done[g] and (best < 0 or since[g] < since[best]):
            best = g
    return best


@leaf
def go_on(setups: Any, states: Any, quota: int, step: int, until: int, since: np.ndarray, done: np.ndarray) -> int:
    """Play all groups to tick `until`, `step` ticks at a time. Returns -1, or the number of the group whose record is full.

    `since` says from when each has waited for a launch that was refused (s; infinite for none), `done` who has had its turn.
    """
    while True:
        g = next_in(since, done)
        if g < 0:
            for other in range(len(states)):
                done[other] = False
            if states[0].now[0].tick >= until:
                return -1
            continue
        leave_to(setups, states, g, quota)
        goal = min(until, (states[g].now[0].tick // step + 1) * step)
        if not advance(setups[g], states[g], goal):
            return g
        done[g] = True
        waits = states[g].now[0].waiting > 0
        since[g] = min(since[g], goal * setups[g].fixed[0].tick) if waits else math.inf


def run_together(setups: list[Setup], quota: int) -> list[Result]:
    """The results of groups that share a quota, all on one clock."""
    states = [new_state(setup) for setup in setups]
    step = math.gcd(*(int(setup.of("evaluate_ticks")) for setup in setups))
    since, done = np.full(len(setups), math.inf), np.zeros(len(setups), np.bool_)
    until = setups[0].ticks
    while (full := go_on(tuple(setups), tuple(states), quota, step, until, since, done)) >= 0:
        states[full] = grown(states[full])
    return [Result(setup, state) for setup, state in zip(setups, states, strict=True)]
