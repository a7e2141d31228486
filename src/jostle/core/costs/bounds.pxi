"""What a load asks for tick by tick, for the bounds of cost."""


cdef double seat_all(Array[double] arrivals, double ending, double seats, Array[double] found) noexcept nogil:
    """Write into `found` the sessions under way in each tick where so many find a seat and that share of them ends in each; returns
    how many find none."""
    there = refused = 0.0
    for k in range(arrivals.n):
        there += arrivals[k] - there * ending
        if there > seats:
            refused += there - seats
            there = seats
        found[k] = there
    return refused


cdef inline long needed(Array[double] rate, long begin, long end, double capacity, double load) noexcept nogil:
    """Count at which the highest rate from tick `begin` to before `end` meets this utilisation."""
    peak = 0.0
    for k in range(begin, end):
        peak = max(peak, rate[k])
    return <long>math.ceil(peak / (capacity * load) - 1e-9)


cdef double c_late_requests(
    Array[double] rate,
    long step,
    double capacity,
    double load,
    long fixed,
    Array[double] loads,
    Array[int16_t] row_of,
    Grid[double] late,
) noexcept nogil:
    """Late requests per second, summed over ticks, with the count needed in each interval of `step` ticks.

    A `fixed` count above zero stands in place of the needed one. Each tick is taken as steady; beyond a load of 1 all are late.
    """
    total = 0.0
    low = begin = end = 0
    while end < rate.n:
        begin = end
        end = min(begin + step, rate.n)
        count = fixed if fixed > 0 else needed(rate, begin, end, capacity, load)
        row = row_of[min(count, row_of.n - 1)]
        for k in range(begin, end):
            if rate[k] <= 0.0:
                continue
            busy = rate[k] / (count * capacity)
            if busy > 1.0:
                total += rate[k]
                continue
            while low > 0 and loads[low] > busy:
                low -= 1
            while low < loads.n - 2 and loads[low + 1] < busy:
                low += 1
            part = (busy - loads[low]) / (loads[low + 1] - loads[low])
            total += rate[k] * (late[row][low] + part * (late[row][low + 1] - late[row][low]))
    return total
