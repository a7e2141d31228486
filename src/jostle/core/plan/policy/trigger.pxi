"""A Trigger policy is a bell on a wire: when a metric stays past a threshold for a window it acts, then waits."""


cpdef inline long step_of(long count, long amount, bint percent) noexcept nogil:
    """Instances that an amount comes to at a count. A percentage is rounded half up, and at least one."""
    return max(1, <long>math.floor(count * amount / 100.0 + 0.5)) if percent else amount


cdef inline bint past(double value, double level, bint below) noexcept nogil:
    """Whether a value lies beyond a level."""
    return value < level if below else value > level


cdef inline long c_banded(double value, bint below, long amount, Grid[double] bands, long bands_used) noexcept nogil:
    """The amount of the furthest band that the value is past."""
    for b in range(bands_used):
        if past(value, bands[b][0], below):
            amount = <long>bands[b][1]
    return amount


cdef inline long trigger_ask(
    double value, bint below, double threshold, long action, long amount, bint percent, long desired
) noexcept nogil:
    """Count asked for where the value is past the threshold, else the desired count."""
    if not past(value, threshold, below):
        return desired
    step = step_of(desired, amount, percent)
    if action == ACTION_ADD:
        return desired + step
    return max(0, desired - step) if action == ACTION_REMOVE else amount
