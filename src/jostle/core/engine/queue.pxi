"""What a line comes to between the loads and times at which it is known."""


cdef inline double c_beyond_at(Array[real] tail, Array[double] times, double t, double whole) noexcept nogil:
    """What of `whole` takes longer than t seconds, between the times at which it is known."""
    if t <= 0.0:
        return whole
    if t >= times[times.n - 1]:
        return 0.0
    i = <long>(math.log(max(t, times[0]) / times[0]) / math.log(times[1] / times[0]))
    i = min(max(i, 0), times.n - 2)
    if t < times[0]:
        return whole + t / times[0] * (tail[0] - whole)
    return tail[i] + (t - times[i]) / (times[i + 1] - times[i]) * (tail[i + 1] - tail[i])


cdef inline double c_quantile(Array[real] tail, Array[double] times, double allowed) noexcept nogil:
    """Time (s) that all but `allowed` stay under."""
    low, high = 0, times.n - 1
    if tail[0] <= allowed:
        return times[0]
    while high - low > 1:
        middle = (low + high) // 2
        if tail[middle] > allowed:
            low = middle
        else:
            high = middle
    drop = tail[low] - tail[high]
    if not drop > 0.0:
        return times[high]
    return times[low] + (times[high] - times[low]) * min(1.0, (<double>tail[low] - allowed) / <double>drop)


cdef inline double c_mixed_tail(Array[double] weights, Grid[float] tails, Array[double] found) noexcept nogil:
    """Add to `found` the answers that take longer than each time, of `weights` answers by load; returns how many they are."""
    answers = 0.0
    for i in range(weights.n):
        if weights[i] > 0.0:
            answers += weights[i]
            for t in range(found.n):
                found[t] += weights[i] * <double>tails[i][t]
    return answers


cdef inline double c_mixed_beyond(
    Grid[double] tails, Array[double] times, Array[double] extras, Array[double] answers, double t
) noexcept nogil:
    """Answers that take longer than t seconds, the n-th of the tails being delayed by the n-th of the extras besides."""
    beyond = 0.0
    for n in range(extras.n):
        if answers[n] > 0.0:
            beyond += c_beyond_at(tails[n], times, t - extras[n], answers[n])
    return beyond


cdef inline double c_mixed_quantile(
    Grid[double] tails, Array[double] times, Array[double] extras, Array[double] answers, double allowed
) noexcept nogil:
    """Time (s) that all but `allowed` answers stay under."""
    if extras.n == 1:
        return c_quantile(tails[0], times, allowed)
    low, high = 0.0, times[times.n - 1] + extras[extras.n - 1]
    for _ in range(40):
        middle = 0.5 * (low + high)
        if c_mixed_beyond(tails, times, extras, answers, middle) > allowed:
            low = middle
        else:
            high = middle
    return 0.5 * (low + high)


cdef inline double c_load_place(Array[double] line, Array[double] loads, double can, double there, long guess) noexcept nogil:
    """Position among the loads at which what is `there` equals what is done in a tick and the line that stays.

    An instance can do `can` in a tick. The line follows its stationary length at the load that it is under (the pointwise
    stationary fluid flow of Wang, Tipper and Banerjee, 1996); the search begins at `guess`.
    """
    i = min(max(guess, 0), loads.n - 2)
    while i > 0 and line[i] + can * loads[i] > there:
        i -= 1
    while i < loads.n - 2 and line[i + 1] + can * loads[i + 1] <= there:
        i += 1
    low, high = line[i] + can * loads[i], line[i + 1] + can * loads[i + 1]
    return i + min(1.0, max(0.0, (there - low) / (high - low)))
