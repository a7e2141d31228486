"""What is done from outside to instances that a keeper keeps, one act at a time."""


cdef inline long c_act(
    Setup* setup, State* state, long kind, double time, long i, long number, double amount, double length
) noexcept nogil:
    """Do one thing; `kind` is an Order or a HandAct.

    ENTER notes the decision in row `number`, and returns the policy that changed the count. MORE sends for `number` instances
    of version `amount` for policy `i`, and once more for those that were refused. LEAVE sends instance `i` away for policy
    `amount`, for the Reason `number`, to be stopped where `length` is not 0. MEND restarts instance `i`, or has it replaced where
    `number` is 0. END ends
    instance `i`, which is stopped, or on its way to be. COUNT notes that a hand changed the count from `i` to `number`. The
    others do to instance `i` what a hand does, with `amount` and `length` (s). Returns -2 where the record has no room: grow it
    and do it again.
    """
    if not room_left(setup, state):
        return -2
    if kind == ORDER_ENTER:
        return enter(state, time, number)
    if kind == ORDER_MORE:
        send_for(setup, state, time, number, i, <long>amount)
    elif kind == ORDER_COUNT:
        note(state, time, EVENT_KIND_COUNT_CHANGED, CAUSE_HAND, NOBODY, i, number, NOBODY)
        fill_fewer(state, number - i)
    elif kind == ORDER_MEND:
        mend(setup, state, i, time, number != 0)
    elif kind == ORDER_END:
        end_instance(setup, state, i, time)
    elif kind == ORDER_LEAVE:
        dismiss(setup, state, i, time, <long>amount, length != 0.0, number)
    else:
        handle(setup, state, i, kind, time, amount, length)
    return NOBODY
