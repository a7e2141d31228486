"""A Spare policy is the innkeeper who always keeps a few rooms free."""


cpdef inline long count_for(double used, double unit, double free, bint percent) noexcept nogil:
    """The smallest count with so much free, as a share of all or as a number of the units in use."""
    needed = used / (1.0 - min(free, 0.99)) if percent else used + free
    return <long>math.ceil(needed / unit - 1e-9)


cpdef inline long spare_ask(double used, double unit, double free, bint percent, double slack, long desired) noexcept nogil:
    """Count at which so much is free, `used` being in use and `unit` what one instance holds.

    Downward only as far as `slack` more than that would still be free.
    """
    wanted = count_for(used, unit, free, percent)
    if wanted >= desired:
        return wanted
    return min(desired, count_for(used, unit, free * (1.0 + slack), percent))
