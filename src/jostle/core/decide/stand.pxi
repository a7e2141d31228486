"""What a standing order asks for, in the place of policies and calendar."""


cdef inline void stand(Rules* rules, Memory* memory, Fleet* fleet, double time, Array[Decision] decisions, long e) noexcept nogil:
    """The whole of it when it is placed; then what is left of it, or the whole again where it is kept up; once it has lapsed
    what runs, or nothing. Where a hand set the count, or holds the group, it asks for nothing."""
    one, now, there = rules.row, memory.row, fleet
    row = &decisions[e]
    if now.hand_stands or row.outcome == OUTCOME_FROZEN:
        return
    if time >= one.order_until:
        row.scheduled = 0 if one.order_ends else min(now.desired, max(0, there.present - there.waiting))
    elif one.order_kept or not now.placed:
        row.scheduled, now.placed = one.order, True
    else:
        row.scheduled = min(now.desired, there.present)
    row.cause, row.entry = CAUSE_ORDER, NOBODY
