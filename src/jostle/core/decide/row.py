"""What a decision is told of the instances and the calendar, and the rows that it leaves."""

import numpy as np

from jostle.core.calendar.orders import HIGHEST, Orders
from jostle.core.decide.code import NOBODY
from jostle.core.decide.rules import rows

FLEET = np.dtype(
    [
        ("present", "i4"),  # instances that are not leaving, stopped or gone
        ("serving", "i4"),
        ("pinned", "i4"),  # of those present, how many scale in may never pick
        ("quota", "i4"),  # the most that the group may have
        ("waiting", "i4"),  # of those present, asked for and not taken yet
    ],
    align=True,
)
# What the calendar says at an instant; `by` fields and `set_entry` are numbers of entries
ORDER = np.dtype(
    [
        ("low", "i2"),
        ("high", "i2"),
        ("low_by", "i2"),
        ("high_by", "i2"),
        ("gates", "i1"),  # bits of calendar.Gate
        ("gates_by", "i2"),
        ("set_time", "f8"),  # of the latest setting until then; minus infinity without one
        ("set_until", "f8"),  # how long it is tried
        ("set_count", "i2"),
        ("set_by", "?"),  # whether it is added to the count
        ("set_entry", "i2"),
        ("week", "i4"),  # s since Monday began on the wall clock
    ],
    align=True,
)


def order_rows(told: Orders) -> np.recarray:
    """What the calendar says as rows of ORDER, shape (instants,)."""
    made = rows(len(told.low), ORDER)
    for field in ORDER.names or ():
        made[field] = getattr(told, field)
    return made


def no_orders(instants: int) -> np.recarray:
    """Rows of ORDER in which the calendar says nothing, shape (instants,)."""
    made = rows(instants, ORDER)
    made["high"], made["set_time"] = HIGHEST, -np.inf
    for field in ("low_by", "high_by", "gates_by", "set_entry"):
        made[field] = NOBODY
    return made


DECISION = np.dtype(
    [
        ("time", "f8"),
        ("desired", "i2"),
        ("serving", "i2"),
        ("pending", "i2"),  # requested, booting, warming or broken
        ("wanted", "i4"),  # what the winner asked for, before anything held it back
        ("paced", "i4"),  # what was left after the group's wait,
        ("allowed", "i4"),  # its mode,
        ("scheduled", "i4"),  # the calendar,
        ("braked", "i4"),  # and the brake
        ("decided", "i2"),  # and the limits,
        ("limit", "i1"),  # which of them, if any
        ("winner", "i2"),
        ("cause", "i1"),
        ("entry", "i2"),  # of the calendar, where it decided or held back
        ("outcome", "i1"),
        ("group_wait", "f4"),  # s left
        ("quota", "i4"),
        ("pinned", "i2"),  # of those present
    ],
)
VIEW = np.dtype(
    [
        ("value", "f4"),  # what the policy saw, in the metric's unit; nan without data
        ("ask", "i4"),  # the count it asked for
        ("state", "i1"),
        ("wait", "f4"),  # s left of its own wait
        ("ahead", "f4"),  # of what is expected: s until it comes,
        ("off", "f4"),  # how far off that usually is, 1/s,
        ("weeks", "i2"),  # the weeks behind it,
        ("ratio", "f4"),  # and how many times the usual comes of late
    ],
    align=True,
)
