"""In which order a launch would take what the spot market has."""


cdef inline (long, long) c_rank_places(Setup* setup, State* state, double time, Grid[long] ranks) noexcept nogil:
    """Write into `ranks`, of shape (types, zones), which place a spot launch would take now, which if that had nothing, and so
    on, from 1; 0 for those that it would not take. Returns the type that is bought on demand, and how the next launch is bought.
    The market of `setup` is written over."""
    quota, step = quota_at(setup, time), step_at(time, setup.market.units.l)
    version = state.memory.row.version
    ranks.fill(0)
    for rank in range(ranks.n * ranks.m):
        t, zone = spot_place(setup, state, step, setup.fixed.cap_chance, quota, 0.0, 0, NOBODY, version)
        if zone == NOBODY:
            break
        ranks[t][zone] = rank + 1
        setup.market.offered[t][zone][step] = False
    return on_demand_type(setup, state, quota, version), how_bought(setup, state, time)
