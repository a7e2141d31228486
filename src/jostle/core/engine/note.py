"""Event rows: what happened, in numbers, for the journal to put into words."""

from jostle.core.compiled import hot, inner
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@inner
def note(state: State, time: float, kind: int, cause: int, who: int, before: int, after: int, evaluation: int) -> None:
    """Write one event row."""
    now = state.now[0]
    row = state.events[now.events]
    row.time, row.kind, row.cause, row.who = time, kind, cause, who
    row.before, row.after, row.evaluation = before, after, evaluation
    now.events += 1


@hot
def room_left(setup: Setup, state: State) -> bool:
    """Whether the record has room for all that one tick can bring."""
    now = state.now[0]
    launches = 2 * setup.rules.row[0].maximum + setup.fixed[0].surplus + setup.fixed[0].swap_at_once + 8
    crowd = now.living + launches
    return (
        now.launched + launches <= len(state.instances)
        and now.spells + 3 * crowd <= len(state.spells)
        and now.events + 6 * crowd + 64 <= len(state.events)
    )
