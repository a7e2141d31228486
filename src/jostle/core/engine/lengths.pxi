"""How long services take that are not exponential: all alike, or more or less uneven."""


cpdef inline (double, double, double) two_kinds(double unevenness) noexcept nogil:
    """Exponential lengths of two kinds, of mean 1, that are as uneven as that (above 1) and nearly as skewed as lognormal ones.

    Returns the share of the long kind, its mean and that of the short one, from three moments (Whitt, Approximating a point
    process by a renewal process, 1982).
    """
    second = 1.0 + unevenness
    x, y = SKEWNESS * (cubed(second) - 1.5 * second * second), max(unevenness - 1.0, 0.02)
    middle = x + 1.5 * y * y + 3.0 * y
    root = math.sqrt(squared(x + 1.5 * y * y - 3.0 * y) + 18.0 * cubed(y))
    long, short = (middle + root) / (6.0 * y), (middle - root) / (6.0 * y)
    share = (1.0 - short) / (long - short)
    return share, long, short
