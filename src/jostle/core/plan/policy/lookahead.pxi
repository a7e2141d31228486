"""A Lookahead policy is the landlady who knows her Mondays: it acts on what is likely to come while a launch takes.

What is likely is what came at this time of the week before, weighted to the recent, as many times as today runs above or below
it. All of it lies before the instant at which it is asked."""


cdef inline long lookahead_ask(double rate, double each, double unit, double level) noexcept nogil:
    """Count that arrivals at a rate (1/s) fill to a level, `each` being the places that one a second takes, `unit` those of an
    instance."""
    return <long>math.ceil(rate * each / (unit * level) - 1e-9)


cdef inline void c_learn(Array[Usual] usual, long slot, double rate) noexcept nogil:
    """Take one more week into what is usual at a place in it. `usual` are rows of USUAL, shape (SLOTS,).

    The mean of the first weeks, then one that forgets: exponential smoothing (Brown, Statistical Forecasting for Inventory
    Control, 1959), of the rate and of how far it is off.
    """
    one = &usual[slot]
    weight = max(1.0 / (one.weeks + 1.0), NEWEST)
    if one.weeks > 1 and one.rate > 0.0:
        rate = min(rate, RUSH * <double>one.rate)
    if one.weeks > 0:
        off = abs(rate - <double>one.rate)
        one.off += (off - <double>one.off) * (1.0 if one.weeks == 1 else weight)
    one.rate += weight * (rate - <double>one.rate)
    one.weeks += 1
