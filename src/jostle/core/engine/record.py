"""The record of a state: copied, to go another way from there, and given more room."""

from copy import deepcopy
from typing import Any

import numpy as np

from jostle.core.built.laid import Floats
from jostle.core.decide.row import SIDE
from jostle.core.decide.rules import copied_rows, rows
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import CREW, State, free_posts


def copied(state: State) -> State:
    """The same state, to go another way from here. Of a long record only what has been played is touched."""
    now = state.now[0]
    tick, evaluations = int(now.tick), int(now.evaluations)
    bare = state._replace(
        series=state.series[:0], entered=state.entered[:0], decisions=state.decisions[:0], views=state.views[:0]
    )
    return deepcopy(bare)._replace(
        series=copied_rows(state.series, tick),
        entered=copied_rows(state.entered, tick + 1),
        decisions=copied_rows(state.decisions, evaluations),
        views=copied_rows(state.views, evaluations),
    )


def with_kinds(state: State, setup: Setup) -> State:
    """The same state with room for the kinds of machine, and versions, that a setup has more than the one under which it came to
    be."""
    crews, sides = rows(len(setup.kinds), CREW), rows(int(setup.of("builds")), SIDE)
    crews["weight"] = setup.kinds["weight"]
    crews[: len(state.crews)] = state.crews[: len(crews)]
    sides[: len(state.sides)] = state.sides[: len(sides)]
    berths = np.zeros(setup.market.units.shape[:2], np.int64)
    berths[: len(state.berths)] = state.berths[: len(berths)]
    known, rows_of_stay = len(state.stay) // len(setup.extras), len(setup.line.tables)
    stays = [_longer(stay, len(setup.extras), known, rows_of_stay) for stay in (state.stay, state.period_stay)]
    return state._replace(crews=crews, sides=sides, berths=berths, stay=stays[0], period_stay=stays[1])


def _longer(stay: Floats, extras: int, known: int, wanted: int) -> Floats:
    """Answers by load, with room for further rows of the tables of waits, of which there were so many for each delay."""
    if known == wanted or not len(stay):
        return stay
    found = np.zeros((extras, wanted, stay.shape[1]))
    found[:, :known] = stay.reshape(extras, known, -1)
    return found.reshape(extras * wanted, -1)


def grown(state: State) -> State:
    """The same state with twice the room for instances, spells and events."""

    def twice(kept: np.ndarray) -> Any:
        return copied_rows(kept, room=2 * len(kept))

    return state._replace(
        instances=twice(state.instances),
        alive=twice(state.alive),
        order=twice(state.order),
        draining=twice(state.draining),
        sorting=twice(state.sorting),
        posts=np.concatenate([state.posts, free_posts(len(state.posts))]).view(np.recarray),
        spells=twice(state.spells),
        events=twice(state.events),
        candidates=twice(state.candidates),
    )
