"""First come, first served: who waits is known from what has come in and what has left, both counted from the start."""


cdef inline double entered_before(Array[double] entered, double tick, double time) noexcept nogil:
    """How many came in before `time` (s from the start), even within ticks; none before the start."""
    if time <= 0.0:
        return 0.0
    k = <long>(time / tick)
    if k + 1 >= entered.n:
        return entered[entered.n - 1]
    return entered[k] + (entered[k + 1] - entered[k]) * (time / tick - k)


cdef inline long entry_tick(Array[double] entered, double amount, long head, long last) noexcept nogil:
    """The tick in which number `amount` came in, searched for from tick `head` to tick `last`."""
    while head < last and entered[head + 1] < amount:
        head += 1
    return head


cdef inline double entry_time(Array[double] entered, double amount, long head) noexcept nogil:
    """When number `amount` came in, in ticks; `head` is the tick in which it did."""
    came = entered[head + 1] - entered[head]
    return head + min(1.0, max(0.0, (amount - entered[head]) / came)) if came > 0.0 else <double>(head + 1)
