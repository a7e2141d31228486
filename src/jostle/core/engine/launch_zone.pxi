"""In which zone an instance is launched."""


cdef inline long zone_for(Setup* setup, State* state, long home) noexcept nogil:
    """The open zone with the fewest instances, the first of several; without balance the first open one; `home` alone where it
    has one. NOBODY if none."""
    best = NOBODY
    for z in range(state.zones.n):
        zone = &state.zones[z]
        if zone.lost > 0 or zone.closed > 0 or home not in (NOBODY, z):
            continue
        if best == NOBODY:
            best = z
            if not setup.rules.row.balance_zones:
                break
        elif zone.present < state.zones[best].present:
            best = z
    return best
