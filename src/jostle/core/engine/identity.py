"""Names that are given again, and what goes with them: a zone, and a disk that waits for the next who bears them."""

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY
from jostle.core.engine.code import Billed, Life
from jostle.core.engine.setup import Setup
from jostle.core.engine.spell import new_spell
from jostle.core.engine.state import State


@hot
def free_post(setup: Setup, state: State) -> int:
    """The lowest number that nobody bears, NOBODY where numbers are not used again."""
    if not setup.fixed[0].posts:
        return NOBODY
    for p in range(len(state.posts)):
        if state.posts[p].held_by == NOBODY:
            return p
    return NOBODY


@hot
def home_of(setup: Setup, state: State, post: int) -> int:
    """The zone in which the next who bears a number has to be, or NOBODY."""
    return state.posts[post].zone if setup.fixed[0].keeps and post != NOBODY else NOBODY


@inner
def attach(setup: Setup, state: State, i: int, time: float) -> float:
    """The disk that was kept of the number of instance i is its own again. Returns how long that takes (s)."""
    if not setup.fixed[0].keeps:
        return 0.0
    post = state.posts[state.instances[i].post]
    post.zone = state.instances[i].zone
    if post.spell == NOBODY:
        return 0.0
    row = state.spells[post.spell]
    row.end = time
    state.crews[state.instances[row.instance].kind].detached -= 1
    post.spell = NOBODY
    return setup.fixed[0].attach


@inner
def lay_down(setup: Setup, state: State, i: int, time: float) -> None:
    """Instance i ends, and its number is free. Its disk stays where the group keeps it."""
    one = state.instances[i]
    if one.post == NOBODY:
        return
    post = state.posts[one.post]
    post.held_by = NOBODY
    if not setup.fixed[0].keeps or one.state == Life.REQUESTED:
        return
    if one.unwanted and not setup.fixed[0].disks_stay:
        post.zone = NOBODY
        return
    post.spell = new_spell(state, i, Billed.DETACHED, time)
    state.crews[one.kind].detached += 1
