"""Arrivals as chance has them."""


cdef void draw_arrivals(Array[double] means, long seed, long steps, Array[double] counts) noexcept nogil:
    """Poisson counts of these means, one draw for each step of a tick."""
    stream = stream_of(seed, STREAM_ARRIVE)
    for k in range(means.n):
        counts[k] = 0.0
        for s in range(steps):
            counts[k] += poisson(stream, k * steps + s, means[k] / steps)
