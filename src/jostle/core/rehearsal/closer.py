"""A closer look at a rehearsal, for which it is played again: one instance's course, and who would leave next."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.play import next_by_each, next_out, rank_places
from jostle.core.decide.code import NOBODY, Criterion
from jostle.core.engine.carrying import run_aboard
from jostle.core.engine.code import Bought
from jostle.core.engine.outset import new_state
from jostle.core.engine.result import Result, play
from jostle.core.engine.setup import Setup
from jostle.core.rehearsal.rehearsal import Rehearsal


def course(rehearsal: Rehearsal, instance: int) -> np.ndarray:
    """What one instance, counted from 0, did in each tick: rows of OWN, shape (ticks,)."""
    setup = rehearsal.result.setup
    return played_again(rehearsal, setup.changed(watched=instance), setup.ticks).state.own.view(np.ndarray)


def stood_at(rehearsal: Rehearsal, seconds: float) -> Result:
    """How a rehearsal stood at a time (s from the start)."""
    setup = rehearsal.result.setup
    return played_again(rehearsal, setup, min(setup.ticks, round(seconds / setup.tick)))


def played_again(rehearsal: Rehearsal, setup: Setup, until: int) -> Result:
    """A rehearsal played to a tick with another setup in the place of its own; of a host and guests all are."""
    aboard = rehearsal.aboard
    if aboard is None:
        return Result(setup, play(setup, new_state(setup), until))
    own = aboard.names.index(rehearsal.group_name)
    setups = [setup if number == own else one.setup for number, one in enumerate(aboard.results)]
    return run_aboard(setups, until)[own]


def next_to_leave(result: Result) -> tuple[int, int] | None:
    """Who would leave if one had to: the instance, counted from 0, and the Reason."""
    instance, reason = next_out(result.setup, result.state, result.elapsed)
    return None if instance == NOBODY else (int(instance), int(reason))


def taken_next(result: Result) -> tuple[NDArray[np.int64], int, Bought]:
    """In which order a launch would take what the market has, by type of machine and zone, from 1, 0 for what it would not; the
    type that is bought on demand; and how the next launch is bought."""
    setup = result.setup
    own = setup._replace(market=setup.market._replace(offered=setup.market.offered.copy()))
    ranks = np.zeros(setup.market.units.shape[:2], np.int64)
    dear, how = rank_places(own, result.state, result.elapsed, ranks)
    return ranks, int(dear), Bought(how)


def leaving_by_each(rehearsal: Rehearsal) -> dict[str, int]:
    """Who would leave at the end of a rehearsal if only one criterion counted, counted from 0."""
    result, chosen = rehearsal.result, np.zeros(len(Criterion), np.int64)
    alone = result.setup._replace(rules=result.setup.rules._replace(criteria=np.zeros(1, np.int8)))
    next_by_each(alone, result.state, result.elapsed, np.array(list(Criterion), np.int8), chosen)
    return {criterion.name.lower(): int(one) for criterion, one in zip(Criterion, chosen, strict=True) if one != NOBODY}
