"""Seats: what each instance that serves holds, known by level while nothing but time passes."""


cdef inline void level_seats(State* state) noexcept nogil:
    """Know the sessions with those that serve by level: instances that hold as many are alike until one of them is picked out.

    Those that were known so before keep their order; who is new stands before those that hold as many, the newest first.
    """
    now = state.now
    levels = state.levels[0]
    starts = state.levels[1]
    levels.fill(0)
    now.levelled = True
    now.seated = now.emptying = 0
    found = 0
    for a in range(now.living):
        i = state.alive[now.living - 1 - a]
        one = &state.instances[i]
        if one.state == LIFE_SERVING:
            levels[one.sessions] += 1
            now.seated += one.sessions
            if not one.in_order:
                one.in_order = True
                state.sorting[found] = i
                found += 1
        elif one.state == LIFE_DRAINING and one.sessions > 0:
            state.draining[now.emptying] = i
            now.emptying += 1
    for r in range(now.ordered):
        i = state.order[r]
        if state.instances[i].state == LIFE_SERVING:
            state.sorting[found] = i
            found += 1
        else:
            state.instances[i].in_order = False
    rank = 0
    for level in range(levels.n):
        starts[level] = rank
        rank += levels[level]
    for r in range(found):
        i = state.sorting[r]
        held = state.instances[i].sessions
        state.order[starts[held]] = i
        starts[held] += 1
    now.ordered = found
    now.low_level, now.high_level = 0, levels.n - 1


cdef inline void write_seats(State* state) noexcept nogil:
    """Write down with each instance what it holds, before one of them is picked out or told of."""
    now = state.now
    if not now.levelled:
        return
    now.levelled = False
    rank = 0
    for level in range(now.low_level, now.high_level + 1):
        for _ in range(state.levels[0][level]):
            state.instances[state.order[rank]].sessions = level
            rank += 1


cdef inline void draw_in(State* state) noexcept nogil:
    """Have the lowest and the highest level be levels at which there are instances."""
    now = state.now
    levels = state.levels[0]
    while now.low_level < now.high_level and levels[now.low_level] == 0:
        now.low_level += 1
    while now.high_level > now.low_level and levels[now.high_level] == 0:
        now.high_level -= 1


cdef inline void leave_one(State* state, long picked) noexcept nogil:
    """The session in place `picked`, counted from the emptiest instances that serve, ends."""
    now = state.now
    levels = state.levels[0]
    level = max(1, now.low_level)
    while level < now.high_level and picked >= levels[level] * level:
        picked -= levels[level] * level
        level += 1
    levels[level] -= 1
    levels[level - 1] += 1
    now.low_level = min(now.low_level, level - 1)
    now.seated -= 1
    now.in_use -= 1


cdef inline long leave_levels(State* state, long ended, double place) noexcept nogil:
    """So many sessions end within a step, those in evenly spaced places counted from the emptiest instances, `place` being that
    of the first, as a share of what lies between them. Returns them.

    How many end is as chance has it, and each is as likely as any other to be among them; only how they lie to each other is
    more even than by chance.
    """
    now = state.now
    levels = state.levels[0]
    share = <double>ended / now.seated
    left, low = 0, now.low_level
    for level in range(max(1, low), now.high_level + 1):
        number = levels[level]
        if number > 0:
            place += number * level * share
            own = <long>place - left
            left += own
            each = <long>(level * share)  # nearly own // number, and a division costs more than all else here
            more = own - each * number
            if more < 0:
                each, more = each - 1, more + number
            elif more > number:
                each, more = each + 1, more - number
            levels[level] = 0
            levels[level - each] += number - more
            if more > 0:
                levels[level - each - 1] += more
                each += 1
            low = min(low, level - each)
    now.low_level = low
    now.seated -= left
    now.in_use -= left
    return left


cdef inline long seat_spread(State* state, long seats, long number) noexcept nogil:
    """Seat new sessions with the emptiest instances; returns how many found a seat."""
    now = state.now
    levels = state.levels[0]
    left, level, high = number, now.low_level, now.high_level
    while left > 0 and level < seats:
        moved = min(left, levels[level])
        level += 1
        if moved > 0:
            levels[level - 1] -= moved
            levels[level] += moved
            left -= moved
            high = max(high, level)
    now.high_level = high
    return number - left


cdef inline long seat_packed(State* state, long seats, long number) noexcept nogil:
    """Seat new sessions with the fullest instances that have room; returns how many found a seat."""
    now = state.now
    levels = state.levels[0]
    left, level = number, seats - 1
    while left > 0 and level >= now.low_level:
        if levels[level] > 0:
            room = seats - level
            filled = min(levels[level], left // room)
            levels[level] -= filled
            levels[seats] += filled
            left -= filled * room
            if left > 0 and levels[level] > 0:
                levels[level] -= 1
                levels[level + left] += 1
                left = 0
            now.high_level = seats
        level -= 1
    return number - left
