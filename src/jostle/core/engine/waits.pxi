"""One instance as a counter with several clerks, and visitors who give up: how long answers take at a given load.

The wait that an arrival meets has an atom at 0 and, up to the patience, a density that falls (or, beyond a load of 1, rises)
exponentially. For arrivals by chance and exponential service this is M/M/v with deterministic patience, exactly (Boots and
Tijms, A multiserver queueing system with impatient customers, 1999); it is continuous through a load of 1. Other ways of
spreading, and other lengths of service, change the two numbers of that density."""


cdef inline double rising(double rate, double span) noexcept nogil:
    """rate / (1 - exp(-rate * span)): the density at 0 of an exponential cut off at `span`, continuous through a rate of 0."""
    x = rate * span
    return 1.0 / span if abs(x) < 1e-9 else -rate / math.expm1(-x) if x > -700.0 else 0.0


cpdef inline double wait_beyond(double t, double fall, double patience) noexcept nogil:
    """Probability that a wait, exponential with rate `fall` (which may be negative) and cut off at the patience, is over t."""
    if t <= 0.0:
        return 1.0
    if t >= patience:
        return 0.0
    if abs(fall * patience) < 1e-9:
        return 1.0 - t / patience
    if fall > 0.0:
        return (math.exp(-fall * t) - math.exp(-fall * patience)) / -math.expm1(-fall * patience)
    return -math.expm1(fall * (patience - t)) / -math.expm1(fall * patience)


cpdef inline double stay_beyond(double t, double waiting, double fall, double patience, double service_rate) noexcept nogil:
    """Probability that wait and exponential service together take longer than t seconds, of those answered.

    The sum of two exponentials, one of them cut off (Ross, Introduction to Probability Models, 5.2.4).
    """
    if t <= 0.0:
        return 1.0
    served = math.exp(-service_rate * t)
    m = min(t, patience)
    gap = service_rate - fall
    if fall >= 0.0:
        both = m * served if abs(gap * m) < 1e-7 else (math.exp(-service_rate * (t - m) - fall * m) - served) / gap
        both *= rising(fall, patience)
    else:
        ends = math.exp(-service_rate * (t - m) + fall * (patience - m)) - math.exp(fall * patience) * served
        both = rising(-fall, patience) * ends / gap
    return (1.0 - waiting) * served + waiting * (both + wait_beyond(t, fall, patience))


cdef inline double uneven_stay_beyond(
    double t, double waiting, double fall, double quick, double faster, double patience, Grid[double] service
) noexcept nogil:
    """The same for service of any lengths, as `service_points` has them; a part of the waits may fall faster."""
    if t <= 0.0:
        return 1.0
    last = service.m - 1
    alone = 0.0
    if t < service[0][0]:
        alone = 1.0
    elif t < service[0][last]:
        i = 0
        while service[0][i + 1] <= t:
            i += 1
        part = (t - service[0][i]) / (service[0][i + 1] - service[0][i])
        alone = service[1][i] + part * (service[1][i + 1] - service[1][i])
    both = 0.0
    for i in range(last):
        both += service[3][i] * (1.0 - quick) * wait_beyond(t - service[2][i], fall, patience)
        if quick > 0.0:
            both += service[3][i] * quick * wait_beyond(t - service[2][i], faster, patience)
    return (1.0 - waiting) * alone + waiting * both


cdef void c_wait_tables(
    long way,
    Array[long] counts,
    long clerks,
    double capacity,
    double patience,
    double unevenness,
    Array[double] loads,
    Block[double] tables,
) noexcept nogil:
    """Write into `tables` what each load comes to, shape (len(counts), len(Col), LOADS), but for Col.P95.

    `capacity` is what the clerks of an instance finish together (1/s), `counts` numbers of instances among which requests are
    spread. More uneven service makes waits longer in the measure of Allen and Cunneen (Allen, Probability, Statistics and
    Queueing Theory, 1990, 5.3), and those of very uneven service fall as in M/H2/1.
    """
    cdef double[2] falls
    cdef double[2] parts
    for c in range(counts.n):
        instances = <double>counts[c]
        spread = 1.0 / instances if way == WAY_TURN else 1.0
        longer = (spread + unevenness) / (spread + 1.0) if unevenness < 1.0 else 1.0
        for i in range(loads.n):
            load = max(loads[i], 1e-9)
            if abs(1.0 - load) < 1e-6:
                load = 1.0 + 1e-6
            share, fall = waiting_and_fall(way, clerks, instances, load)
            _, own = waiting_and_fall(way, clerks, instances, min(load, NEARLY))
            share = min(share, 1.0 - 1e-12)
            first = share / (1.0 - share) * own * capacity / longer
            falls[0], falls[1] = fall * capacity / longer, 1.0
            parts[0], parts[1] = 1.0, 0.0
            if unevenness > 1.0:
                slow, fast, part = two_falls(load, unevenness)
                falls[0], falls[1] = slow / (1.0 - load) * fall * capacity, fast * capacity
                parts[0], parts[1] = part, 1.0 - part
            # In measures of the density at the patience where it rises, lest it grow beyond all numbers
            risen = max(min(falls[0], falls[1]) * patience, -700.0)
            atom = math.exp(risen) if risen < 0.0 else 1.0
            within = beyond = waited = quick = 0.0
            for n in range(2):
                reach = falls[n] * patience
                if parts[n] == 0.0:
                    continue
                if reach >= 0.0:
                    inside, ends = atom / rising(falls[n], patience), atom * math.exp(-min(reach, 700.0))
                else:
                    inside, ends = 1.0 / rising(-falls[n], patience), 1.0
                inside *= first * parts[n]
                within += inside
                waited += inside * mean_wait(falls[n], patience)
                quick = inside
                # Beyond the patience the line falls as it is served; what comes in is what goes out.
                beyond += first * parts[n] * ends * (1.0 - load) / falls[n]
            whole = atom + within + beyond
            tables[c][COL_WAITING][i] = within / (atom + within)
            tables[c][COL_FALL][i], tables[c][COL_FASTER][i] = falls[0], falls[1]
            tables[c][COL_QUICK][i] = quick / within if parts[1] > 0.0 else 0.0
            tables[c][COL_P95][i] = 0.0
            tables[c][COL_LOST][i] = min(1.0, max(0.0, beyond / whole))
            tables[c][COL_LINE][i] = load * capacity * (waited + beyond * patience) / whole


cdef inline double mean_wait(double fall, double patience) noexcept nogil:
    """Mean of a wait, exponential with rate `fall` (which may be negative) and cut off at the patience."""
    x = fall * patience
    if abs(x) < 1e-4:
        return patience * (0.5 - x / 12.0)
    return 1.0 / fall - patience / math.expm1(min(x, 700.0))


cdef void c_stay_tails(
    Block[double] tables,
    Array[double] times,
    double patience,
    double service_rate,
    Grid[double] service,
    Block[float] tails,
) noexcept nogil:
    """Write into `tails` the share of the answers that take longer than each time, by count and load, shape (counts, LOADS, TIMES).

    `service` is empty for exponential lengths. The tables' 95th percentiles are filled in from it.
    """
    for c in range(tables.n):
        for i in range(tables.l):
            waiting, fall = tables[c][COL_WAITING][i], tables[c][COL_FALL][i]
            quick, faster = tables[c][COL_QUICK][i], tables[c][COL_FASTER][i]
            for t in range(times.n):
                if service.m == 0:
                    tails[c][i][t] = stay_beyond(times[t], waiting, fall, patience, service_rate)
                else:
                    tails[c][i][t] = uneven_stay_beyond(times[t], waiting, fall, quick, faster, patience, service)
            tables[c][COL_P95][i] = c_quantile(tails[c][i], times, 0.05)
