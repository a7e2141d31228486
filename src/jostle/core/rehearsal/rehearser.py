"""Who makes rehearsals, and keeps what several of them share: like a stage crew that leaves standing what the next scene
needs too."""

import math
from collections.abc import Callable, Iterable, Iterator
from typing import Any, NamedTuple, TypeVar
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.figure import drawn
from jostle.core.costs.bounds import Bounds, bounds, farthest
from jostle.core.decide.code import DIALS
from jostle.core.decide.history import usual_week
from jostle.core.decide.row import DECISION, ORDER, VIEW
from jostle.core.demand.series import Parts, demand_series, parts_of
from jostle.core.engine.carrying import run_aboard
from jostle.core.engine.compile import Crew, compile_setup, reseeded
from jostle.core.engine.lockstep import run_together
from jostle.core.engine.queue import Line, line_of
from jostle.core.engine.result import Result, run
from jostle.core.engine.setup import FIXED, Setup
from jostle.core.engine.state import TICK
from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand
from jostle.core.plan.group import Group
from jostle.core.plan.hand import HandLoad
from jostle.core.plan.launch import launch_of, launching
from jostle.core.plan.layer import LoadTest
from jostle.core.plan.place import all_aboard
from jostle.core.plan.plan import TICKS, Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.promise import AgePromise, RoomPromise, ServicePromise, ServingPromise
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.sending import Sending
from jostle.core.plan.work import Requests, Sessions
from jostle.core.rehearsal.rehearsal import Aboard, Rehearsal, clock_of, crew_of
from jostle.core.rehearsal.shelf import Shelf

# The fixed numbers of a setup that a change of policies, limits or calendar leaves alone.
_DECIDE_BOUNDS = tuple(
    name
    for name in FIXED.names or ()
    if name not in ("first_count", "owned", "cold", "surplus", "pinned", "period_ticks", "meter_latency", "meter_zones")
)
MOST_BYTES = 6 * 2**20
# Bytes of one rehearsal: four hundred days at 10 s take most of it
MOST_OF_ONE = 512 * 2**20
# About a second of the engine's
MOST_TICKS_WAITED_FOR = 800_000
CLOCKS_KEPT, BOUNDS_KEPT, LINES_KEPT, HISTORIES_KEPT, DECKS_KEPT = 8, 512, 16, 16, 1


T = TypeVar("T")


class _Comes(NamedTuple):
    """Rates (1/s), clients that wait for their answers with the time for which they think (s), and who draws counts of means."""

    rate: NDArray[np.float64]
    asking: list[tuple[NDArray[np.float64], float]]
    drawn_for: Callable[[NDArray[np.float64], int, int], NDArray[np.float64]]


class Rehearser:
    """Makes rehearsals. What it keeps is found by content, never by identity, and bounded in bytes; threads may share it."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._demands: Shelf[NDArray[np.float64]] = Shelf(most_bytes, _size)
        self._arrivals: Shelf[NDArray[np.float64]] = Shelf(most_bytes, _size)
        self._steady: Shelf[Parts] = Shelf(most_bytes, lambda parts: 3 * parts.base.nbytes)
        self._sharing: Shelf[list[Result]] = Shelf(most_bytes, lambda results: sum(one.nbytes for one in results))
        self._carried: Shelf[Aboard] = Shelf(DECKS_KEPT)
        self._clocks: Shelf[Clock] = Shelf(CLOCKS_KEPT)
        self._bounds: Shelf[Bounds] = Shelf(BOUNDS_KEPT)
        self._lines: Shelf[Line] = Shelf(LINES_KEPT)
        self._usual: Shelf[np.recarray] = Shelf(HISTORIES_KEPT)

    def rehearse(self, plan: Plan, group_name: str, seed: int = 1, by_zone: bool = False) -> Rehearsal:
        """Rehearse a group of a plan against its demand over the plan's span; `by_zone` keeps readings of each zone too.

        Raises PlanError where the group is unknown or the seed is out of range.
        """
        if not 0 <= seed < 2**31:
            raise PlanError([Problem(("seed",), seed, "a seed is a whole number from 0 to 2147483647")])
        crew = crew_of(plan, group_name)
        check_size(plan, crew.group)
        clock = self._clock(plan)
        if crew.group.shares_hosts:
            together = self._aboard(plan, group_name, seed, group_name if by_zone else None)
            result = together.results[together.names.index(group_name)]
            return Rehearsal(plan, group_name, seed, crew, clock, result, self.find_bounds, together)
        sharing = sharing_quota(plan, group_name)
        if sharing:
            result = self._together(plan, sharing, seed, group_name if by_zone else None)[sharing.index(group_name)]
        else:
            setup = self._setup(plan, crew, seed)
            result = run(setup.changed(meter_zones=True) if by_zone else setup)
        return Rehearsal(plan, group_name, seed, crew, clock, result, self.find_bounds)

    def rehearse_each(self, plan: Plan, group_name: str, seeds: Iterable[int], bare: bool = False) -> Iterator[Rehearsal]:
        """A rehearsal under each seed, made as it is asked for; what no seed changes is compiled once. Bare ones are good for
        `verdict.judge` alone. Raises PlanError."""
        if plan.groups[group_name].shares_hosts or sharing_quota(plan, group_name):
            yield from (self.rehearse(plan, group_name, seed) for seed in seeds)
            return
        crew, clock = crew_of(plan, group_name), self._clock(plan)
        check_size(plan, crew.group)
        setup: Setup | None = None
        for seed in seeds:
            if setup is None:
                setup = self._setup(plan, crew, seed)
            else:
                comes = self._comes(plan, crew, seed)
                setup = reseeded(setup, crew, clock, comes.rate, seed, comes.drawn_for)
            yield Rehearsal(plan, group_name, seed, crew, clock, run(setup, bare and is_told_bare(crew.group)), self.find_bounds)

    def setup_of(self, plan: Plan, group_name: str, seed: int, versions: tuple[int, ...] = ()) -> Setup:
        """What the engine is given for one group by itself; versions that are told apart already may be given."""
        return self._setup(plan, crew_of(plan, group_name, versions), seed)

    def _setup(self, plan: Plan, crew: Crew, seed: int) -> Setup:
        clock, comes = self._clock(plan), self._comes(plan, crew, seed)
        quota = crew.machine.quota
        return compile_setup(crew, clock, comes.rate, seed, quota, comes.asking, self._line, comes.drawn_for, self._usual_week)

    def _comes(self, plan: Plan, crew: Crew, seed: int) -> "_Comes":
        """What comes to a group under a seed."""
        clock = self._clock(plan)
        demand, apart = plan.demand_of(crew.group), isinstance(crew.group.work, Requests)
        loads = [hand for hand in crew.group.hands if isinstance(hand, HandLoad)]
        # What asks again once it is answered is known only as it goes.
        asking: list[Sending] = [load for load in (*_load_tests(demand), *loads) if load.waits and apart]
        rate = self._rate(_muted(demand) if apart else demand, clock, seed)
        for load in loads:
            if load not in asking:
                rate = rate + load.sent(clock)
        key = (demand.content, apart, clock, *(load.content for load in loads))

        def drawn_for(means: NDArray[np.float64], seed: int, steps: int) -> NDArray[np.float64]:
            return self._arrivals.get((*key, seed, steps), lambda: drawn(means, seed, steps))

        return _Comes(rate, [(load.present(clock), load.think) for load in asking], drawn_for)

    def _together(self, plan: Plan, names: list[str], seed: int, by_zone: str | None) -> list[Result]:
        """The results of groups that share a quota, side by side; one of them with readings by zone if so asked."""
        return self._side_by_side(
            self._sharing, plan, names, seed, by_zone, lambda crews, setups: run_together(setups, crews[0].machine.quota or 0)
        )

    def _aboard(self, plan: Plan, group_name: str, seed: int, by_zone: str | None) -> Aboard:
        """A host and its guests, one of them with readings by zone if so asked."""
        names = all_aboard(plan, group_name)
        return self._side_by_side(
            self._carried,
            plan,
            names,
            seed,
            by_zone,
            lambda crews, setups: Aboard(tuple(names), tuple(crews), tuple(run_aboard(setups))),
        )

    def _side_by_side(
        self,
        shelf: Shelf[T],
        plan: Plan,
        names: list[str],
        seed: int,
        by_zone: str | None,
        play: Callable[[list[Crew], list[Setup]], T],
    ) -> T:
        """What comes of groups that are played on one clock, one of them with readings by zone if so asked."""
        crews = [crew_of(plan, name) for name in names]
        parts = [(*_crew_key(crew), plan.demand_of(crew.group).content) for crew in crews]
        for crew in crews:
            check_size(plan, crew.group)

        def made() -> T:
            setups = [self.setup_of(plan, name, seed) for name in names]
            pairs = zip(names, setups, strict=True)
            return play(crews, [setup.changed(meter_zones=True) if name == by_zone else setup for name, setup in pairs])

        return shelf.get((clock_of(plan), seed, by_zone, tuple(names), *parts), made)

    def _line(self, *terms: Any) -> Line:
        """The line of an instance on these terms; see `queue.line_of`."""
        return self._lines.get(terms, lambda: line_of(*terms))

    def _usual_week(self, demand: Demand, until: float, zone: ZoneInfo) -> np.recarray:
        """What is usual by a history; see `history.usual_week`."""
        return self._usual.get((demand.content, until, zone.key), lambda: usual_week(demand, until, zone))

    def _clock(self, plan: Plan) -> Clock:
        """The clock of the plan's span, with what was found on it before."""
        clock = clock_of(plan)
        return self._clocks.get(clock, lambda: clock)

    def _rate(self, demand: Demand, clock: Clock, seed: int) -> NDArray[np.float64]:
        """The demand's rates on a clock."""

        def laid() -> NDArray[np.float64]:
            steady = self._steady.get((demand.content, clock), lambda: parts_of(demand, clock, seed, drawn=False))
            return demand_series(demand, clock, seed, steady)

        return self._demands.get((demand.content, clock, seed), laid)

    def find_bounds(self, rehearsal: Rehearsal, search: bool) -> Bounds | None:
        """The bounds of cost. They do not depend on the policies, so they are kept from take to take. None where they are not
        at hand and not to be searched for."""
        setup, crew = rehearsal.result.setup, rehearsal.crew
        promises = [p for p in crew.group.promises if isinstance(p, ServicePromise)]
        demand = rehearsal.plan.demand_of(crew.group).content
        fixed = (setup.fixed[list(_DECIDE_BOUNDS)].tobytes(), setup.kinds.tobytes(), setup.of("balance_zones"), farthest(setup))
        loads = tuple(hand.content for hand in crew.group.hands if isinstance(hand, HandLoad))
        key = (demand, loads, rehearsal.clock, fixed, setup.incidents.tobytes(), tuple(promises), crew.money)
        if not search:
            return self._bounds.peek(key)
        return self._bounds.get(key, lambda: bounds(setup, promises, crew))


def _load_tests(demand: Demand) -> list[LoadTest]:
    return [layer for layer in demand.layers if isinstance(layer, LoadTest) and not layer.muted]


def _muted(demand: Demand) -> Demand:
    """A demand without clients that wait for their answers."""
    if not any(test.waits for test in _load_tests(demand)):
        return demand
    waiting = [isinstance(layer, LoadTest) and layer.waits for layer in demand.layers]
    layers = [
        layer.model_copy(update={"muted": True}) if waits else layer for layer, waits in zip(demand.layers, waiting, strict=True)
    ]
    return demand.model_copy(update={"layers": layers})


def is_told_bare(group: Group) -> bool:
    """Whether what it promises is told without the course of a rehearsal, as waits of jobs and who served when are not."""
    return not any(isinstance(promise, AgePromise | ServingPromise | RoomPromise) for promise in group.promises)


def sharing_quota(plan: Plan, group_name: str) -> list[str]:
    """The groups, this one among them, that draw on one quota; empty where none or only one does."""
    machine = launch_of(plan, group_name).machine
    if plan.machines[machine].quota is None or plan.groups[group_name].shares_hosts:
        return []
    names = launching(plan, machine)
    return names if len(names) > 1 else []


def size_of(plan: Plan, group: Group) -> int:
    """Bytes that a rehearsal takes, about: what is kept of each tick, each evaluation and each sample."""
    ticks = plan.days * 86400 / plan.tick
    evaluations, samples = plan.days * 86400 / group.evaluate_every, plan.days * 86400 / group.meters.period
    a_tick = TICK.itemsize + 5 * 8
    an_evaluation = ORDER.itemsize + DECISION.itemsize + 4 + len(group.policies) * VIEW.itemsize
    return int(ticks * a_tick + evaluations * an_evaluation + samples * 4 * (1 + DIALS * (2 + len(plan.zones))))


def brisk(plan: Plan) -> Plan:
    """A plan whose span is too long to be played while somebody waits, in the finest steps that are quick enough and that its
    groups allow; any other as it is."""
    if plan.days * 86400 / plan.tick <= MOST_TICKS_WAITED_FOR:
        return plan
    paces = [pace for group in plan.groups.values() for pace in (group.evaluate_every, group.meters.period)]
    longest = min((g.work.length / 2 for g in plan.groups.values() if isinstance(g.work, Sessions)), default=math.inf)
    fit = [step for step in TICKS if plan.tick < step <= longest and all(pace % step == 0 for pace in paces)]
    quick = [step for step in fit if plan.days * 86400 / step <= MOST_TICKS_WAITED_FOR]
    step = quick[0] if quick else fit[-1] if fit else plan.tick
    return plan.model_copy(update={"tick": float(step)})


def check_size(plan: Plan, group: Group) -> None:
    """Refuse a rehearsal that would not fit. Raises PlanError, which says which step would do."""
    size = size_of(plan, group)
    if size <= MOST_OF_ONE:
        return
    coarser = [step for step in TICKS if size_of(plan.model_copy(update={"tick": float(step)}), group) <= MOST_OF_ONE]
    do = f"a step of {coarser[0]} s would do" if coarser else "rehearse fewer days, or ask the policies less often"
    said = f"would take {size / 2**20:,.0f} MiB at this step, more than {MOST_OF_ONE // 2**20} MiB; {do}"
    raise PlanError([Problem(("tick",), say_duration(plan.tick), said)])


def rehearse(plan: Plan, group_name: str, seed: int = 1, by_zone: bool = False) -> Rehearsal:
    """One rehearsal by itself; see `Rehearser.rehearse`."""
    return Rehearser().rehearse(plan, group_name, seed, by_zone)


def _size(array: NDArray[Any]) -> int:
    return array.nbytes


def _crew_key(crew: Crew) -> tuple[str, ...]:
    named = (*crew.outside, *crew.histories)
    types = [part for one in crew.every_type for part in (one.launch, one.machine)]
    brought = [] if crew.market is None else [crew.market]
    parts = (crew.group, *types, *brought, *crew.incidents, *(series for _, series in named))
    return (*(part.content for part in parts), *(name for name, _ in named), crew.shut)
