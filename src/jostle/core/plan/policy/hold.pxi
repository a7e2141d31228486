"""A Hold policy is a thermostat: it keeps a metric at a level by proportion."""


cdef inline long hold_ask(double value, double metered, double level, double tolerance, long desired) noexcept nogil:
    """Count at which a proportional metric would stand at `level`; the desired count while within the tolerance.

    `metered` is the number of instances behind the value, so that value x metered is the whole load.
    """
    if abs(value - level) <= tolerance * level:
        return desired
    return <long>math.ceil(value * metered / level - 1e-9)
