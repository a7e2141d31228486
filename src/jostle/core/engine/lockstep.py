"""Groups that draw on one quota, played side by side from instant to instant: whoever asks first is served first."""

import math

import numpy as np

from jostle.core.compiled import inner, leaf
from jostle.core.engine.advance import next_to, play_out
from jostle.core.engine.kind import billed_of
from jostle.core.engine.outset import new_state, uncleared_series
from jostle.core.engine.record import grown
from jostle.core.engine.result import Result
from jostle.core.engine.roster import Roster, take_up
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.reference import by_reference


@inner
def leave_to(setup: Setup, state: State, quota: int, others: int) -> None:
    """Write what the others leave of the quota for the next evaluation of a group."""
    e = state.now[0].evaluations
    if e < len(setup.quota):
        setup.quota[e] = max(0, quota - others)


@inner
def next_in(since: np.ndarray, done: np.ndarray) -> int:
    """The group whose turn it is at an instant: of those not done, the one that has waited longest, the first of several."""
    best = -1
    for g in range(len(since)):
        if not done[g] and (best < 0 or since[g] < since[best]):
            best = g
    return best


@leaf
def go_on(
    like_setup: Setup,
    like_state: State,
    addresses: np.ndarray,
    quota: int,
    step: int,
    until: int,
    since: np.ndarray,
    done: np.ndarray,
    runs: np.ndarray,
) -> int:
    """Play all groups of a roster to tick `until`, `step` ticks at a time. Returns -1, or the number of the group whose record is
    full.

    `since` says from when each has waited for a launch that was refused (s; infinite for none), `done` who has had its turn,
    `runs` how many instances each runs. `like_setup` and `like_state` are those of the first.
    """
    like_setup, like_state = by_reference(like_setup, like_state)
    like = (like_setup, like_state)
    while True:
        g = next_in(since, done)
        if g < 0:
            for other in range(len(addresses)):
                done[other] = False
            if like_state.now[0].tick >= until:
                return -1
            continue
        setup, state = take_up(addresses[g], like)
        leave_to(setup, state, quota, runs.sum() - runs[g])
        goal = min(until, next_to(state.now[0].tick, step))
        whole = play_out(setup, state, goal)
        runs[g] = billed_of(setup, state, 0)
        if not whole:
            return g
        done[g] = True
        waits = state.now[0].waiting > 0
        since[g] = min(since[g], goal * setup.fixed[0].tick) if waits else math.inf


@leaf
def runs_now(setup: Setup, state: State) -> int:
    """Instances that a group runs on the machine whose quota is shared."""
    return billed_of(setup, state, 0)


def run_together(setups: list[Setup], quota: int) -> list[Result]:
    """The results of groups that share a quota, all on one clock."""
    setups = [setup._replace(quota=np.full(len(setup.orders), quota, np.int32)) for setup in setups]
    series = uncleared_series(setups)
    roster = Roster(setups, [new_state(setup, series=own) for setup, own in zip(setups, series, strict=True)])
    step = math.gcd(*(int(setup.of("evaluate_ticks")) for setup in setups))
    since, done = np.full(len(setups), math.inf), np.zeros(len(setups), np.bool_)
    runs = np.array([runs_now(setup, state) for setup, state in zip(setups, roster.states, strict=True)], np.int64)
    until = setups[0].ticks
    while (full := go_on(setups[0], roster.states[0], roster.addresses, quota, step, until, since, done, runs)) >= 0:
        roster.put(full, grown(roster.states[full]))
    return [Result(setup, state) for setup, state in zip(setups, roster.states, strict=True)]
