"""A rollout: a new version of the template brought in a few instances at a time, as a ferry changes its crew by watches.

A canary is a few of them first, compared with the others for a while before more follow."""


cpdef inline long portion(long count, bint percent, long desired) noexcept nogil:
    """How many of the desired ones so many instances are, or so many per cent of them; one at the least."""
    return max(1, <long>math.ceil(count * desired / 100.0 - 1e-9)) if percent else count
