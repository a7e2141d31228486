"""What is likely to come: learned week by week at each place in it, as many times as it runs above or below that of late.

Only samples that are known at an instant are read at it, so that nothing later can change what is expected."""


cdef inline long place_in_week(double week) noexcept nogil:
    """The place of a time in the week (s since Monday began)."""
    return wrapped(<long>math.floor(week / SLOT), SLOTS)


cdef inline void take_in(Rules* rules, Memory* memory, Sight* sight, long p, double time, long week, long published) noexcept nogil:
    """Policy p reads the samples that have come since it last did: what was usual at a place is learned once that is over."""
    book, policy, one = &memory.books[rules.policies[p].book], &rules.policies[p], rules.row
    usual = memory.usual[policy.book]
    ring = sight.samples.l
    fade = math.exp(-1.0 / policy.window)
    for k in range(max(book.read, published - ring), published):
        rate = sight.samples[0][DIAL_ARRIVALS][k % ring]
        if math.isnan(rate):
            continue
        slot = place_in_week(week - time + (k + 0.5) * one.period)
        if slot != book.slot:
            if book.slot != NOBODY:
                c_learn(usual, book.slot, book.summed / book.number)
            book.slot, book.summed, book.number = slot, 0.0, 0
        book.summed += rate
        book.number += 1
        if usual[slot].weeks > 0:
            book.seen = fade * book.seen + <double>rate
            book.usual = fade * book.usual + <double>usual[slot].rate
    book.read = published


cdef inline void expect(Rules* rules, Memory* memory, long p, long week) noexcept nogil:
    """What policy p expects at the most from now to as far as it looks ahead."""
    policy = &rules.policies[p]
    book, usual = &memory.books[policy.book], memory.usual[policy.book]
    book.ratio = 1.0
    if book.usual > 0.0:
        book.ratio = min(MOST_ABOVE, max(1.0 / MOST_ABOVE, book.seen / book.usual))
    best = NOBODY
    first = <long>math.floor(<double>week / SLOT)
    for n in range(first, <long>math.floor((week + policy.lead) / SLOT) + 1):
        one = &usual[n % SLOTS]
        if one.weeks > 0 and (best == NOBODY or one.rate > usual[best % SLOTS].rate):
            best = n
    if best == NOBODY:
        book.expected, book.ahead, book.off, book.weeks = NAN, 0.0, 0.0, 0
        return
    one = &usual[best % SLOTS]
    book.expected, book.off, book.weeks = book.ratio * <double>one.rate, book.ratio * <double>one.off, one.weeks
    book.ahead = max(0.0, <double>(best * SLOT - week))


cdef inline void look_ahead(Rules* rules, Memory* memory, Sight* sight, double time, long week, long published) noexcept nogil:
    """All policies that look ahead read and expect, at a time (s) that lies so far into the week (s)."""
    for p in range(rules.policies.n):
        if rules.policies[p].kind == POLICY_KIND_LOOKAHEAD:
            take_in(rules, memory, sight, p, time, week, published)
            expect(rules, memory, p, week)
