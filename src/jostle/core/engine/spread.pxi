"""Ways in which a balancer spreads requests over instances, and how often and how long they wait then."""


cdef inline double erlang_b(long servers, double load) noexcept nogil:
    """Share of the arrivals that find all servers busy in M/M/v without room to wait, at any load.

    By its recurrence (Cooper, Introduction to Queueing Theory, 2nd ed., 3.5).
    """
    offered = servers * load
    blocked = 1.0
    for n in range(1, servers + 1):
        blocked = offered * blocked / (n + offered * blocked)
    return blocked


cpdef inline double erlang_c(long servers, double load) noexcept nogil:
    """Probability that an arrival has to wait in M/M/v, `load` being the utilisation of each server, 0 to below 1."""
    blocked = erlang_b(servers, load)
    return blocked / (1.0 - load * (1.0 - blocked))


cpdef inline double in_turn_fall(double instances, double load) noexcept nogil:
    """1 - sigma of GI/M/v whose arrivals are each the n-th of arrivals by chance; 1 - load for one instance.

    The root other than 0 of (1 - y) ** (1/n) * (1 + y / (n * load)) = 1 (Cooper, 5.14), continuous through a load of 1, where
    both are 0.
    """
    low, high = -instances * load * (1.0 - 1e-12), 1.0 - 1e-15
    for _ in range(60):
        y = 0.5 * (low + high)
        if abs(y) < 1e-9:
            slope = 1.0 / (instances * load) - 1.0 / instances
        else:
            slope = (math.log1p(-y) / instances + math.log1p(y / (instances * load))) / y
        if slope > 0.0:
            low = y
        else:
            high = y
    return 0.5 * (low + high)


cpdef inline double in_turn_waiting(long clerks, double instances, double load, double fall) noexcept nogil:
    """Probability that an arrival has to wait in GI/M/v whose arrivals are each the n-th of arrivals by chance.

    Takács (Introduction to the Theory of Queues, 1962, II.2).
    """
    total, product, ways = 1.0 / fall, 1.0, 1.0
    arriving = instances * clerks * load
    for j in range(1, clerks + 1):
        phi = math.pow(arriving / (arriving + j), instances)
        product *= phi / (1.0 - phi)
        ways *= (<double>(clerks - j + 1)) / j
        below = clerks * fall - j
        if abs(below) < 1e-9:
            below = 1e-9
        total += ways / (product * (1.0 - phi)) * (clerks * (1.0 - phi) - j) / below
    return min(1.0, max(0.0, 1.0 / (total * fall)))


cdef inline double between(Array[double] xs, double x) noexcept nogil:
    """Place of x among rising numbers, as a position that may lie between two; the ends hold beyond them."""
    if x <= xs[0]:
        return 0.0
    for i in range(1, xs.n):
        if x <= xs[i]:
            return i - 1 + (x - xs[i - 1]) / (xs[i] - xs[i - 1])
    return xs.n - 1.0


cdef inline double corrected(Block[double] tables, long clerks, double instances, double load) noexcept nogil:
    """A figure of the least busy tables between those that were measured: by the logarithm of the instances, and the load."""
    c = 0
    while c < CLERKS.n - 1 and CLERKS[c + 1] <= clerks:
        c += 1
    table = tables[c]
    across = between(BUSY_LOADS, load)
    j = min(<long>across, BUSY_LOADS.n - 2)
    i = 0
    while i < INSTANCES.n - 2 and INSTANCES[i + 1] <= instances:
        i += 1
    down = math.log(instances / INSTANCES[i]) / math.log(<double>INSTANCES[i + 1] / INSTANCES[i])
    down, across = min(1.0, down), across - j
    low = table[i][j] + across * (table[i][j + 1] - table[i][j])
    high = table[i + 1][j] + across * (table[i + 1][j + 1] - table[i + 1][j])
    return low + down * (high - low)


cdef inline (double, double) waiting_and_fall(long way, long clerks, double instances, double load) noexcept nogil:
    """Probability of a wait where nobody gives up, at most at a load of NEARLY, and its fall in services of a whole instance."""
    near = min(load, NEARLY)
    if way == WAY_TURN:
        fall = in_turn_fall(instances, load)
        if clerks > MOST_CLERKS:
            return erlang_c(clerks, near), fall
        return in_turn_waiting(clerks, instances, near, in_turn_fall(instances, near)), fall
    if way == WAY_LEAST_BUSY:
        share = erlang_c(<long>(clerks * instances), near) * corrected(WAITING, clerks, instances, near)
        fall = (1.0 - math.pow(load, instances)) / corrected(LASTING, clerks, instances, near)
        return share, max(fall, -1e3)
    return erlang_c(clerks, near), 1.0 - load


cdef inline (double, double, double) two_falls(double load, double unevenness) noexcept nogil:
    """The two rates at which the density of the wait falls in M/H2/1, in services, and the part of the first at a wait of 0.

    The poles of its transform (Cooper, 5.8), for lengths of `two_kinds`; the first is 0 at a load of 1 and negative beyond.
    """
    _, long, short = two_kinds(unevenness)
    quick, slow = 1.0 / short, 1.0 / long
    both = quick * slow
    half = 0.5 * (quick + slow - load)
    root = math.sqrt(half * half - both * (1.0 - load))
    fast = half + root
    fall = both * (1.0 - load) / fast
    return fall, fast, (both - fall) / (fast - fall)
