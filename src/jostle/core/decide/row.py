"""What a decision is told of the instances and the calendar, and the rows that it leaves."""

import numpy as np

from jostle.core.calendar.orders import HIGHEST, Orders
from jostle.core.decide.code import NOBODY
from jostle.core.decide.rules import rows

# What is read of the instances of a version, summed from the beginning on: requests, jobs or sessions that were answered and that
# failed, seconds that instances served, with the share of CPU, and the latency p95 of each answer (s)
SIDE_FIELDS = ("answers", "failed", "seconds", "cpu", "stay")
SIDE = np.dtype([(field, "f8") for field in SIDE_FIELDS])
FLEET_SIDES = tuple(f"{side}_{field}" for side in ("own", "others") for field in SIDE_FIELDS)
# That of the version that is being brought in, and the others together
FLEET = np.dtype(
    [
        ("present", "i4"),  # instances that are not leaving, stopped or gone
        ("serving", "i4"),
        ("pinned", "i4"),  # of those present, how many scale in may never pick
        ("quota", "i4"),  # the most that the group may have
        ("waiting", "i4"),  # of those present, asked for and not taken yet
        ("fresh", "i4"),  # of those present, those of the version that is being brought in
        ("fresh_serving", "i4"),
        *((field, "f8") for field in FLEET_SIDES),
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
        ("rollout", "i2"),  # number of its entry, or NOBODY
        ("phase", "i1"),
        ("step", "i1"),
        ("version_before", "i2"),
        ("version", "i2"),  # that it brings in
        ("goal", "i4"),  # instances of that
        ("own", "f4"),  # what a canary came to, and the others,
        ("others", "f4"),
        ("chance", "f4"),  # how likely that is of a version that is no worse,
        ("answers", "f4"),  # on so many answers,
        ("look", "i2"),  # at which look
    ],
)
VIEW = np.dtype(
    [
        ("value", "f4"),  # what the policy saw, in the metric's unit; nan without data
        ("ask", "i4"),  # the count it asked for
        ("state", "i2"),
        ("weeks", "i2"),  # of what is expected: the weeks behind it,
        ("ahead", "f4"),  # s until it comes,
        ("off", "f4"),  # how far off that usually is, 1/s,
        ("ratio", "f4"),  # and how many times the usual comes of late
        ("wait", "f4"),  # s left of its own wait
    ]
)
