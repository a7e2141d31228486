"""Ways in which a balancer spreads requests over instances, and how often and how long they wait then."""

from enum import IntEnum

# Load up to which the delay formulas are taken; beyond it hardly anybody finds a clerk free in any case
NEARLY = 0.98
MOST_CLERKS = 16


class Way(IntEnum):
    """How the balancer spreads requests."""

    CHANCE = 0
    TURN = 1
    LEAST_BUSY = 2
