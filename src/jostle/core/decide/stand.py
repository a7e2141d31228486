"""What a standing order asks for, in the place of policies and calendar."""

import numpy as np

from jostle.core.compiled import hot
from jostle.core.decide.code import NOBODY, Cause, Outcome
from jostle.core.decide.memory import Memory
from jostle.core.decide.rules import Rules


@hot
def stand(rules: Rules, memory: Memory, fleet: np.ndarray, time: float, decisions: np.ndarray, e: int) -> None:
    """The whole of it when it is placed; then what is left of it, or the whole again where it is kept up; once it has lapsed
    what runs, or nothing. Where a hand set the count, or holds the group, it asks for nothing."""
    one, now, there = rules.row[0], memory.row[0], fleet[0]
    row = decisions[e]
    if now.hand_stands or row.outcome == Outcome.FROZEN:
        return
    if time >= one.order_until:
        row.scheduled = 0 if one.order_ends else min(now.desired, max(0, there.present - there.waiting))
    elif one.order_kept or not now.placed:
        row.scheduled, now.placed = one.order, True
    else:
        row.scheduled = min(now.desired, there.present)
    row.cause, row.entry = Cause.ORDER, NOBODY
