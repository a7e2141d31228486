"""The room on a host's instances: who opens it and closes it, and who takes of it."""


cdef inline void open_room(Setup* setup, State* state, long i) noexcept nogil:
    """Instance i of a host takes copies from now on."""
    if setup.fixed.work == WORK_KIND_HOSTING:
        c_clear_room(setup, &state.deck, i, state.instances[i].kind, state.instances[i].zone)


cdef inline void c_clear_room(Setup* setup, Deck* deck, long i, long kind, long zone) noexcept nogil:
    """Instance i of a host, of a kind and in a zone, has all its room but for what is still held of it."""
    room, helm = &deck.rooms[i], deck.helm
    if not room.open:
        at = helm.open
        while at > 0 and deck.open[at - 1] > i:
            deck.open[at] = deck.open[at - 1]
            at -= 1
        deck.open[at] = i
        helm.open += 1
    room.zone, room.open, room.lost = zone, True, False
    room.vcpus, room.memory = setup.kinds[kind].room_vcpus, setup.kinds[kind].room_memory
    for g in range(deck.guests.n):
        room.vcpus -= deck.held[i][g] * deck.guests[g].vcpus
        room.memory -= deck.held[i][g] * deck.guests[g].memory
    helm.hosts = max(helm.hosts, i + 1)
    helm.moves += 1


cdef inline void close_room(Setup* setup, State* state, long i, bint lost) noexcept nogil:
    """Instance i of a host takes no more copies; those that it has are lost with it, or are to go elsewhere."""
    if setup.fixed.work == WORK_KIND_HOSTING:
        room, helm = &state.deck.rooms[i], state.deck.helm
        if room.open or (lost and not room.lost):
            helm.turns += 1
            helm.moves += 1
        if room.open:
            shut(&state.deck, i)
        room.lost = room.lost or lost


cdef inline void shut(Deck* deck, long i) noexcept nogil:
    """Instance i of a host is no more among those that take copies."""
    kept = 0
    for n in range(deck.helm.open):
        if deck.open[n] != i:
            deck.open[kept] = deck.open[n]
            kept += 1
    deck.helm.open = kept
    deck.rooms[i].open = False


cdef inline bint has_room(Deck* deck, long h, long g) noexcept nogil:
    """Whether a copy of guest g fits on host h, which is open."""
    room, guest = &deck.rooms[h], &deck.guests[g]
    return room.vcpus + CRUMB >= guest.vcpus and room.memory + CRUMB >= guest.memory


cdef inline long copies_in(Deck* deck, long g, long zone) noexcept nogil:
    """Copies of guest g on the open hosts of a zone."""
    number = 0
    for n in range(deck.helm.open):
        h = deck.open[n]
        if deck.rooms[h].zone == zone:
            number += deck.held[h][g]
    return number


cdef inline bint is_fitter(Setup* setup, Deck* deck, long h, long best, long g) noexcept nogil:
    """Whether a copy of guest g goes rather to host h than to another that has room too."""
    mine, other = &deck.rooms[h], &deck.rooms[best]
    if setup.fixed.put == PUT_SPREAD:
        if mine.zone != other.zone:
            there, elsewhere = copies_in(deck, g, mine.zone), copies_in(deck, g, other.zone)
            if there != elsewhere:
                return there < elsewhere
        if deck.held[h][g] != deck.held[best][g]:
            return deck.held[h][g] < deck.held[best][g]
        return mine.memory > other.memory + CRUMB
    if abs(mine.memory - other.memory) > CRUMB:
        return mine.memory < other.memory
    return deck.held[h][g] < deck.held[best][g]


cdef inline long c_find_host(Setup* setup, Deck* deck) noexcept nogil:
    """The host on which the next copy of a guest is put, NOBODY where none has room for it; looked for once after each move."""
    helm, g, best = deck.helm, setup.fixed.guest, NOBODY
    guest = &deck.guests[g]
    if guest.found_after == helm.moves:
        return guest.found
    for n in range(helm.open):
        h = deck.open[n]
        if has_room(deck, h, g) and (best == NOBODY or is_fitter(setup, deck, h, best, g)):
            best = h
    guest.found, guest.found_after = best, helm.moves
    return best


cdef inline void c_take_place(Deck* deck, long h, long g) noexcept nogil:
    """A copy of guest g is put on host h."""
    room, guest = &deck.rooms[h], &deck.guests[g]
    deck.held[h][g] += 1
    guest.placed += 1
    room.copies += 1
    room.vcpus -= guest.vcpus
    room.memory -= guest.memory
    deck.helm.moves += 1


cdef inline long put_on_host(Setup* setup, State* state, long i) noexcept nogil:
    """Copy i gets a place. Returns the zone."""
    h = c_find_host(setup, &state.deck)
    state.instances[i].host = h
    c_take_place(&state.deck, h, setup.fixed.guest)
    return state.deck.rooms[h].zone


cdef inline void leave_host(Setup* setup, State* state, long i) noexcept nogil:
    """Copy i gives its place back: it is there for others from the end of the turn on."""
    one, g, deck = &state.instances[i], setup.fixed.guest, &state.deck
    if one.host != NOBODY and g != NOBODY:
        deck.back[one.host][g] += 1
        deck.guests[g].placed -= 1
        deck.helm.vacated += 1


cdef inline void free_places(Deck* deck) noexcept nogil:
    """What was given back in a turn is there for others."""
    helm = deck.helm
    for h in range(helm.hosts):
        room = &deck.rooms[h]
        if room.copies == 0:
            continue
        for g in range(deck.guests.n):
            number = deck.back[h][g]
            if number > 0:
                deck.back[h][g] = 0
                deck.held[h][g] -= number
                room.copies -= number
                room.vcpus += number * deck.guests[g].vcpus
                room.memory += number * deck.guests[g].memory
                helm.emptied = helm.emptied or (room.copies == 0 and not room.open)
    helm.moves += 1
    helm.vacated = 0


cdef inline (double, double) largest_room(Deck* deck, double memory) noexcept nogil:
    """The most memory (GiB) that a host has free, and the most vCPUs of those that have so much memory free."""
    most, vcpus = 0.0, 0.0
    for n in range(deck.helm.open):
        room = &deck.rooms[deck.open[n]]
        most = max(most, room.memory)
        if room.memory + CRUMB >= memory:
            vcpus = max(vcpus, room.vcpus)
    return most, vcpus


cdef inline void write_left(Deck* deck, long n) noexcept nogil:
    """Write in `left` what the host at place n of those that take copies has left."""
    room = &deck.rooms[deck.open[n]]
    deck.left[n][0], deck.left[n][1] = room.vcpus, room.memory


cdef inline long survey(Deck* deck) noexcept nogil:
    """Write down what each host that takes copies has left, how many copies surely find a place there, whichever guests they are
    of, and which have room for any at all. Returns how many surely find a place on all of them: one that refuses a copy has taken
    as many as it has room for of the largest."""
    helm = deck.helm
    most_vcpus = most_memory = 0.0
    least_vcpus = least_memory = INFINITY
    for g in range(deck.guests.n):
        guest = &deck.guests[g]
        most_vcpus, most_memory = max(most_vcpus, guest.vcpus), max(most_memory, guest.memory)
        least_vcpus, least_memory = min(least_vcpus, guest.vcpus), min(least_memory, guest.memory)
    helm.roomy = number = 0
    for n in range(helm.open):
        write_left(deck, n)
        vcpus, memory = deck.left[n][0] + CRUMB, deck.left[n][1] + CRUMB
        deck.fits[n] = <long>min(vcpus / most_vcpus, memory / most_memory)
        number += deck.fits[n]
        if vcpus >= least_vcpus and memory >= least_memory:
            deck.roomy[helm.roomy] = n
            helm.roomy += 1
    return number


cdef inline long stranded_by(Deck* deck, long lost) noexcept nogil:
    """How many copies would find no place on the others were this host lost, those that take most put first. What is left to each
    is written in `left`, and stands there again in the end."""
    number = furthest = 0
    for r in range(deck.guests.n):
        g = deck.guests[r].rank
        guest, missing = &deck.guests[g], deck.held[lost][g]
        for m in range(deck.helm.roomy):
            if missing == 0:
                break
            n = deck.roomy[m]
            furthest = max(furthest, m + 1)
            if deck.open[n] == lost or deck.left[n][0] + CRUMB < guest.vcpus or deck.left[n][1] + CRUMB < guest.memory:
                continue
            fit = min((deck.left[n][0] + CRUMB) / guest.vcpus, (deck.left[n][1] + CRUMB) / guest.memory)
            put = min(missing, <long>fit)
            missing -= put
            deck.left[n][0] -= put * guest.vcpus
            deck.left[n][1] -= put * guest.memory
        number += missing
    for m in range(furthest):
        write_left(deck, deck.roomy[m])
    return number


cdef inline long stranded(Deck* deck) noexcept nogil:
    """How many copies would find no place were a host lost, the worst of all hosts; found anew after each move. Only those hosts
    are gone through that have more copies than the worst so far, and than surely find a place on the others."""
    helm = deck.helm
    if helm.seen != helm.moves and deck.guests.n > 0:
        helm.seen, helm.stranded = helm.moves, 0
        fit = survey(deck)
        for n in range(helm.open):
            h = deck.open[n]
            if deck.rooms[h].copies > max(helm.stranded, fit - deck.fits[n]):
                helm.stranded = max(helm.stranded, stranded_by(deck, h))
    return helm.stranded
