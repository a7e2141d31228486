"""Series cut to what a screen can show."""


cdef void cut_into(
    Array[double] values, Array[long] starts, Array[double] low, Array[double] high, Array[double] mean
) noexcept nogil:
    """Minimum, maximum and mean of the values from each start to before the next, leaving nan out."""
    for b in range(starts.n):
        end = starts[b + 1] if b + 1 < starts.n else values.n
        least, most, total, there = INFINITY, -INFINITY, 0.0, 0
        for k in range(starts[b], end):
            value = values[k]
            if not math.isnan(value):
                least, most = min(least, value), max(most, value)
                total += value
                there += 1
        if there:
            low[b], high[b], mean[b] = least, most, total / there
        else:
            low[b] = high[b] = mean[b] = NAN


cdef void mean_into(
    Array[double] values, Array[long] begins, Array[long] ends, Array[double] sums, Array[long] counts, Array[double] found
) noexcept nogil:
    """The mean of the values from each begin to before its end, by what came up to each, leaving nan out."""
    for k in range(values.n):
        value = values[k]
        if math.isnan(value):
            sums[k + 1], counts[k + 1] = sums[k] + 0.0, counts[k]
        else:
            sums[k + 1], counts[k + 1] = sums[k] + value, counts[k] + 1
    for i in range(begins.n):
        number = counts[ends[i]] - counts[begins[i]]
        if number > 0:
            found[i] = (sums[ends[i]] - sums[begins[i]]) / number


cdef void round_into(Array[double] values, Array[double] found) noexcept nogil:
    """The values to five significant digits."""
    for k in range(values.n):
        value = values[k]
        if value == 0.0 or not math.isfinite(value):
            found[k] = value
            continue
        tens = math.pow(10.0, min(12.0, max(-12.0, 4.0 - math.floor(math.log10(abs(value))))))
        found[k] = <double>(<long>math.rint(value * tens)) / tens


cdef void lay_lanes(
    Array[long] instances,
    Array[double] requested,
    Array[double] gone,
    Array[long] lines,
    Array[double] last,
    Array[long] line_of,
    Array[double] free_from,
) noexcept nogil:
    """The line of each start: all starts of an instance on one, the first that is free when it is first requested."""
    for i in range(requested.n):
        last[instances[i]] = max(last[instances[i]], INFINITY if math.isnan(gone[i]) else gone[i])
    used = 0
    for i in range(requested.n):
        who = instances[i]
        if line_of[who] < 0:
            line = 0
            while line < used and free_from[line] > requested[i]:
                line += 1
            used = max(used, line + 1)
            free_from[line] = last[who]
            line_of[who] = line
        lines[i] = line_of[who]
