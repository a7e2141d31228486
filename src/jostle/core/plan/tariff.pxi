"""What an hour of everything costs that a group pays for, and how the time of a machine is counted."""


cpdef inline long paid_micros(long micros, bint hourly, long least_micros) noexcept nogil:
    """Microseconds of a running machine that are paid for: up to the started hour, or to the least that is."""
    if hourly:
        return max(1, (micros + HOUR_MICROS - 1) // HOUR_MICROS) * HOUR_MICROS
    return max(micros, least_micros)


cpdef inline double top_up(double seconds, bint hourly, long least_micros) noexcept nogil:
    """Seconds paid for beyond those that an instance ran."""
    micros = <long>math.rint(seconds * MICROS)
    return (<double>(paid_micros(micros, hourly, least_micros) - micros)) / MICROS
