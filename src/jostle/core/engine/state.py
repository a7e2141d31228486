"""Where everybody stands at this instant (`State`), with the record of how they came there."""

from copy import deepcopy
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.compiled import hot
from jostle.core.decide.code import DIALS, NOBODY
from jostle.core.decide.leaving import CANDIDATE
from jostle.core.decide.memory import Memory, new_memory
from jostle.core.decide.row import DECISION, FLEET, SIDE, VIEW
from jostle.core.decide.rules import rows
from jostle.core.decide.sight import Sight
from jostle.core.draw import STREAM_FAULT, exponential
from jostle.core.engine.code import Billed, Life
from jostle.core.engine.deck import NO_DECK, Deck, new_deck
from jostle.core.engine.mix import ON_DEMAND, SPOT, kind_of, wanted_on_demand
from jostle.core.engine.setup import Floats, Setup
from jostle.core.plan.work import WorkKind

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
        ("moved", "f8"),  # sessions that went since they were told to
        ("coming_back", "i4"),  # of them, those that begin anew in the next step
        ("came_back", "f8"),
        ("no_spot_since", "f8"),  # s: since when launches wait for it
        ("on_demand_until", "f8"),  # s: until then no spot is looked for
        ("swaps", "i8"),
        ("reclaimed", "i8"),  # instances that the market took back
        ("spot_refused", "i8"),  # launches for which there was no spot
        ("tired", "i4"),  # serving instances whose credits are gone
        ("tired_ticks", "f8"),  # sum over ticks of those
        ("answer", "f8"),  # s: mean time of an answer in the last tick, where clients wait for it
        ("quickest", "f8"),  # s: the same where nobody waits
        ("asking_part", "f8"),  # share of those clients among all who asked
        ("gave_up", "f8"),  # requests that were given up in the last tick
        ("short", "?"),
        ("too_many", "i4"),  # the goal for which the next in turn was worth more than what was too many,
        ("told_then", "i8"),  # and how many events there were
        ("held_at", "i4"),  # the count at which a limit holds it since that was last told, or NOBODY
        ("pins", "?"),  # whether any instance may have been pinned
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
        ("tired", "?"),  # whether its credits are gone
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
        ("stay", "f8"),  # the latency p95 of each answer (s)
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

    now: np.ndarray  # one row of NOW
    memory: Memory
    sight: Sight
    fleet: np.ndarray  # one row of FLEET
    candidates: np.ndarray  # of CANDIDATE: room for all who may leave
    entered: Floats  # requests or jobs that came in before each tick, shape (ticks + 1,)
    instances: np.ndarray  # of INSTANCE
    alive: NDArray[np.int64]  # positions of the instances that are not gone, oldest first
    levels: NDArray[np.int64]  # instances that serve by the sessions they hold, and room to reckon, shape (2, seats + 1)
    order: NDArray[np.int64]  # positions of those instances, by what they hold, those with the fewest first
    draining: NDArray[np.int64]  # positions of those that take no more, and hold some
    sorting: NDArray[np.int64]  # room to bring them in order
    posts: np.ndarray  # of POST
    spells: np.ndarray  # of SPELL
    zones: np.ndarray  # of ZONE
    crews: np.ndarray  # of CREW, one for each kind of machine
    berths: NDArray[np.int64]  # spot instances that run, by type of machine and zone, shape (types, zones)
    incidents: NDArray[np.int8]  # 0 not begun, 1 under way, 2 over
    events: np.ndarray  # of EVENT
    decisions: np.ndarray  # of DECISION
    views: np.ndarray  # of VIEW, shape (evaluations, policies)
    meters: np.ndarray  # of METER: sums of the running meter period, of the group and then of each zone
    stay: Floats  # answers by delay of a slow dependency and row of the tables, and by load, shape (extras * rows, LOADS)
    period_stay: Floats  # the same for the running meter period
    sides: np.ndarray  # of SIDE, one for each version that is told apart
    held_jobs: NDArray[np.int64]  # jobs under way by stage, of workers that serve and that drain, shape (2, stages)
    series: np.ndarray  # of TICK, shape (ticks,)
    sent: np.ndarray  # of SENT, shape (ticks,) where there are such clients
    own: np.ndarray  # of OWN, shape (ticks,) where an instance is watched
    deck: Deck  # what a host and its guests share


@hot
def noted(state: State, k: int) -> int:
    """Where tick k is noted: a record for figures alone has room for as many as are played in one."""
    return k if k < len(state.series) else k % AT_ONCE


def uncleared(setups: list[Setup]) -> np.recarray:
    """Room for the rows of TICK of each of those that are played together, in one piece, which holds anything: all of it is to be
    written before anybody looks at it. Shape (setups, ticks)."""
    return np.empty((len(setups), setups[0].ticks), rows(0, TICK).dtype).view(np.recarray)


def new_state(setup: Setup, bare: bool = False, series: np.recarray | None = None) -> State:
    """The instant before the first tick: the first instances serve, the rest of those owned is stopped, no meter has spoken.

    A group that starts cold has none, and sends for them in the first tick. A bare one keeps neither what each tick was like nor
    what the policies saw: the last alone. `series` may give room for what it keeps, as `uncleared` has it.
    """
    fixed = setup.fixed[0]
    ticks, policies, zones = int(fixed.ticks), len(setup.rules.policies), int(fixed.zones)
    maximum = int(setup.rules.row[0].maximum)
    seats = int(setup.kinds["capacity"][0]) if fixed.work == WorkKind.SESSIONS else 0
    evaluations, samples = ticks // int(fixed.evaluate_ticks), ticks // int(fixed.period_ticks)
    now = rows(1, NOW)
    stay = np.zeros((len(setup.extras) * len(setup.line.tables), len(setup.line.loads)))
    kinds = _first_kinds(setup)
    first = len(kinds)
    owned = max(first, int(fixed.owned)) if fixed.owned < UNLIMITED and not fixed.cold else first
    room = max(1024, 4 * maximum + owned + int(fixed.surplus))
    instances = _blank(rows(room, INSTANCE)).view(np.ndarray)
    instances["state"][:first] = Life.SERVING
    instances["state"][first:owned] = Life.STOPPED
    instances["given_work"][:first] = True
    instances["zone"][:owned] = np.arange(owned) % zones
    instances["version"][:owned] = fixed.first_version
    versions, first_version = setup.versions, int(fixed.first_version)
    build = versions.index(first_version) if first_version in versions else 0
    kinds = kinds + 2 * int(fixed.types) * build
    instances["pinned"][: min(first, int(fixed.pinned))] = True
    instances["overflow"][:owned] = np.arange(owned) >= fixed.owned
    instances["share"][:first] = 1 / max(1, first)
    instances["credits"][:owned] = setup.kinds["first_credits"][0]
    instances["spell"][:owned] = np.arange(owned)
    if np.isfinite(fixed.fault_every):
        seed = int(fixed.seed)
        instances["breaks"][:first] = [fixed.fault_every * exponential(seed, STREAM_FAULT, 64 * i) for i in range(first)]
    spells = rows(2 * room, SPELL).view(np.ndarray)
    spells["end"] = np.nan
    spells["instance"][:owned] = np.arange(owned)
    spells["kind"][first:owned] = Billed.STANDING
    alive = np.zeros(room, np.int64)
    alive[:owned] = np.arange(owned)
    for field in ("serving", "billed", "present"):
        now[field] = first
    now["launched"] = now["living"] = now["spells"] = owned
    now["stopped"] = owned - first
    now["overflow"] = int(instances["overflow"][:first].sum())
    now["surplus"] = fixed.surplus if fixed.cold else 0
    now["boot_factor"] = 1.0
    now["no_spot_since"] = np.inf
    now["held_at"] = now["too_many"] = now["coming"] = NOBODY
    now["low_load"], now["low_row"] = len(setup.line.loads), len(stay)
    now["next_due"] = 0.0
    now["pins"] = fixed.pinned > 0
    crews = rows(len(setup.kinds), CREW)
    crews["weight"] = setup.kinds["weight"]
    now["units"] = int(setup.kinds["weight"][kinds].sum())
    places = rows(zones, ZONE)
    berths = np.zeros(setup.market.units.shape[:2], np.int64)
    instances["kind"][:owned] = kind_of(cheapest_of(setup), ON_DEMAND)
    instances["kind"][:first] = kinds
    spot = np.flatnonzero(kinds % 2 == SPOT)
    np.add.at(berths, (kinds[spot] // 2, instances["zone"][spot]), 1)
    for kind in range(len(crews)):
        crews["serving"][kind] = crews["billed"][kind] = int((instances["kind"][:first] == kind).sum())
    crews["stopped"][instances["kind"][0]] = owned - first
    places["present"] = places["serving"] = np.bincount(instances["zone"][:first], minlength=zones)
    return State(
        now=now,
        memory=new_memory(setup.rules, int(fixed.first_count), int(fixed.version)),
        sight=Sight(
            np.full((1 + zones if fixed.meter_zones else 1, DIALS + len(setup.outside), samples), np.nan, np.float32),
            np.zeros(samples, np.float32),
        ),
        fleet=rows(1, FLEET),
        candidates=rows(room, CANDIDATE),
        entered=np.zeros(ticks + 1),
        instances=instances.view(np.recarray),
        alive=alive,
        levels=np.zeros((2, seats + 1), np.int64),
        order=np.zeros_like(alive),
        draining=np.zeros_like(alive),
        sorting=np.zeros_like(alive),
        posts=_posts(setup, instances, owned),
        spells=spells.view(np.recarray),
        zones=places,
        crews=crews,
        berths=berths,
        incidents=np.zeros(len(setup.incidents), np.int8),
        events=rows(max(4096, 16 * maximum), EVENT),
        decisions=rows(evaluations, DECISION),
        views=rows((1 if bare else evaluations, policies), VIEW),
        meters=rows(1 + zones, METER),
        stay=stay,
        period_stay=np.zeros_like(stay),
        sides=rows(int(fixed.builds), SIDE),
        held_jobs=np.zeros((2, len(setup.stages)), np.int64),
        series=rows(AT_ONCE if bare else ticks, TICK) if series is None else series,
        sent=rows(ticks if len(setup.thinks) else 0, SENT),
        own=rows(ticks if fixed.watched != NOBODY else 0, OWN),
        deck=new_deck([], room, ticks) if fixed.work == WorkKind.HOSTING else NO_DECK,
    )


def _first_kinds(setup: Setup) -> NDArray[np.int64]:
    """The kinds of the instances that serve at the start: as the mix has it, the spot ones of each machine in turn that is sold
    then."""
    fixed = setup.fixed[0]
    count = 0 if fixed.cold else int(fixed.first_count)
    usual, weights = kind_of(cheapest_of(setup), ON_DEMAND), setup.kinds["weight"]
    offered = setup.market.offered[: int(fixed.types), :, :1]
    sold = np.flatnonzero(offered.any(axis=(1, 2))) if fixed.spot else np.zeros(0, np.int64)
    first, share = int(fixed.first_on_demand), float(fixed.share_on_demand)
    on_demand = wanted_on_demand(first, share, count) if len(sold) else count
    kinds = [usual] * -(-on_demand // int(weights[usual]))
    left = count - len(kinds) * int(weights[usual])
    while left > 0:
        kinds.append(kind_of(int(sold[(len(kinds) - kinds.count(usual)) % len(sold)]), SPOT))
        left -= int(weights[kinds[-1]])
    return np.array(kinds, np.int64)


def _posts(setup: Setup, instances: np.ndarray, number: int) -> np.recarray:
    """Those that are there at the start bear the first numbers, where these are used again."""
    posts = _free_posts(len(instances) if setup.fixed[0].posts else 0)
    if len(posts):
        posts["held_by"][:number] = instances["post"][:number] = np.arange(number)
        posts["zone"][:number] = instances["zone"][:number]
    return posts


def _free_posts(room: int) -> np.recarray:
    """Numbers that nobody bears."""
    posts = rows(room, POST)
    for field in POST.names or ():
        posts[field] = NOBODY
    return posts


def cheapest_of(setup: Setup) -> int:
    """The type of machine that is the cheapest on demand for what it does."""
    kinds = setup.kinds.view(np.ndarray)[: 2 * int(setup.of("types")) : 2]
    return int(np.argmin(kinds["price_machine"] / kinds["capacity"]))


def copied(state: State) -> State:
    """The same state, to go another way from here. Of a long record only what has been played is touched."""
    now = state.now[0]
    tick, evaluations = int(now.tick), int(now.evaluations)
    bare = state._replace(
        series=state.series[:0], entered=state.entered[:0], decisions=state.decisions[:0], views=state.views[:0]
    )
    return deepcopy(bare)._replace(
        series=played_of(state.series, tick),
        entered=played_of(state.entered, tick + 1),
        decisions=played_of(state.decisions, evaluations),
        views=played_of(state.views, evaluations),
    )


def with_kinds(state: State, setup: Setup) -> State:
    """The same state with room for the kinds of machine, and versions, that a setup has more than the one under which it came to
    be."""
    crews, sides = rows(len(setup.kinds), CREW), rows(int(setup.of("builds")), SIDE)
    crews["weight"] = setup.kinds["weight"]
    crews[: len(state.crews)] = state.crews[: len(crews)]
    sides[: len(state.sides)] = state.sides[: len(sides)]
    berths = np.zeros(setup.market.units.shape[:2], np.int64)
    berths[: len(state.berths)] = state.berths[: len(berths)]
    known, rows_of_stay = len(state.stay) // len(setup.extras), len(setup.line.tables)
    stays = [_longer(stay, len(setup.extras), known, rows_of_stay) for stay in (state.stay, state.period_stay)]
    return state._replace(crews=crews, sides=sides, berths=berths, stay=stays[0], period_stay=stays[1])


def _longer(stay: Floats, extras: int, known: int, wanted: int) -> Floats:
    """Answers by load, with room for further rows of the tables of waits, of which there were so many for each delay."""
    if known == wanted or not len(stay):
        return stay
    found = np.zeros((extras, wanted, stay.shape[1]))
    found[:, :known] = stay.reshape(extras, known, -1)
    return found.reshape(extras * wanted, -1)


def played_of(record: np.ndarray, number: int, room: int | None = None) -> Any:
    """The first rows of a record, and room for the others, or for so many in all, which is not touched. They are copied byte by
    byte: field by field takes ten times as long."""
    made = np.zeros((len(record) if room is None else room, *record.shape[1:]), record.dtype)
    played = record[:number].view(np.ndarray).reshape(-1).view(np.uint8)
    made.reshape(-1).view(np.uint8)[: len(played)] = played
    return made.view(type(record))


def _blank(instances: np.recarray) -> np.recarray:
    one = np.zeros(1, instances.dtype)
    for field in ("drains", "gone", "broke"):
        one[field] = np.nan
    for field in ("breaks", "unused", "noticed", "stress_until", "deadline"):
        one[field] = np.inf
    one["asked_by"] = one["sent_by"] = one["replaces"] = one["post"] = one["host"] = NOBODY
    word = f"V{instances.dtype.itemsize}"
    instances.view(np.ndarray).view(word)[:] = one.view(word)
    return instances


def grown(state: State) -> State:
    """The same state with twice the room for instances, spells and events."""

    def twice(kept: np.ndarray) -> Any:
        return played_of(kept, len(kept), 2 * len(kept))

    instances, spells = twice(state.instances), twice(state.spells)
    _blank(instances[len(state.instances) :].view(np.recarray))
    spells["end"][len(state.spells) :] = np.nan

    return state._replace(
        instances=instances,
        alive=twice(state.alive),
        order=twice(state.order),
        draining=twice(state.draining),
        sorting=twice(state.sorting),
        posts=np.concatenate([state.posts, _free_posts(len(state.posts))]).view(np.recarray),
        spells=spells,
        events=twice(state.events),
        candidates=twice(state.candidates),
    )
