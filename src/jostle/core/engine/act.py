"""What is done from outside to instances that a keeper keeps, one act at a time."""

from jostle.core.compiled import leaf
from jostle.core.decide.code import NOBODY, Cause
from jostle.core.engine.carry_out import enter
from jostle.core.engine.code import EventKind, Order
from jostle.core.engine.incident import handle
from jostle.core.engine.instance import end, mend
from jostle.core.engine.launch import send_for
from jostle.core.engine.leaving import dismiss
from jostle.core.engine.note import note, room_left
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.reference import by_reference


@leaf
def act(setup: Setup, state: State, kind: int, time: float, i: int, number: int, amount: float, length: float) -> int:
    """Do one thing; `kind` is an Order or a HandAct.

    ENTER notes the decision in row `number`, and returns the policy that changed the count. MORE sends for `number` instances
    of version `amount` for policy `i`, and once more for those that were refused. LEAVE sends instance `i` away for policy
    `amount`, for the Reason `number`, to be stopped where `length` is not 0. MEND restarts instance `i`, or has it replaced where
    `number` is 0. END ends
    instance `i`, which is stopped, or on its way to be. COUNT notes that a hand changed the count from `i` to `number`. The
    others do to instance `i` what a hand does, with `amount` and `length` (s). Returns -2 where the record has no room: grow it
    and do it again.
    """
    setup, state = by_reference(setup, state)
    if not room_left(setup, state):
        return -2
    if kind == Order.ENTER:
        return enter(state, time, number)
    if kind == Order.MORE:
        send_for(setup, state, time, number, i, int(amount))
    elif kind == Order.COUNT:
        note(state, time, EventKind.COUNT_CHANGED, Cause.HAND, NOBODY, i, number, NOBODY)
    elif kind == Order.MEND:
        mend(setup, state, i, time, number != 0)
    elif kind == Order.END:
        end(setup, state, i, time)
    elif kind == Order.LEAVE:
        dismiss(setup, state, i, time, int(amount), length != 0.0, number)
    else:
        handle(setup, state, i, kind, time, amount, length)
    return NOBODY
