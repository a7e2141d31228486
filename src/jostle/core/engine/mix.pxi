"""How many of a group's instances are on demand, and how many spot."""


cpdef inline long kind_of(long machine_type, long bought) noexcept nogil:
    return 2 * machine_type + bought


cpdef inline long type_of(long kind) noexcept nogil:
    return kind // 2


cpdef inline long bought(long kind) noexcept nogil:
    return kind % 2


cpdef inline long wanted_on_demand(long first, double share, long count) noexcept nogil:
    """Of so many instances: the first ones, and a share of the rest, rounded up."""
    return min(count, first) + <long>math.ceil(max(0, count - first) * share - 1e-9)
