"""What a group remembers from one decision to the next."""


cdef inline long removed_since(Memory* memory, double since) noexcept nogil:
    """Instances taken off the count by decisions after a time."""
    removed = 0
    ring, written = memory.removals, memory.row.removals
    for k in range(written - 1, max(0, written - ring.n) - 1, -1):
        one = &ring[k % ring.n]
        if one.time <= since + 1e-6:
            break
        removed += one.number
    return removed


cdef inline void remember_removal(Memory* memory, double time, long number) noexcept nogil:
    row = memory.row
    one = &memory.removals[row.removals % memory.removals.n]
    one.time, one.number = time, number
    row.removals += 1


cdef inline long c_set_by_hand(Rules* rules, Memory* memory, long count) noexcept nogil:
    """A hand sets the count, within the limits; it stands until a policy or a setting changes it. Returns what it became."""
    one = rules.row
    memory.row.desired = min(max(count, one.minimum), one.maximum)
    memory.row.hand_stands = True
    return memory.row.desired
