"""Arithmetic that Python has and C has not: powers by repeated squaring, and remainders that are never negative."""


cdef inline double squared(double x) noexcept nogil:
    return x * x


cdef inline double cubed(double x) noexcept nogil:
    return x * (x * x)


cdef inline double power(double x, long n) noexcept nogil:
    """x to the n, n from 0 on."""
    cdef double found = 1.0
    if n > 0x10000:
        return math.pow(x, <double>n)
    while n != 0:
        if n & 1:
            found *= x
        n >>= 1
        x *= x
    return found


cdef inline long wrapped(long n, long of) noexcept nogil:
    """The remainder of n, from 0 to below `of`."""
    n %= of
    return n + of if n < 0 else n
