"""An independent model of clients that wait for their answer, think, and ask again, before one desk with several clerks.

Who comes first is served first. Thinking and service take exponential times; nobody gives up."""

import random
from collections import deque
from heapq import heappop, heappush

import numpy as np


def answers_of(clients: int, think: float, clerks: int, service: float, until: float, seed: int = 1) -> np.ndarray:
    """How long answers took (s) that were given in the last nine tenths of the time."""
    chance = random.Random(seed)
    due = [(chance.expovariate(1 / think), 0, 0.0) for _ in range(clients)]
    due.sort()
    line: deque[float] = deque()
    busy, took = 0, []
    while due[0][0] < until:
        now, ends, since = heappop(due)
        if ends:
            busy -= 1
            if now > until / 10:
                took.append(now - since)
            heappush(due, (now + chance.expovariate(1 / think), 0, 0.0))
        else:
            line.append(now)
        while line and busy < clerks:
            busy += 1
            heappush(due, (now + chance.expovariate(1 / service), 1, line.popleft()))
    return np.array(took)
