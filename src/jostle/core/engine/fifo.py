"""First come, first served: who waits is known from what has come in and what has left, both counted from the start."""

import numpy as np

from jostle.core.compiled import leaf


@leaf
def entered_before(entered: np.ndarray, tick: float, time: float) -> float:
    """How many came in before `time` (s from the start), even within ticks; none before the start."""
    if time <= 0.0:
        return 0.0
    k = int(time / tick)
    if k + 1 >= len(entered):
        return entered[-1]
    return entered[k] + (entered[k + 1] - entered[k]) * (time / tick - k)


@leaf
def entry_tick(entered: np.ndarray, amount: float, head: int, last: int) -> int:
    """The tick in which number `amount` came in, searched for from tick `head` to tick `last`."""
    while head < last and entered[head + 1] < amount:
        head += 1
    return head


@leaf
def entry_time(entered: np.ndarray, amount: float, head: int) -> float:
    """When number `amount` came in, in ticks; `head` is the tick in which it did."""
    came = entered[head + 1] - entered[head]
    return head + min(1.0, max(0.0, (amount - entered[head]) / came)) if came > 0.0 else float(head + 1)
