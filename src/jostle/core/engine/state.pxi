"""Where everybody stands at this instant (`State`), with the record of how they came there."""


cdef inline long noted(State* state, long k) noexcept nogil:
    """Where tick k is noted: a record for figures alone has room for as many as are played in one."""
    return k if k < state.series.n else k % AT_ONCE
