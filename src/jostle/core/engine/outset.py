"""The instant before the first tick."""

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.play import exponential, kind_of, stream_of, wanted_on_demand
from jostle.core.decide.code import DIALS, NOBODY
from jostle.core.decide.leaving import CANDIDATE
from jostle.core.decide.memory import new_memory
from jostle.core.decide.row import DECISION, FLEET, SIDE, VIEW
from jostle.core.decide.rules import rows, uncleared
from jostle.core.decide.sight import Sight
from jostle.core.draw import STREAM_FAULT
from jostle.core.engine.code import Billed, Life
from jostle.core.engine.deck import NO_DECK, new_deck
from jostle.core.engine.mix import ON_DEMAND, SPOT, are_spot, types_of
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import (
    AT_ONCE,
    CREW,
    EVENT,
    INSTANCE,
    METER,
    NOW,
    OWN,
    SENT,
    SPELL,
    TICK,
    UNLIMITED,
    UNTOUCHED,
    ZONE,
    State,
    free_posts,
)
from jostle.core.heap import keep_heap
from jostle.core.plan.work import WorkKind

keep_heap()


def uncleared_series(setups: list[Setup]) -> np.recarray:
    """Room for the rows of TICK of each of those that are played together, in one piece, not cleared first. Shape (setups,
    ticks)."""
    return uncleared((len(setups), setups[0].ticks), TICK)


def new_state(setup: Setup, bare: bool = False, series: np.recarray | None = None) -> State:
    """The instant before the first tick: the first instances serve, the rest of those owned is stopped, no meter has spoken.

    A group that starts cold has none, and sends for them in the first tick. A bare one keeps neither what each tick was like nor
    what the policies saw: the last alone. `series` may give room for what it keeps, as `uncleared_series` has it. With either the
    record is not cleared first, and what has not been played of it is nothing to look at.
    """
    fixed, weights = setup.numbers, setup.kinds.view(np.ndarray)["weight"]
    ticks, policies, zones, maximum = fixed["ticks"], len(setup.rules.policies), fixed["zones"], int(setup.of("maximum"))
    seats = int(setup.of("capacity")) if fixed["work"] == WorkKind.SESSIONS else 0
    evaluations, samples = ticks // fixed["evaluate_ticks"], ticks // fixed["period_ticks"]
    stay = np.zeros((len(setup.extras) * len(setup.line.tables), len(setup.line.loads)))
    versions, usual = setup.versions, kind_of(cheapest_of(setup), ON_DEMAND)
    build = versions.index(fixed["first_version"]) if fixed["first_version"] in versions else 0
    sold = _sold_first(setup)
    kinds = _first_kinds(setup, usual, np.flatnonzero(sold.any(axis=1))) + 2 * fixed["types"] * build
    first = len(kinds)
    owned = max(first, fixed["owned"]) if fixed["owned"] < UNLIMITED and not fixed["cold"] else first
    record, space, spare = (rows, np.zeros, 1024) if series is None and not bare else (uncleared, np.empty, 4096)
    room, there = spare + 4 * maximum + owned + fixed["surplus"], np.arange(owned)
    instances = record(room, INSTANCE).view(np.ndarray)
    own = instances[:owned]
    own[:] = UNTOUCHED
    own["state"] = Life.SERVING
    own["state"][first:] = Life.STOPPED
    own["given_work"][:first] = True
    own["zone"] = there % zones
    for number in np.flatnonzero(are_spot(kinds)):
        sold_in = np.flatnonzero(sold[types_of(kinds[number]) % len(sold)])
        own["zone"][number] = sold_in[number % len(sold_in)]
    own["version"] = fixed["first_version"]
    own["kind"] = usual
    own["kind"][:first] = kinds
    own["pinned"][: min(first, fixed["pinned"])] = True
    own["overflow"] = there >= fixed["owned"]
    own["share"][:first] = 1 / max(1, first)
    own["credits"] = setup.of("first_credits")
    own["spell"] = there
    if np.isfinite(fixed["fault_every"]):
        faults = stream_of(fixed["seed"], STREAM_FAULT)
        own["breaks"][:first] = [fixed["fault_every"] * exponential(faults, 64 * i) for i in range(first)]
    if fixed["shut"]:
        # Nothing comes through to those that are there either
        own["breaks"][:first] = 0.0
    spells = record(2 * room, SPELL).view(np.ndarray)
    spells[:owned] = 0
    spells["end"][:owned] = np.nan
    spells["instance"][:owned] = there
    spells["kind"][first:owned] = Billed.STANDING
    entered = space(ticks + 1)
    entered[0] = 0.0
    readings = np.full((1 + zones if fixed["meter_zones"] else 1, DIALS + len(setup.outside), samples), np.nan, np.float32)
    alive = space(room, np.int64)
    alive[:owned] = there
    now = rows(1, NOW)
    now["serving"] = now["billed"] = now["present"] = first
    now["units"] = weights[kinds].sum()
    now["launched"] = now["living"] = now["spells"] = owned
    now["stopped"] = owned - first
    now["overflow"] = np.count_nonzero(there[:first] >= fixed["owned"])
    now["surplus"] = fixed["surplus"] if fixed["cold"] else 0
    now["boot_factor"] = 1.0
    now["no_spot_since"] = np.inf
    now["held_at"] = now["too_many"] = now["coming"] = NOBODY
    now["low_load"], now["low_row"] = len(setup.line.loads), len(stay)
    now["pins"] = fixed["pinned"] > 0
    crews = rows(len(weights), CREW)
    crews["weight"] = weights
    crews["serving"] = crews["billed"] = np.bincount(kinds, minlength=len(crews))
    if owned > first:
        crews["stopped"][own["kind"][0]] = owned - first
    places = rows(zones, ZONE)
    places["present"] = places["serving"] = np.bincount(own["zone"][:first], minlength=zones)
    berths = np.zeros(setup.market.units.shape[:2], np.int64)
    spot = are_spot(kinds)
    np.add.at(berths, (types_of(kinds[spot]), own["zone"][:first][spot]), 1)
    return State(
        now=now,
        memory=new_memory(setup.rules, fixed["first_count"], fixed["version"]),
        sight=Sight(readings, np.zeros(samples, np.float32)),
        fleet=rows(1, FLEET),
        candidates=record(room, CANDIDATE),
        entered=entered,
        instances=instances.view(np.recarray),
        alive=alive,
        levels=np.zeros((2, seats + 1), np.int64),
        order=space(room, np.int64),
        draining=space(room, np.int64),
        sorting=space(room, np.int64),
        posts=_posts(setup, instances, owned),
        spells=spells.view(np.recarray),
        zones=places,
        crews=crews,
        berths=berths,
        incidents=np.zeros(len(setup.incidents), np.int8),
        events=record(4 * room, EVENT),
        decisions=record(evaluations, DECISION),
        views=record((1 if bare else evaluations, policies), VIEW),
        meters=rows(1 + zones, METER),
        stay=stay,
        period_stay=np.zeros_like(stay),
        sides=rows(fixed["builds"], SIDE),
        held_jobs=np.zeros((2, len(setup.stages)), np.int64),
        series=record(AT_ONCE if bare else ticks, TICK) if series is None else series,
        sent=rows(ticks if len(setup.thinks) else 0, SENT),
        own=rows(ticks if fixed["watched"] != NOBODY else 0, OWN),
        deck=new_deck([], room, ticks) if fixed["work"] == WorkKind.HOSTING else NO_DECK,
    )


def _first_kinds(setup: Setup, usual: int, sold: NDArray[np.intp]) -> NDArray[np.int64]:
    """The kinds of the instances that serve at the start, `usual` being that on demand: as the mix has it, the spot ones of each
    machine in turn that is `sold` then."""
    fixed = setup.numbers
    weights = setup.kinds.view(np.ndarray)["weight"]
    count = 0 if fixed["cold"] else fixed["first_count"]
    on_demand = wanted_on_demand(fixed["first_on_demand"], fixed["share_on_demand"], count) if len(sold) else count
    kinds = [usual] * -(-on_demand // int(weights[usual]))
    left = count - len(kinds) * int(weights[usual])
    while left > 0:
        kinds.append(kind_of(int(sold[(len(kinds) - kinds.count(usual)) % len(sold)]), SPOT))
        left -= int(weights[kinds[-1]])
    return np.array(kinds, np.int64)


def _sold_first(setup: Setup) -> NDArray[np.bool_]:
    """Which machines are sold as spot at the start, under the caps on price and risk, shape (types, zones)."""
    fixed, market, types = setup.numbers, setup.market, int(setup.of("types"))
    if not fixed["spot"]:
        return np.zeros(market.offered[:types].shape[:2], np.bool_)
    caps = setup.kinds.view(np.ndarray)["cap_units"][1 : 2 * types : 2]
    asked, chances = market.units[:types, :, 0], market.chances[:types, :, 0]
    sold: NDArray[np.bool_] = market.offered[:types, :, 0] & (asked <= caps[:, None]) & (chances <= fixed["cap_chance"])
    return sold


def _posts(setup: Setup, instances: np.ndarray, number: int) -> np.recarray:
    """Those that are there at the start bear the first numbers, where these are used again."""
    posts = free_posts(len(instances) if setup.of("posts") else 0)
    if len(posts):
        posts["held_by"][:number] = instances["post"][:number] = np.arange(number)
        posts["zone"][:number] = instances["zone"][:number]
    return posts


def cheapest_of(setup: Setup) -> int:
    """The type of machine that is the cheapest on demand for what it does."""
    kinds = setup.kinds.view(np.ndarray)[: 2 * int(setup.of("types")) : 2]
    return int(np.argmin(kinds["price_machine"] / kinds["capacity"]))
