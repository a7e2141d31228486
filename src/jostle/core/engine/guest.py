"""What becomes of a guest's copies when their host leaves or breaks."""

from jostle.core.compiled import inner
from jostle.core.decide.code import NOBODY, Cause, Reason
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.instance import accepted, end, forsake, leave_zone, stop_serving
from jostle.core.engine.launch import ask_for, send_for
from jostle.core.engine.leaving import dismiss
from jostle.core.engine.note import note
from jostle.core.engine.room import find_host, put_on_host
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.engine.swap import is_being_replaced
from jostle.core.engine.work import give_back, tell_apart


@inner
def lose(setup: Setup, state: State, i: int, time: float) -> None:
    """Copy i is gone with its host."""
    one = state.instances[i]
    note(state, time, EventKind.COPY_LOST, Cause.NEED, i, one.host, 0, NOBODY)
    forsake(state, i)
    if one.state == Life.DRAINING:
        state.now[0].draining -= 1
        give_back(setup, state, i, time, time - one.drains)
    else:
        if one.state == Life.SERVING:
            give_back(setup, state, i, time, 0.0)
            stop_serving(state, i)
        leave_zone(state, i)
    end(setup, state, i, time)


@inner
def move(setup: Setup, state: State, i: int, time: float) -> None:
    """Another is started elsewhere in the place of copy i, which leaves once that serves; one that does not serve yet begins
    anew."""
    if state.instances[i].state != Life.SERVING:
        dismiss(setup, state, i, time, NOBODY, False, Reason.MOVED)
        return
    if is_being_replaced(state, i):
        return
    other = ask_for(state, time, state.instances[i].version, NOBODY, NOBODY)
    state.instances[other].replaces = i
    state.now[0].doubled = True
    note(state, time, EventKind.COPY_MOVES, Cause.NEED, other, i, state.instances[i].host, NOBODY)
    if find_host(setup, state.deck) != NOBODY:
        accepted(setup, state, other, put_on_host(setup, state, other), time)


@inner
def find_places(setup: Setup, state: State, time: float) -> None:
    """Once more for those that wait: room was given back, or a host has come."""
    tell_apart(setup, state)
    send_for(setup, state, time, 0, NOBODY, state.memory.row[0].version)


@inner
def heed_hosts(setup: Setup, state: State, time: float) -> None:
    """See to every copy whose host has stopped to take copies, or is lost."""
    now, deck = state.now[0], state.deck
    tell_apart(setup, state)
    for a in range(now.living):
        i = state.alive[a]
        one = state.instances[i]
        if one.host == NOBODY or one.state in (Life.REQUESTED, Life.GONE):
            continue
        room = deck.rooms[one.host]
        if room.lost:
            lose(setup, state, i, time)
        elif not room.open and one.state in (Life.BOOTING, Life.WARMING, Life.SERVING):
            move(setup, state, i, time)
    now.next_due = min(now.next_due, time)
