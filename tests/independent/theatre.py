"""An independent model of guests in several halls, guest by guest; it shares nothing with the engine.

A guest who comes goes to the emptiest hall, or to the fullest that has a seat, and stays for an exponential time.
"""

import heapq
import random


def holdings(halls: int, seats: int, rate: float, stay: float, packed: bool, until: float, seed: int) -> list[float]:
    """Guests on average in the emptiest hall, in the next, and so on, over the second half of the time (s)."""
    chance = random.Random(seed)
    held, leaving = [0] * halls, []
    now, area = 0.0, [0.0] * halls
    next_guest = chance.expovariate(rate)
    while now < until:
        at = min(next_guest, leaving[0][0] if leaving else until, until)
        if at > until / 2:
            for place, number in enumerate(sorted(held)):
                area[place] += number * (at - max(now, until / 2))
        now = at
        if now >= until:
            break
        if leaving and leaving[0][0] <= next_guest:
            held[heapq.heappop(leaving)[1]] -= 1
            continue
        room = [hall for hall in range(halls) if held[hall] < seats]
        if room:
            hall = max(room, key=lambda one: held[one]) if packed else min(room, key=lambda one: held[one])
            held[hall] += 1
            heapq.heappush(leaving, (now + chance.expovariate(1 / stay), hall))
        next_guest = now + chance.expovariate(rate)
    return [total / (until / 2) for total in area]
