"""The spot market of one rehearsal: prices and reclaims by machine and zone, step by step. The same under every arrangement of a
seed: what a machine costs in a zone does not change because others are bought beside it."""


cpdef inline long step_at(double time, long steps) noexcept nogil:
    """The step of the market, of so many, that holds at a time."""
    return min(<long>(time / MARKET_STEP + 1e-9), steps - 1)


cdef void strike_steps(
    long seed, long number, long place, double every, double length, Array[flag] found
) noexcept nogil:
    """Whether each step lies in a stretch: gaps and lengths are exponential, of these means (s)."""
    found.fill(False)
    steps, stream = found.n, stream_of(seed, number)
    at, k = every * exponential(stream, place), 1
    while at < steps * MARKET_STEP:
        end = at + length * exponential(stream, place + (k << 32))
        for step in range(<long>(at / MARKET_STEP), min(steps, <long>math.ceil(end / MARKET_STEP))):
            found[step] = True
        at, k = end + every * exponential(stream, place + ((k + 1) << 32)), k + 2


cdef void run_course(long seed, long place, double spread, double stays, Array[double] found) noexcept nogil:
    """Factors around 1 that revert to it: exp of an autoregression of order 1, of mean 1 and the given spread. `place` tells
    apart what has a course of its own."""
    deep = math.sqrt(math.log(1.0 + spread * spread))
    stream = stream_of(seed, STREAM_MARKET)
    x = normal(stream, place)
    push = math.sqrt(1.0 - stays * stays)
    for k in range(found.n):
        found[k] = math.exp(deep * x - 0.5 * deep * deep)
        x = stays * x + push * normal(stream, place + ((k + 1) << 32))
