"""A closer look at a rehearsal, for which it is played again: one instance's course, and who would leave next."""

import numpy as np

from jostle.core.decide.code import NOBODY, Criterion
from jostle.core.engine.leaving import next_by_each, next_out
from jostle.core.engine.result import Result, play
from jostle.core.engine.state import new_state
from jostle.core.rehearsal.rehearsal import Rehearsal


def course(rehearsal: Rehearsal, instance: int) -> np.ndarray:
    """What one instance, counted from 0, did in each tick: rows of OWN, shape (ticks,)."""
    setup = rehearsal.result.setup.changed(watched=instance)
    return play(setup, new_state(setup)).own.view(np.ndarray)


def leaving_at(rehearsal: Rehearsal, seconds: float) -> tuple[int, int] | None:
    """Who would leave if one had to at a time (s from the start): the instance, counted from 0, and the Reason."""
    setup = rehearsal.result.setup
    state = play(setup, new_state(setup), min(setup.ticks, round(seconds / setup.tick)))
    return _next(Result(setup, state))


def leaving_by_each(rehearsal: Rehearsal) -> dict[str, int]:
    """Who would leave at the end of a rehearsal if only one criterion counted, counted from 0."""
    result, chosen = rehearsal.result, np.zeros(len(Criterion), np.int64)
    alone = result.setup._replace(rules=result.setup.rules._replace(criteria=np.zeros(1, np.int8)))
    next_by_each(alone, result.state, result.elapsed, np.array(list(Criterion), np.int8), chosen)
    return {criterion.name.lower(): int(one) for criterion, one in zip(Criterion, chosen, strict=True) if one != NOBODY}


def _next(result: Result) -> tuple[int, int] | None:
    instance, reason = next_out(result.setup, result.state, result.elapsed)
    return None if instance == NOBODY else (int(instance), int(reason))
