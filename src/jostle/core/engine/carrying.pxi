"""A host and its guests, played side by side in turns: as far as nothing happens to the host, and nobody is asked."""


cdef inline long c_carry_on(Setup* setup, State* state, Array[long] addresses, long step, long until) noexcept nogil:
    """Play a host and its guests, whose addresses follow on its own, to tick `until`, in turns of `step` ticks at most.

    Returns -1; the number of the one whose record is full or, under a keeper, where a fault was found; or, under a keeper, the
    number of the one that is to be asked, those of all before it added."""
    stopped = take_turns(setup, state, addresses, step, until)
    for g in range(addresses.n):
        own_setup, own = setup_at(addresses[g]), state_at(addresses[g])
        tell_apart(own_setup, own)
    return stopped


cdef inline long take_turns(Setup* setup, State* state, Array[long] addresses, long step, long until) noexcept nogil:
    """The same, where what each instance has under way is not written down.

    In a turn all go the same way, each by itself; what one gives back is there for the others from its end on. Then each has
    come, or leave, whom it is to, one after the other, the host last. A turn that was left in its midst is gone on with, and
    comes to the same."""
    now, helm = state.now, state.deck.helm
    helm.asked = NOBODY
    while now.tick < until or helm.stage == STAGE_DECIDES:
        if helm.stage == STAGE_BEGINS:
            if begins(setup, state, now.tick) and not begin_tick(setup, state, now.tick):
                return 0
            heed(setup, state, addresses)
            helm.heeded, helm.begun, helm.goal, helm.stage = helm.turns, now.tick, setup.fixed.ticks, STAGE_PLAYS
        if helm.stage == STAGE_PLAYS:
            quiet = now.tick if helm.turns != helm.heeded else tick_due(setup, state, now.tick, next_to(now.tick, step))
            helm.goal = min(helm.goal, quiet)
            stopped = play_all(setup, state, addresses, min(helm.goal, until))
            if stopped != NOBODY:
                return stopped
            if now.tick < helm.goal:
                return NOBODY
            if helm.vacated > 0:
                free_places(&state.deck)
                if helm.emptied:
                    helm.emptied = False
                    now.next_due = min(now.next_due, now.tick * setup.fixed.tick)
            helm.stage, helm.next = STAGE_DECIDES, 1
        if helm.owing > 0 or (setup.fixed.kept and helm.goal > helm.decided):
            asked = ask_all(setup, state, addresses)
            if asked != NOBODY:
                return asked
        helm.decided, helm.stage = helm.goal, STAGE_BEGINS
    return NOBODY


cdef inline void heed(Setup* setup, State* state, Array[long] addresses) noexcept nogil:
    """Each guest sees to its copies whose host leaves or is lost, and looks for places for those without one."""
    helm = state.deck.helm
    for g in range(1, addresses.n):
        guest = &state.deck.guests[g - 1]
        if guest.turns != helm.turns or guest.moves != helm.moves:
            own_setup, own = setup_at(addresses[g]), state_at(addresses[g])
            time = own.now.tick * setup.fixed.tick
            if guest.turns != helm.turns:
                heed_hosts(own_setup, own, time)
                guest.turns = helm.turns
            if own.now.waiting > 0:
                find_places(own_setup, own, time)
            guest.moves = helm.moves


cdef inline long play_all(Setup* setup, State* state, Array[long] addresses, long goal) noexcept nogil:
    """Play the guests to a tick, and then the host. Returns the number of the first that did not come so far, or NOBODY."""
    for n in range(1, addresses.n + 1):
        g = n if n < addresses.n else 0
        own_setup, own = setup_at(addresses[g]), state_at(addresses[g])
        if not play_on(own_setup, own, goal):
            return g
    return NOBODY


cdef inline long ask_all(Setup* setup, State* state, Array[long] addresses) noexcept nogil:
    """Have the count brought about by each that owes that, or by the keeper of each whose time it is, from the next on. Returns
    the number of one whose record is full, or that of one that a keeper is to ask, those of all before it added; or NOBODY."""
    helm, crowd = state.deck.helm, addresses.n
    while helm.next <= crowd:
        g = helm.next % crowd
        own_setup, own = setup_at(addresses[g]), state_at(addresses[g])
        if own.now.owes:
            if not room_left(own_setup, own):
                return g
            reconcile(own_setup, own, helm.goal * setup.fixed.tick, own.now.owed_by)
            own.now.owes = False
            helm.owing -= 1
        helm.next += 1
        if own_setup.fixed.kept and helm.goal % own_setup.fixed.evaluate_ticks == 0:
            helm.asked = g
            return crowd + g
    return NOBODY
