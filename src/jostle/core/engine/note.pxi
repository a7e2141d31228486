"""Event rows: what happened, in numbers, for the journal to put into words."""


cdef inline void note(
    State* state, double time, long kind, long cause, long who, long before, long after, long evaluation
) noexcept nogil:
    """Write one event row."""
    now = state.now
    row = &state.events[now.events]
    row.time, row.kind, row.cause, row.who = time, kind, cause, who
    row.before, row.after, row.evaluation = before, after, evaluation
    now.events += 1


cdef inline bint room_left(Setup* setup, State* state) noexcept nogil:
    """Whether the record has room for all that one tick can bring."""
    now = state.now
    launches = 2 * setup.rules.row.maximum + setup.fixed.surplus + setup.fixed.swap_at_once + 8
    crowd = now.living + launches
    return (
        now.launched + launches <= state.instances.n
        and now.spells + 3 * crowd <= state.spells.n
        and now.events + 6 * crowd + 64 <= state.events.n
    )
