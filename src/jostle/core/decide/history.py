"""What is usual by what came before: a demand's days before an instant, read week by week."""

from zoneinfo import ZoneInfo

import numpy as np

from jostle.core.built.figure import learn_all
from jostle.core.decide.rules import rows
from jostle.core.demand.series import parts_of
from jostle.core.plan.clock import Clock, seconds_of_week
from jostle.core.plan.demand import Demand
from jostle.core.plan.layer import WEEK, Brought, Growth
from jostle.core.plan.policy.lookahead import SLOT, SLOTS, USUAL

# What is not brought from anywhere is known for so long (s); what is brought, for so long at the most
KNOWN_FOR, LONGEST = 4 * WEEK, 52 * WEEK


def history_of(demand: Demand, until: float, zone: ZoneInfo) -> Clock | None:
    """The places of the week before an instant (s since 1970) of which a demand knows; None where it knows of none."""
    brought = [layer for layer in demand.layers if isinstance(layer, Brought) and not layer.muted]
    lying = [layer.lies(Clock(until, SLOT, 1, zone)) for layer in brought]
    since = min((begin for begin, _, _ in lying), default=until - KNOWN_FOR)
    last = min([until, *(begin + length for begin, length, _ in lying)])
    first = SLOT * np.ceil(max(since, last - LONGEST) / SLOT)
    ticks = int((last - first) / SLOT)
    return Clock(float(first), SLOT, ticks, zone) if ticks > 0 else None


def usual_week(demand: Demand, until: float, zone: ZoneInfo) -> np.recarray:
    """What is usual at each place in the week by the days of a demand before an instant (s since 1970): rows of USUAL, shape
    (SLOTS,). What the seed draws is left out. Raises ValueError where a file has not been read."""
    found = rows(SLOTS, USUAL)
    clock = history_of(demand, until, zone)
    if clock is None:
        return found
    parts = parts_of(demand, clock, 0, drawn=False)
    rates = parts.base * parts.shape + parts.besides
    for layer in demand.layers:
        if isinstance(layer, Growth) and not layer.muted:
            rates = rates / (1.0 + layer.weekly) ** ((until - clock.first) / WEEK)
    learn_all(found, rates, seconds_of_week(clock.epochs, zone))
    return found
