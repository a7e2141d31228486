"""What an instance does with the requests that are there, by its table of waits, and the answers that are counted."""


cdef inline double column(Grid[double] table, long col, double place) noexcept nogil:
    """What a load comes to, between the loads of a table of waits, shape (len(Col), LOADS)."""
    low = <long>place
    high = min(low + 1, table.m - 1)
    return table[col][low] + (place - low) * (table[col][high] - table[col][low])


cdef inline void answered(Setup* setup, State* state, double served, long where, double place) noexcept nogil:
    """Count so many answers at a load, in row `where` of those by delay and table."""
    low = <long>place
    part = place - low
    high = min(low + 1, state.stay.m - 1)
    state.stay[where][low] += served * (1.0 - part)
    state.stay[where][high] += served * part
    if setup.fixed.meter_latency:
        now = state.now
        now.low_load, now.high_load = min(now.low_load, low), max(now.high_load, high)
        now.low_row, now.high_row = min(now.low_row, where), max(now.high_row, where)
        state.period_stay[where][low] += served * (1.0 - part)
        state.period_stay[where][high] += served * part


cdef inline (double, double, double, double) let_through(
    Grid[double] table, Array[double] loads, double can, double there, long guess
) noexcept nogil:
    """What an instance that can do so much in a tick does with the requests that are `there`, by its table of waits at each load.

    Returns its place among the loads, its load, the requests that go, and those of them that give up.
    """
    place = c_load_place(table[COL_LINE], loads, can, there, guess)
    low = <long>place
    load = loads[low]
    if place > low:
        load += (place - low) * (loads[low + 1] - load)
    gone = min(there, can * load)
    lost = max(gone * column(table, COL_LOST, place), gone - can)
    if place >= loads.n - 1:  # beyond all loads of the table
        lost = max(lost, there - column(table, COL_LINE, place) - can)
        gone = can + lost
    return place, load, gone, lost
