"""Chance by counting: a draw is a hash of seed, stream and index, and never of the order of calls.

Like numbered envelopes sealed beforehand: whoever opens number 17 of the noise finds the same thing inside, whatever
was opened before. So two arrangements under one seed meet the same week."""


cdef inline uint64_t stirred(uint64_t z, uint64_t part) noexcept nogil:
    """64 well-mixed bits with one part more (the finaliser of SplitMix64; Steele, Lea and Flood, 2014)."""
    z = (z ^ part) + <uint64_t>0x9E3779B97F4A7C15
    z = (z ^ (z >> <uint64_t>30)) * <uint64_t>0xBF58476D1CE4E5B9
    z = (z ^ (z >> <uint64_t>27)) * <uint64_t>0x94D049BB133111EB
    return z ^ (z >> <uint64_t>31)


cpdef inline long stream_of(long seed, long number) noexcept nogil:
    """The stream of a number: two thirds of the work of a draw, done once where many follow each other."""
    return <long>stirred(stirred(<uint64_t>0, <uint64_t>seed), <uint64_t>number)


cdef inline uint64_t mixed(long stream, long index) noexcept nogil:
    """64 well-mixed bits of a stream."""
    return stirred(<uint64_t>stream, <uint64_t>index)


cpdef inline double uniform(long stream, long index) noexcept nogil:
    """A number above 0 and below 1."""
    return (<double>(mixed(stream, index) >> <uint64_t>11) + 0.5) / 9007199254740992.0


cpdef inline double normal(long stream, long index) noexcept nogil:
    """A standard normal number (Box and Muller, 1958), from draws 2*index and 2*index + 1."""
    radius = math.sqrt(-2.0 * math.log(uniform(stream, 2 * index)))
    return radius * math.cos(2.0 * M_PI * uniform(stream, 2 * index + 1))


cdef inline double bell(long stream, long index) noexcept nogil:
    """A number of mean 0 and standard deviation 1, nearly normal and never beyond 4.9: the sum of eight bytes of one draw."""
    z = mixed(stream, index)
    pairs = <uint64_t>0x00FF00FF00FF00FF
    total = ((z & pairs) + ((z >> <uint64_t>8) & pairs)) * <uint64_t>0x0001000100010001
    return (<double>(total >> <uint64_t>48) - 1020.0) * (1.0 / 209.0215299911493)


cpdef inline double exponential(long stream, long index) noexcept nogil:
    """A number with mean 1 from the exponential distribution."""
    return -math.log(uniform(stream, index))


cpdef inline double lognormal(long stream, long index, double spread) noexcept nogil:
    """A lognormal number of mean 1 whose standard deviation is `spread`."""
    variance = math.log(1.0 + spread * spread)
    return math.exp(math.sqrt(variance) * normal(stream, index) - 0.5 * variance)


cpdef inline long poisson(long stream, long index, double mean) noexcept nogil:
    """A Poisson count, by inversion (Devroye, Non-Uniform Random Variate Generation, 1986, X.3.3)."""
    if mean > MANY:
        return max(0, <long>(mean + math.sqrt(mean) * bell(stream, index) + 0.5))
    left = uniform(stream, index)
    chance = math.exp(-mean)
    count = 0
    while left > chance and count < 400:
        left -= chance
        count += 1
        chance *= mean / count
    return count


cpdef inline long binomial(long stream, long index, long trials, double share, double none) noexcept nogil:
    """How many of so many trials succeed, by inversion (Devroye, X.4.2).

    `share` is the chance of each, at most a half; `none` the chance that none succeeds, (1 - share) ** trials.
    """
    mean = trials * share
    if mean > MANY:
        drawn = <long>math.rint(mean + math.sqrt(mean * (1.0 - share)) * normal(stream, index))
        return min(trials, max(0, drawn))
    left = uniform(stream, index)
    odds = share / (1.0 - share)
    chance = none
    count = 0
    while left > chance and count < trials:
        left -= chance
        count += 1
        chance *= odds * (trials - count + 1) / count
    return count
