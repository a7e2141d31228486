"""Several groups one behind the other, taken up in turn by where each was laid down."""


cdef inline Setup* setup_at(long address) noexcept nogil:
    return &(<Group*>address).setup


cdef inline State* state_at(long address) noexcept nogil:
    return &(<Group*>address).state
