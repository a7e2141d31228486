"""The record of a state: copied, to go another way from there, and given more room."""

from copy import deepcopy
from typing import Any

import numpy as np

from jostle.core.decide.row import SIDE
from jostle.core.decide.rules import rows
from jostle.core.engine.setup import Floats, Setup
from jostle.core.engine.state import CREW, State, free_posts


def copied(state: State) -> State:
    """The same state, to go another way from here. Of a long record only what has been played is touched."""
    now = state.now[0]
    tick, evaluations = int(now.tick), int(now.evaluations)
    bare = state._replace(
        series=state.series[:0], entered=state.entered[:0], decisions=state.decisions[:0], views=state.views[:0]
    )
    return deepcopy(bare)._replace(
        series=played_of(state.series, tick),
        entered=played_of(state.entered, tick + 1),
        decisions=played_of(state.decisions, evaluations),
        views=played_of(state.views, evaluations),
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


def played_of(record: np.ndarray, number: int, room: int | None = None) -> Any:
    """The first rows of a record, and room for the others, or for so many in all, which is not touched. They are copied byte by
    byte: field by field takes ten times as long."""
    made = np.zeros((len(record) if room is None else room, *record.shape[1:]), record.dtype)
    played = record[:number].view(np.ndarray).reshape(-1).view(np.uint8)
    made.reshape(-1).view(np.uint8)[: len(played)] = played
    return made.view(type(record))


def grown(state: State) -> State:
    """The same state with twice the room for instances, spells and events."""

    def twice(kept: np.ndarray) -> Any:
        return played_of(kept, len(kept), 2 * len(kept))

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
