"""What an instance does with the requests that are there, by its table of waits, and the answers that are counted."""

import numpy as np

from jostle.core.compiled import hot
from jostle.core.engine.queue import Col, load_place
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def column(table: np.ndarray, col: int, place: float) -> float:
    """What a load comes to, between the loads of a table of waits, shape (len(Col), LOADS)."""
    low = int(place)
    high = min(low + 1, table.shape[1] - 1)
    return table[col, low] + (place - low) * (table[col, high] - table[col, low])


@hot
def answered(setup: Setup, state: State, served: float, where: int, place: float) -> None:
    """Count so many answers at a load, in row `where` of those by delay and table."""
    low = int(place)
    part = place - low
    high = min(low + 1, state.stay.shape[1] - 1)
    state.stay[where, low] += served * (1.0 - part)
    state.stay[where, high] += served * part
    if setup.fixed[0].meter_latency:
        now = state.now[0]
        now.low_load, now.high_load = min(now.low_load, low), max(now.high_load, high)
        now.low_row, now.high_row = min(now.low_row, where), max(now.high_row, where)
        state.period_stay[where, low] += served * (1.0 - part)
        state.period_stay[where, high] += served * part


@hot
def let_through(table: np.ndarray, loads: np.ndarray, can: float, there: float, guess: int) -> tuple[float, float, float, float]:
    """What an instance that can do so much in a tick does with the requests that are `there`, by its table of waits at each load.

    Returns its place among the loads, its load, the requests that go, and those of them that give up.
    """
    place = load_place(table[Col.LINE], loads, can, there, guess)
    low = int(place)
    load = loads[low]
    if place > low:
        load += (place - low) * (loads[low + 1] - load)
    gone = min(there, can * load)
    lost = max(gone * column(table, Col.LOST, place), gone - can)
    if place >= len(loads) - 1:  # beyond all loads of the table
        lost = max(lost, there - column(table, Col.LINE, place) - can)
        gone = can + lost
    return place, load, gone, lost
