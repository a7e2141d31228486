"""Names that are given again, and what goes with them: a zone, and a disk that waits for the next who bears them."""


cdef inline long free_post(Setup* setup, State* state) noexcept nogil:
    """The lowest number that nobody bears, NOBODY where numbers are not used again."""
    if not setup.fixed.posts:
        return NOBODY
    for p in range(state.posts.n):
        if state.posts[p].held_by == NOBODY:
            return p
    return NOBODY


cdef inline long home_of(Setup* setup, State* state, long post) noexcept nogil:
    """The zone in which the next who bears a number has to be, or NOBODY."""
    return state.posts[post].zone if setup.fixed.keeps and post != NOBODY else NOBODY


cdef inline double attach(Setup* setup, State* state, long i, double time) noexcept nogil:
    """The disk that was kept of the number of instance i is its own again. Returns how long that takes (s)."""
    if not setup.fixed.keeps:
        return 0.0
    post = &state.posts[state.instances[i].post]
    post.zone = state.instances[i].zone
    if post.spell == NOBODY:
        return 0.0
    row = &state.spells[post.spell]
    row.end = time
    state.crews[state.instances[row.instance].kind].detached -= 1
    post.spell = NOBODY
    return setup.fixed.attach


cdef inline void lay_down(Setup* setup, State* state, long i, double time) noexcept nogil:
    """Instance i ends, and its number is free. Its disk stays where the group keeps it."""
    one = &state.instances[i]
    if one.post == NOBODY:
        return
    post = &state.posts[one.post]
    post.held_by = NOBODY
    if not setup.fixed.keeps or one.state == LIFE_REQUESTED:
        return
    if one.unwanted and not setup.fixed.disks_stay:
        post.zone = NOBODY
        return
    post.spell = new_spell(state, i, BILLED_DETACHED, time)
    state.crews[one.kind].detached += 1
