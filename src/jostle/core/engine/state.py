"""Where everybody stands at this instant (`State`), with the record of how they came there."""

from typing import Annotated, NamedTuple

import numpy as np

from jostle.core.built.laid import Bytes, FloatGrid, Floats, LongGrid, Longs, Many, One
from jostle.core.decide.code import NOBODY
from jostle.core.decide.leaving import CANDIDATE
from jostle.core.decide.memory import Memory
from jostle.core.decide.row import DECISION, FLEET, SIDE, VIEW
from jostle.core.decide.rules import rows
from jostle.core.decide.sight import Sight
from jostle.core.engine.deck import Deck

# Ticks that are played in one, at most
AT_ONCE = 32
# A number owned or a quota that no group reaches
UNLIMITED = 2**30

NOW = np.dtype(
    [
        ("tick", "i8"),  # next tick to be played
        ("serving", "i4"),
        ("units", "i4"),  # those in what the group counts in
        ("dead", "i4"),  # broken, and still given work
        ("draining", "i4"),
        ("billed", "i4"),  # instances that run, or boot, or drain
        ("stopped", "i4"),
        ("present", "i4"),  # instances that are not leaving, stopped or gone
        ("waiting", "i4"),  # of them requested and refused so far
        ("next_due", "f8"),  # s from the start: earliest change of an instance's state, incident or hand
        ("departed", "f8"),  # requests served or failed, jobs done, sessions begun or refused, cumulative
        ("head", "i8"),  # a tick not after that in which the oldest that waits arrived
        ("served", "f8"),
        ("failed", "f8"),
        ("backlog", "f8"),
        ("line", "f8"),  # requests expected to wait
        ("in_use", "f8"),  # arrivals of the tick in 1/s, jobs in the system, or sessions
        ("seated", "i8"),  # of them with instances that serve
        ("levelled", "?"),  # whether those are known by level, rather than by instance
        ("low_level", "i4"),  # no instance that serves holds fewer, or more than the next
        ("high_level", "i4"),
        ("ordered", "i4"),  # instances in `order`
        ("emptying", "i4"),  # instances in `draining`
        ("cut_off", "f8"),  # sessions ended before their time
        ("returned", "f8"),  # jobs given back unfinished
        ("repeated", "f8"),  # work done twice, in jobs
        ("spend", "f8"),
        ("pieces", "f8"),  # done, by which traffic is told
        ("short_ticks", "i8"),
        ("launched", "i8"),  # instances ever
        ("living", "i8"),  # of them not yet gone
        ("spells", "i8"),
        ("events", "i8"),
        ("samples", "i8"),
        ("evaluations", "i8"),
        ("next_hand", "i4"),
        ("cpu_ticks", "f8"),  # sum over ticks of CPU x serving instances
        ("served_ticks", "f8"),  # sum over ticks of serving instances
        ("overflow_ticks", "f8"),  # sum over ticks of overflow instances
        ("overflow", "i4"),
        ("extra_latency", "f8"),
        ("busy", "f8"),  # share of its capacity that the group gave in the last tick
        ("boot_factor", "f8"),
        ("surplus", "i4"),  # launched beyond need and not dropped yet
        ("at_load", "i4"),  # place of the last load in the table
        ("held", "f8"),  # drawn beside those expected, and not answered yet
        ("own_lines", "?"),  # whether each instance's line is known
        ("low_load", "i4"),  # first and last load, and row of the tables, that the running meter period has met
        ("high_load", "i4"),
        ("low_row", "i4"),
        ("high_row", "i4"),
        ("late_at", "i4"),  # which of the times of the line was the 95th percentile of the last meter period
        ("moved", "f8"),  # sessions that went since they were told to
        ("coming_back", "i4"),  # of them, those that begin anew in the next step
        ("came_back", "f8"),
        ("no_spot_since", "f8"),  # s: since when launches wait for it
        ("on_demand_until", "f8"),  # s: until then no spot is looked for
        ("swaps", "i8"),
        ("reclaimed", "i8"),  # instances that the market took back
        ("spot_refused", "i8"),  # launches for which there was no spot
        ("lacks", "f8"),  # whole instances that the serving ones lack in this tick for want of credits
        ("tired_ticks", "f8"),  # sum over ticks of the serving instances whose credits are gone
        ("answer", "f8"),  # s: mean time of an answer in the last tick, where clients wait for it
        ("quickest", "f8"),  # s: the same where nobody waits
        ("asking_part", "f8"),  # share of those clients among all who asked
        ("gave_up", "f8"),  # requests that were given up in the last tick
        ("short", "?"),
        ("gaps", "i4"),  # left by instances that are gone and are to be replaced, in what the group counts in
        ("too_many", "i4"),  # the goal for which the next in turn was worth more than what was too many,
        ("told_then", "i8"),  # and how many events there were
        ("held_at", "i4"),  # the count at which a limit holds it since that was last told, or NOBODY
        ("pins", "?"),  # whether any instance may have been pinned,
        ("doubled", "?"),  # and any be there in the place of another
        ("uneven", "?"),  # instances whose shares or capacities differ
        ("coming", "i8"),  # the version that is being brought in, or NOBODY
        ("errors", "f8"),  # requests that failed of their instances in the last tick
        ("found", "?"),  # whether health checks have found a fault that nobody has seen to
        ("begun", "i8"),  # ticks whose beginning has been played
        ("owes", "?"),  # whether those that are there are still to be brought to the count, of a host or guest
        ("owed_by", "i2"),  # the policy that has it so, or NOBODY
    ],
    align=True,
)

INSTANCE = np.dtype(
    [
        ("requested", "f8"),
        ("booted", "f8"),
        ("serves", "f8"),
        ("drains", "f8"),  # nan until it is told to leave
        ("gone", "f8"),  # nan while it is there
        ("breaks", "f8"),  # when its next fault comes
        ("broke", "f8"),  # nan unless it is broken
        ("unused", "f8"),  # when a broken one is given no more work
        ("noticed", "f8"),  # when a broken one is found
        ("stress_until", "f8"),
        ("deadline", "f8"),  # when a draining one ends at the latest, where it was told so
        ("stress", "f8"),  # share of its CPU
        ("share", "f8"),  # of the group's arrivals
        ("line", "f8"),  # requests that wait with it, where instances differ
        ("busy", "f8"),
        ("cpu", "f8"),  # where instances differ
        ("answered", "f8"),  # in the last tick, where they do
        ("credits", "f8"),  # of a bursting machine, s of one vCPU
        ("at_load", "i4"),
        ("sessions", "i4"),
        ("heeding", "i4"),  # of its sessions, those that are about to go since they were told to
        ("told", "i4"),  # how often they were told
        ("in_order", "?"),  # whether it stands in `order`
        ("state", "i1"),
        ("fault", "i1"),
        ("zone", "i2"),
        ("kind", "i1"),  # of machine
        ("version", "i8"),
        ("restarts", "i2"),
        ("overflow", "?"),
        ("pinned", "?"),
        ("given_work", "?"),
        ("found", "?"),  # whether its fault was found, and waits to be seen to
        ("lacks", "f8"),  # part of its capacity that its credits do not allow in this tick
        ("to_stop", "?"),
        ("unwanted", "?"),  # whether it leaves since fewer are wanted
        ("post", "i8"),  # the number of its name where those are used again, or NOBODY
        ("spell", "i4"),
        ("asked_by", "i2"),
        ("sent_by", "i2"),
        ("host", "i4"),  # the instance of the host that a copy is on, or NOBODY
        ("replaces", "i4"),  # the instance in whose place it comes, or NOBODY
    ],
)


def _untouched() -> np.recarray:
    one = rows(1, INSTANCE)
    for field in ("drains", "gone", "broke"):
        one[field] = np.nan
    for field in ("breaks", "unused", "noticed", "stress_until", "deadline"):
        one[field] = np.inf
    one["asked_by"] = one["sent_by"] = one["replaces"] = one["post"] = one["host"] = NOBODY
    return one


# An instance before anything has happened to it
UNTOUCHED = _untouched()

# A stretch of time of one instance that is billed at one price; once it is over, with the times that it had then
SPELL = np.dtype(
    [
        ("instance", "i4"),
        ("kind", "i1"),
        ("begin", "f8"),
        ("end", "f8"),
        ("requested", "f8"),
        ("booted", "f8"),
        ("serves", "f8"),
        ("drains", "f8"),
    ]
)

EVENT = np.dtype(
    [("time", "f8"), ("kind", "i1"), ("cause", "i1"), ("who", "i4"), ("before", "i4"), ("after", "i4"), ("evaluation", "i4")]
)

TICK = np.dtype(
    [
        ("capacity", "f4"),  # requests or jobs, 1/s; seats; of a host, GiB for copies
        ("served", "f4"),  # requests or jobs finished, sessions begun
        ("taken", "f4"),  # jobs taken up; of a host, copies that would have no place were one of it lost
        ("failed", "f4"),  # requests failed, sessions refused
        ("waiting", "f4"),  # at the tick's end; of a host, copies without a place
        ("in_use", "f4"),  # see NOW
        ("seated", "f4"),  # sessions with instances that serve; of a host, GiB that copies hold
        ("cpu", "f4"),  # share; nan where nothing serves
        ("latency", "f4"),  # s: 95th percentile of requests; wait of the jobs taken up; nan where there are none
        ("age", "f4"),  # s: of the oldest that waits at the tick's end
        ("serving", "i2"),
        ("units", "i2"),  # those in what the group counts in, as is what is desired
        ("desired", "i2"),
        ("billed", "i2"),
        ("stopped", "i2"),
        ("short", "?"),
    ],
)

# What clients who wait for their answers send in a tick
SENT = np.dtype([("mean", "f8"), ("drawn", "f8")])
# The course of the watched instance; `load` in requests/s, jobs or sessions, nan where it does not serve
OWN = np.dtype([("state", "i1"), ("cpu", "f4"), ("load", "f4"), ("waiting", "f4"), ("credits", "f4")], align=True)

# Instances of a kind of machine
CREW = np.dtype(
    [
        ("weight", "i4"),  # what each is of what the group counts in
        ("serving", "i4"),
        ("billed", "i4"),
        ("stopped", "i4"),
        ("detached", "i4"),  # disks of those that are gone
        ("line", "f8"),  # requests that wait with those that serve, where kinds differ
        ("at_load", "i4"),
        ("done", "f8"),  # in the last tick, where versions are told apart: what was answered, or begun,
        ("coming", "i8"),  # the version that is being brought in, or NOBODY
        ("errors", "f8"),  # what of it failed,
        ("stay", "f8"),  # the latency p95 of each answer (s), and how that varies with the sample (s², by its answers)
        ("blur", "f8"),
        ("cpu", "f8"),  # and the CPU of those that serve
    ],
    align=True,
)
METER = np.dtype([(sum_of, "f8") for sum_of in ("cpu", "serving", "units", "served", "failed", "sessions", "arrived")])
# A number that names are given: who bears it, where, and the spell of a disk that waits for the next who does
POST = np.dtype([("held_by", "i4"), ("zone", "i2"), ("spell", "i4")])
ZONE = np.dtype([("present", "i4"), ("serving", "i4"), ("lost", "i4"), ("closed", "i4"), ("cpu", "f8"), ("sessions", "i4")])


class State(NamedTuple):
    """Where a rehearsal stands, and its record so far. Arrays are changed in place; their lengths may be grown."""

    now: Annotated[np.ndarray, One(NOW)]
    memory: Memory
    sight: Sight
    fleet: Annotated[np.ndarray, One(FLEET)]
    candidates: Annotated[np.ndarray, Many(CANDIDATE)]  # room for all who may leave
    entered: Floats  # requests or jobs that came in before each tick, shape (ticks + 1,)
    instances: Annotated[np.ndarray, Many(INSTANCE)]
    alive: Longs  # positions of the instances that are not gone, oldest first
    levels: LongGrid  # instances that serve by the sessions they hold, and room to reckon, shape (2, seats + 1)
    order: Longs  # positions of those instances, by what they hold, those with the fewest first
    draining: Longs  # positions of those that take no more, and hold some
    sorting: Longs  # room to bring them in order
    posts: Annotated[np.ndarray, Many(POST)]
    spells: Annotated[np.ndarray, Many(SPELL)]
    zones: Annotated[np.ndarray, Many(ZONE)]
    crews: Annotated[np.ndarray, Many(CREW)]  # one for each kind of machine
    berths: LongGrid  # spot instances that run, by type of machine and zone, shape (types, zones)
    incidents: Bytes  # 0 not begun, 1 under way, 2 over
    events: Annotated[np.ndarray, Many(EVENT)]
    decisions: Annotated[np.ndarray, Many(DECISION)]
    views: Annotated[np.ndarray, Many(VIEW, 2)]  # shape (evaluations, policies)
    meters: Annotated[np.ndarray, Many(METER)]  # sums of the running meter period, of the group and then of each zone
    stay: FloatGrid  # answers by delay of a slow dependency and row of the tables, and by load, shape (extras * rows, LOADS)
    period_stay: FloatGrid  # the same for the running meter period
    sides: Annotated[np.ndarray, Many(SIDE)]  # one for each version that is told apart
    held_jobs: LongGrid  # jobs under way by stage, of workers that serve and that drain, shape (2, stages)
    series: Annotated[np.ndarray, Many(TICK)]  # shape (ticks,)
    sent: Annotated[np.ndarray, Many(SENT)]  # shape (ticks,) where there are such clients
    own: Annotated[np.ndarray, Many(OWN)]  # shape (ticks,) where an instance is watched
    deck: Deck  # what a host and its guests share


def free_posts(room: int) -> np.recarray:
    """Numbers that nobody bears."""
    posts = rows(room, POST)
    for field in POST.names or ():
        posts[field] = NOBODY
    return posts
