"""Groups that draw on one quota, played side by side from instant to instant: whoever asks first is served first."""

import math

import numpy as np

from jostle.core.built.play import go_on, runs_now
from jostle.core.engine.outset import new_state, uncleared_series
from jostle.core.engine.record import grown
from jostle.core.engine.result import Result
from jostle.core.engine.roster import Roster
from jostle.core.engine.setup import Setup


def run_together(setups: list[Setup], quota: int) -> list[Result]:
    """The results of groups that share a quota, all on one clock."""
    setups = [setup._replace(quota=np.full(len(setup.orders), quota, np.int32)) for setup in setups]
    series = uncleared_series(setups)
    roster = Roster(setups, [new_state(setup, series=own) for setup, own in zip(setups, series, strict=True)])
    step = math.gcd(*(int(setup.of("evaluate_ticks")) for setup in setups))
    since, done = np.full(len(setups), math.inf), np.zeros(len(setups), np.bool_)
    runs = np.array([runs_now(setup, state) for setup, state in zip(setups, roster.states, strict=True)], np.int64)
    until = setups[0].ticks
    while (full := go_on(roster.addresses, quota, step, until, since, done, runs)) >= 0:
        roster.put(full, grown(roster.states[full]))
    return [Result(setup, state) for setup, state in zip(setups, roster.states, strict=True)]
