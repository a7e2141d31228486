"""What a group can see of itself: the last samples of its meters, in a ring like the roll of a chart recorder."""


cdef inline long published_by(double time, double delay, double period) noexcept nogil:
    """How many samples are known at a time: those that were taken at least the delay ago."""
    return max(0, <long>math.floor((time - delay) / period + 1e-9))


cdef inline long place_of(long begin, long ring) noexcept nogil:
    """Place of a sample in the ring. A division, which an array that never wraps does without, would cost more than the fold."""
    return begin if begin < ring else begin % ring


cdef inline long up_to(Array[float] samples, double most) noexcept nogil:
    """How many are at most so much."""
    there = 0
    for k in range(samples.n):
        if samples[k] <= most:
            there += 1
    return there


cdef inline double ninetieth(Array[float] samples, long place, long end, long there, double low, double high) noexcept nogil:
    """The 90th percentile (nearest rank) of the samples that are there, between `low` and `high`, found by halving."""
    rank = <long>math.ceil(0.9 * there - 1e-9)
    last, rest = min(end, samples.n), end - samples.n
    low -= 1.0
    for _ in range(64):
        middle = <double>(<float>(0.5 * (low + high)))
        number = up_to(samples.cut(place, last), middle) + up_to(samples.cut(0, max(0, rest)), middle)
        if number < rank:
            low = middle
        else:
            high = middle
        if number == rank or <double>(<float>(0.5 * (low + high))) == middle:
            break
    found = -INFINITY
    for turn in range(2):
        for k in range(place if turn == 0 else 0, last if turn == 0 else rest):
            if samples[k] <= high:
                found = max(found, samples[k])
    return found


cdef inline double c_fold_window(Array[float] samples, long published, long window, long fold) noexcept nogil:
    """The last `window` of the `published` samples as one value; nan where fewer than half of them are there."""
    there = 0
    total = 0.0
    low, high, latest = INFINITY, -INFINITY, NAN
    begin = max(0, published - window)
    place = place_of(begin, samples.n)
    end = place + published - begin
    # What lies beyond the end of the ring goes on at its beginning.
    for turn in range(2):
        first, last = (place, min(end, samples.n)) if turn == 0 else (0, end - samples.n)
        for k in range(first, last):
            value = samples[k]
            if math.isnan(value):
                continue
            there += 1
            total += value
            low, high, latest = min(low, value), max(high, value), value
    if fold == FOLD_COUNT:
        return <double>there
    if 2 * there < window or there == 0:
        return NAN
    if fold == FOLD_AVERAGE:
        return total / there
    if fold == FOLD_SUM:
        return total
    if fold == FOLD_MINIMUM:
        return low
    if fold == FOLD_P90:
        return ninetieth(samples, place, end, there, low, high)
    return high if fold == FOLD_MAXIMUM else latest


cdef inline double instances_metered(Array[float] samples, Array[float] metered, long published, long window) noexcept nogil:
    """Load-weighted number of instances behind a window: sum of n x m over sum of m; plain mean where m is zero."""
    load = total = count = 0.0
    there = 0
    begin = max(0, published - window)
    place = place_of(begin, samples.n)
    end = place + published - begin
    for turn in range(2):
        first, last = (place, min(end, samples.n)) if turn == 0 else (0, end - samples.n)
        for k in range(first, last):
            if not math.isnan(samples[k]):
                load += samples[k] * metered[k]
                total += samples[k]
                count += metered[k]
                there += 1
    if total > 0.0:
        return load / total
    return count / there if there else 0.0
