"""A validated plan becomes plain arrays and scalars. All strings, dates and units end here."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from functools import cached_property
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.figure import drawn
from jostle.core.built.play import kind_of, type_of
from jostle.core.calendar.occurrence import to_epoch
from jostle.core.calendar.orders import orders
from jostle.core.decide.code import NOBODY, Step
from jostle.core.decide.history import usual_week
from jostle.core.decide.row import order_rows
from jostle.core.decide.rules import Surroundings, rows, rules_of
from jostle.core.engine.code import THE_NEWEST, THE_OLDEST, Blow, Choose, Fault, HandAct, Put
from jostle.core.engine.jobs import stages_of
from jostle.core.engine.market import MARKET_STEP, UNIT, Market, market_of, no_market
from jostle.core.engine.mix import ON_DEMAND, SPOT
from jostle.core.engine.queue import COUNTS, Line, line_of, no_line
from jostle.core.engine.setup import FIXED, HAND, INCIDENT, KIND, Setup
from jostle.core.engine.spread import Way
from jostle.core.engine.state import UNLIMITED
from jostle.core.engine.work import fill, places_each
from jostle.core.plan.build import Build
from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand
from jostle.core.plan.group import Group
from jostle.core.plan.hand import Hand, HandKill, HandLoad, HandOnOne, HandPin, HandRollout, HandSet, HandStress
from jostle.core.plan.incident import (
    MARKET_INCIDENTS,
    Breaking,
    Incident,
    LastingIncident,
    NoCapacity,
    NoSpot,
    PriceShock,
    SlowBoots,
    SlowDependency,
    SpotStorm,
    ZoneLost,
)
from jostle.core.plan.machine import Machine, Prices
from jostle.core.plan.machine_type import MachineType
from jostle.core.plan.metric import Metric
from jostle.core.plan.outside import Samples
from jostle.core.plan.policy import MetricPolicy
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.spot_prices import SpotPrices
from jostle.core.plan.tariff import GIB, Tariff, Traffic, tariff_of
from jostle.core.plan.template import Launch
from jostle.core.plan.work import Requests

_SEEN = {"machine": Fault.STOPPED, "heartbeat": Fault.FROZEN, "load_balancer": Fault.HUNG}
_FAULTS = {"stopped": Fault.STOPPED, "frozen": Fault.FROZEN, "hung": Fault.HUNG}
_WAYS = {"by_chance": Way.CHANCE, "in_turn": Way.TURN, "least_busy": Way.LEAST_BUSY}
_ROLLS = {"pause": Step.HELD, "go_on": Step.GOES_ON, "stop": Step.STOPS, "back": Step.TURNS_BACK}
MOST_EXTRAS = 16
# Standard deviations below which 99 of 100 normal draws lie
SLOWEST_OF_100 = 2.326
STOP_TIME = 30.0
MEBI_MB = 1024 * 1024 / 1e6
KIBI_MB = 1024 / 1e6


@dataclass(frozen=True)
class Crew:
    """A group with what it runs on: the part of a plan that one rehearsal needs besides its demand."""

    group: Group
    launch: Launch
    prices: Prices
    builds: tuple[Build, ...]
    incidents: tuple[Incident, ...] = ()
    outside: tuple[tuple[str, Samples], ...] = ()
    histories: tuple[tuple[str, Demand], ...] = ()
    market: SpotPrices | None = None
    # The version that each rollout brings, by its name
    brought: Mapping[str, int] = field(default_factory=dict)
    # The groups that run on it, by name
    guests: Mapping[str, Group] = field(default_factory=dict)
    # Why nothing that its load balancer sends gets through to an instance; empty where it does
    shut: str = ""

    @property
    def types(self) -> tuple[MachineType, ...]:
        """The machines that may serve it, in its own version."""
        return self.builds[0].types

    @cached_property
    def every_type(self) -> tuple[MachineType, ...]:
        """The same of each version that is told apart, one after the other, as kinds are numbered."""
        return tuple(one for build in self.builds for one in build.types)

    @property
    def versions(self) -> tuple[int, ...]:
        """Those that are told apart."""
        return tuple(build.version for build in self.builds)

    @property
    def rolls_out(self) -> bool:
        """Whether another version is brought in by its calendar."""
        return bool(self.brought)

    @property
    def machine(self) -> Machine:
        """That of its template; of several types it is the first."""
        return self.types[0].machine

    @property
    def warm_up(self) -> float:
        """Seconds from the end of the boot to taking load, with the checks that must pass first."""
        return self.launch.warm_up + self.group.health.passing

    @property
    def lead(self) -> float:
        """Seconds before a time at which a launch has to be ordered to serve by it: 99 boots of 100 are no slower, and orders are
        given at evaluations."""
        variance = math.log(1.0 + self.machine.boot_spread**2)
        slow = math.exp(SLOWEST_OF_100 * math.sqrt(variance) - 0.5 * variance)
        return self.launch.boot_time * slow + self.warm_up + self.group.evaluate_every

    @property
    def tariff(self) -> Tariff:
        """What its instances cost."""
        return self.tariff_of(0)

    def machine_of(self, kind: int) -> str:
        """The name of the machine of a kind of instance."""
        return self.every_type[type_of(kind)].launch.machine

    def tariff_of(self, machine_type: int) -> Tariff:
        """What instances of one of its types of machines cost."""
        one = self.every_type[machine_type]
        return tariff_of(one.machine, self.prices, one.launch)

    @property
    def tariffs(self) -> tuple[Tariff, ...]:
        """What instances of each of its types of machines cost."""
        return tuple(self.tariff_of(number) for number in range(len(self.every_type)))

    @property
    def quota(self) -> int | None:
        """What the quotas of its machines come to over all groups, in what it counts in; None where one has none."""
        parts = [one.machine.quota for one in self.types]
        return None if None in parts else sum((part or 0) * self.weight_of(number) for number, part in enumerate(parts))

    def weight_of(self, machine_type: int) -> int:
        """What an instance of one of its types of machines is of what the group counts in."""
        buying, one = self.group.buying, self.every_type[machine_type]
        return 1 if buying is None else buying.weight_of(one.launch.machine, one.machine)

    @property
    def weights(self) -> dict[str, int]:
        """The same by the name of the machine; of instances none."""
        found = {one.launch.machine: self.weight_of(number) for number, one in enumerate(self.types)}
        return found if any(weight != 1 for weight in found.values()) else {}

    @property
    def goes_out(self) -> bool:
        """Whether what its instances send is paid for as sent to the world."""
        balancer = self.group.load_balancer
        return balancer.public if balancer else bool(self.launch.fields.public_address)

    @property
    def money(self) -> tuple[object, ...]:
        """All that the price of what it does follows from; the same where that is the same."""
        return (self.tariffs, self.prices.content, self.group.load_balancer is not None, self.goes_out)

    @property
    def traffics(self) -> list[Traffic]:
        """The kinds of traffic that are paid for."""
        work, prices = self.group.work, self.prices
        through = prices.load_balancer_gib if self.group.load_balancer else Decimal(0)
        found = [
            Traffic("data out", 1024 * work.kib_out, prices.gib_out if self.goes_out else Decimal(0)),
            Traffic("load balancer data", 1024 * (work.kib_in + work.kib_out), through),
        ]
        return [traffic for traffic in found if traffic.price and traffic.each]

    @property
    def ready_after(self) -> float:
        """Seconds from a launch to taking load, on average."""
        return self.launch.boot_time + self.warm_up


def compile_setup(
    crew: Crew,
    clock: Clock,
    rate: NDArray[np.float64],
    seed: int = 1,
    quota: int | None = None,
    asking: Sequence[tuple[NDArray[np.float64], float]] = (),
    line_for: Callable[..., Line] = line_of,
    drawn_for: Callable[[NDArray[np.float64], int, int], NDArray[np.float64]] | None = None,
    usual_for: Callable[[Demand, float, ZoneInfo], np.recarray] = usual_week,
) -> Setup:
    """The setup of one rehearsal.

    `rate` is the demand of each tick in 1/s, shape (clock.ticks,); `quota` the instances that it may have at
    the most, all it wants if left out; `asking` the clients in each tick that wait for their answers, with the time (s) for
    which they think; `line_for` makes or finds the line of an instance, `drawn_for` the counts that are drawn of means,
    `usual_for` what is usual by a history.
    """
    group = crew.group
    evaluate_ticks = round(group.evaluate_every / clock.tick)
    evaluations = clock.ticks // evaluate_ticks
    fixed = rows(1, FIXED)
    row = fixed[0]
    row.tick, row.ticks, row.seed = clock.tick, clock.ticks, seed
    row.evaluate_ticks, row.period_ticks = evaluate_ticks, round(group.meters.period / clock.tick)
    row.meter_latency = any(policy.metric == Metric.LATENCY_P95 for policy in group.policies if isinstance(policy, MetricPolicy))
    row.meter_zones = any(getattr(policy, "zone", None) for policy in group.policies)
    number_of_types = len(crew.every_type)
    kinds = rows(1 if group.buying is None and number_of_types == 1 else 2 * number_of_types, KIND)
    # The first last: the row of the group takes what is told of its machine
    unit = [_kind(row, kinds[2 * number], crew, number) for number in reversed(range(number_of_types))][-1]
    row.types, row.builds = len(crew.types), len(crew.builds)
    row.fails = bool((kinds["failing"] > 0.0).any())
    row.settled_order = not set(group.leaving.criteria) & {"least_paid_left", "fewest_sessions", "fewest_copies", "dearest"}
    row.weighed = any(kind.weight != 1 for kind in kinds[::2])
    row.mixed = len(crew.builds) > 1 or len({(kind.vcpus, kind.service_rate, kind.capacity) for kind in kinds[::2]}) > 1
    _life(row, crew)
    _start(row, crew)
    market = _buying(row, kinds, crew, clock, seed)
    if (identity := group.identity) is not None:
        row.posts, row.keeps = identity.used_again or identity.kept, identity.kept
        row.attach, row.disks_stay = identity.attach_time, identity.disks == "kept"
    row.ordered = group.order is not None
    row.price_group = float(crew.prices.load_balancer_hour) / 3600 if group.load_balancer else 0.0
    row.price_each = sum(traffic.each * float(traffic.price) / GIB for traffic in crew.traffics)
    row.watched = row.guest = NOBODY
    if group.place is not None:
        row.put, row.place_vcpus, row.place_memory = Put[group.place.put.upper()], group.place.vcpus, group.place.memory_gib
    weights = group.load_balancer.weights if group.load_balancer else {}
    row.weighted = bool(weights)
    row.alike = row.mixed and group.load_balancer is not None and not group.load_balancer.by_power
    means, arrivals = _comers(row, rate, drawn_for or drawn)
    line = no_line()
    if isinstance(group.work, Requests):
        shapes = _shapes(kinds)
        line = line_for(*_line_terms(group, _most_instances(crew), shapes, group.work))
        _find_lines(row, kinds, shapes, line)
    times = np.asarray(clock.tick * evaluate_ticks * (1.0 + np.arange(evaluations)), dtype=np.float64)
    outside, usual = [name for name, _ in crew.outside], {n: usual_for(d, clock.first, clock.zone) for n, d in crew.histories}
    lead = crew.ready_after + group.meters.delay
    rules = rules_of(
        group,
        Surroundings(
            unit / crew.weight_of(0),
            places_each(kinds[0], group),
            lead,
            crew.launch.zones,
            outside,
            usual,
            _lapse(crew, clock),
            _rollouts(crew, clock),
            kinds[0].room_vcpus,
        ),
    )
    return Setup(
        fixed=fixed,
        kinds=kinds,
        means=means,
        arrivals=arrivals,
        line=line,
        extras=_extras(crew, clock),
        stages=stages_of(row, kinds[0]),
        rules=rules,
        orders=order_rows(orders(group.calendar, clock.first, clock.zone, times, crew.lead)),
        quota=np.full(1, UNLIMITED if quota is None else quota, np.int32),
        incidents=_incidents(crew, clock),
        hands=_hands(group.hands, clock),
        outside=_outside(crew, clock),
        weights=np.array([weights.get(version, 1.0) for version in range(max(*crew.versions, int(row.first_version)) + 1)]),
        market=market,
        clients=np.array([clients for clients, _ in asking]).reshape(len(asking), clock.ticks),
        thinks=np.array([think for _, think in asking]),
    )


def _shapes(kinds: np.ndarray) -> tuple[tuple[int, float], ...]:
    """The unlike ones among instances: with so many vCPUs that do so much each (1/s)."""
    return tuple(dict.fromkeys((int(kind.vcpus), float(kind.service_rate)) for kind in kinds[::2]))


def _line_terms(
    group: Group, most: int, shapes: tuple[tuple[int, float], ...], work: Requests
) -> tuple[Way, int, tuple[tuple[int, float], ...], float, float]:
    """What the line of a group follows from."""
    way = _WAYS[group.spread]
    return way, 1 if way == Way.CHANCE else most, shapes, work.timeout, work.unevenness


def _find_lines(row: np.record, kinds: np.ndarray, shapes: tuple[tuple[int, float], ...], line: Line) -> None:
    """Say of each kind where its tables of waits begin."""
    row.shapes, each = len(shapes), len(line.tables) // len(shapes)
    for number, kind in enumerate(kinds):
        usual = kinds[number - number % 2]
        kind.line = shapes.index((int(usual.vcpus), float(usual.service_rate))) * each


def with_line_of(setup: Setup, old: Setup, crew: Crew) -> Setup:
    """The same setup with the tables of waits where an old one has them, so that what was counted by them stays where it is."""
    known, work = int(old.of("shapes")), crew.group.work
    if not isinstance(work, Requests) or setup.line.tables.shape == old.line.tables.shape:
        return setup
    setup, shapes = setup.changed(), _shapes(setup.kinds)
    line, most = old.line, int(COUNTS[len(old.line.tables) // known - 1])
    if len(shapes) != known:
        line = line_of(*_line_terms(crew.group, most, shapes, work), like=old.line)
    _find_lines(setup.fixed[0], setup.kinds, shapes, line)
    return setup._replace(line=line)


def _lapse(crew: Crew, clock: Clock) -> float:
    """When the order of a group lapses (s from the start)."""
    order = crew.group.order
    return math.inf if order is None or order.until is None else _seconds(clock, order.until)


def _rollouts(crew: Crew, clock: Clock) -> list[tuple[int, float, int]]:
    """The rollouts of the calendar: number, time (s from the start) and version of each."""
    return [
        (number, to_epoch(datetime.fromisoformat(entry.begin), entry.zone_in(clock.zone)) - clock.first, version)
        for number, entry in enumerate(crew.group.calendar)
        if isinstance(entry, Rollout) and (version := crew.brought.get(entry.name)) is not None
    ]


def _most_instances(crew: Crew) -> int:
    """The most instances that its maximum comes to."""
    return max(1, crew.group.maximum // min(crew.weight_of(number) for number in range(len(crew.types))))


def reseeded(
    setup: Setup, crew: Crew, clock: Clock, rate: NDArray[np.float64], seed: int, drawn_for: Callable[..., NDArray[np.float64]]
) -> Setup:
    """The setup that `compile_setup` would make of the same under another seed, with its demand."""
    fixed, kinds = setup.fixed.copy().view(np.recarray), setup.kinds.copy().view(np.recarray)
    fixed[0].seed = seed
    means, arrivals = _comers(fixed[0], rate, drawn_for)
    market = _buying(fixed[0], kinds, crew, clock, seed)
    return setup._replace(fixed=fixed, kinds=kinds, means=means, arrivals=arrivals, market=market)


def _comers(
    row: np.record, rate: NDArray[np.float64], drawn_for: Callable[[NDArray[np.float64], int, int], NDArray[np.float64]]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How many are expected in each tick, and how many come."""
    means = np.ascontiguousarray(rate * row.tick, dtype=np.float64)
    if row.by_chance:
        return means, drawn_for(means, int(row.seed), int(row.steps))
    return means, np.diff(np.floor(np.cumsum(means) + 1e-9), prepend=0.0) if row.held_jobs else means


def _extras(crew: Crew, clock: Clock) -> NDArray[np.float64]:
    """The delays that slow dependencies bring one by one or together (s), 0 the first."""
    slow = [incident for incident in incidents_met(crew) if isinstance(incident, SlowDependency)]
    begins = [_seconds(clock, incident.at) for incident in slow]
    turns = sorted({*begins, *(begin + incident.length for begin, incident in zip(begins, slow, strict=True))})
    sums = {
        round(sum(one.extra for begin, one in zip(begins, slow, strict=True) if begin <= turn < begin + one.length), 6)
        for turn in turns
    }
    return np.array([0.0, *sorted(sums - {0.0})][:MOST_EXTRAS])


def _kind(row: np.record, kind: np.record, crew: Crew, number: int) -> float:
    """A type of machine, on demand. Returns what a Spare policy counts of one instance."""
    work, machine = crew.group.work, crew.every_type[number].machine
    memory = machine.memory_gib * 1024
    kind.vcpus, row.steps = machine.vcpus, 1
    row.idle_cpu, row.full_cpu = work.idle_cpu, 1.0
    kind.idle_memory, kind.memory_each = work.idle_memory_mib / memory, work.memory_mib_each / memory
    row.in_each, row.out_each, row.disk_each = (kib * KIBI_MB for kib in (work.kib_in, work.kib_out, work.kib_disk))
    kind.service_rate = machine.speed
    launch, tariff = crew.every_type[number].launch, crew.tariff_of(number)
    kind.version, kind.cpu, kind.failing = launch.version, launch.cpu, launch.failing
    kind.warm_up = launch.warm_up + crew.group.health.passing
    kind.pool = next(first for first, one in enumerate(crew.every_type) if one.launch.machine == launch.machine)
    kind.boot, kind.start, kind.boot_spread = launch.boot_time, launch.start_time, machine.boot_spread
    kind.price_machine = float(tariff.machine) / 3600
    kind.price, kind.price_stopped = float(tariff.running) / 3600, float(tariff.standing) / 3600
    kind.price_detached = float(tariff.disk) / 3600
    kind.hourly, kind.least_micros = tariff.hourly, tariff.least_micros
    kind.baseline = 1.0 if machine.baseline is None else machine.baseline
    kind.first_credits, kind.most_credits = machine.first_credits, machine.most_credits
    kind.quota = UNLIMITED if machine.quota is None else machine.quota
    kind.weight = crew.weight_of(number)
    return fill(row, kind, crew.group, machine, crew.machine)


def _life(row: np.record, crew: Crew) -> None:
    group = crew.group
    health, faults = group.health, group.faults
    row.drain, row.stop = group.drain, STOP_TIME
    row.zones = len(crew.launch.zones)
    row.health, row.grace = _SEEN[health.basis], health.grace
    row.notice = health.notice
    row.fault_every = math.inf if faults.every is None else faults.every
    row.frozen, row.hung, row.never_boots, row.shut = faults.frozen, faults.hung, faults.never_boots, bool(crew.shut)


def _start(row: np.record, crew: Crew) -> None:
    group = crew.group
    row.first_count = group.first_count
    row.owned = UNLIMITED if group.owned is None else group.owned
    row.cold, row.surplus = group.first_start is not None, group.first_start.surplus if group.first_start else 0
    row.version = crew.launch.version
    row.first_version = crew.launch.version if group.start_version is None else group.start_version
    row.pinned = group.leaving.pinned


def _buying(row: np.record, kinds: np.recarray, crew: Crew, clock: Clock, seed: int) -> Market:
    """The numbers of what is bought on the market, a kind of each type, and the market itself."""
    group, zones = crew.group, crew.launch.zones
    if group.buying is None:
        return no_market(len(zones), len(crew.every_type))
    buying = group.buying
    for number, one in enumerate(crew.every_type):
        tariff, kind = crew.tariff_of(number), kinds[kind_of(number, SPOT)]
        kinds[kind_of(number, SPOT)] = kinds[kind_of(number, ON_DEMAND)]
        kind.price = float(tariff.disk + tariff.address) / 3600
        kind.price_machine, kind.hourly, kind.least_micros = 0.0, False, 0
        kind.cap_units = buying.caps.price * float(one.machine.price_per_hour) * UNIT
        if buying.caps.amount is not None:
            kind.cap_units = min(kind.cap_units, float(buying.caps.amount) * UNIT)
        kind.notice = one.machine.spot.notice if one.machine.spot is not None else 0.0
    row.spot, row.market_ticks = True, max(1, round(MARKET_STEP / clock.tick))
    row.first_on_demand, row.share_on_demand = buying.on_demand.first, buying.on_demand.share
    row.cap_chance = -math.expm1(-buying.caps.risk * MARKET_STEP / 3600)
    row.choice, row.look_again, row.wait = Choose[buying.choose.upper()], buying.look_again, buying.wait
    if (swap := buying.swap) is not None:
        row.swap_ticks, row.swap_saves, row.swap_at_once = max(1, round(swap.every / clock.tick)), swap.saves, swap.at_once
        row.swap_pinned = swap.pinned
        row.swap_chance = -math.expm1(-min(swap.risk, buying.caps.risk) * MARKET_STEP / 3600)
    machines = [(one.launch.machine, one.machine) for one in crew.every_type]
    market = market_of(machines, zones, clock.first, clock.seconds, seed, crew.market)
    for incident in incidents_met(crew):
        if isinstance(incident, MARKET_INCIDENTS):
            _strike_market(market, incident, _seconds(clock, incident.at), zones, [name for name, _ in machines])
    return market


def _strike_market(
    market: Market, incident: SpotStorm | NoSpot | PriceShock, begin: float, zones: list[str], machines: list[str]
) -> None:
    """Write into a market what an incident does to it."""
    first, last = (min(market.units.shape[2], max(0, round(at / MARKET_STEP))) for at in (begin, begin + incident.length))
    if incident.machine is not None and incident.machine not in machines:
        return
    types = [number for number, name in enumerate(machines) if incident.machine in (None, name)]
    struck = types, slice(None) if incident.zone is None else zones.index(incident.zone), slice(first, max(first + 1, last))
    match incident:
        case SpotStorm():
            many = max(1, last - first)
            market.chances[struck] = 1 - (1 - market.chances[struck]) * (1 - incident.share) ** (1 / many)
        case NoSpot():
            market.offered[struck] = False
        case PriceShock():
            market.units[struck] = np.maximum(1, np.round(market.units[struck] * incident.factor))


def _seconds(clock: Clock, moment: str) -> float:
    return clock.epoch_of(moment) - clock.first


def incidents_met(crew: Crew) -> list[Incident]:
    """The incidents as the engine numbers them: those in zones where the group has nothing are left out."""
    return [i for i in crew.incidents if getattr(i, "zone", None) in (None, *crew.launch.zones)]


def _incidents(crew: Crew, clock: Clock) -> np.recarray:
    zones, kept = crew.launch.zones, incidents_met(crew)
    found = rows(len(kept), INCIDENT)
    for number, incident in enumerate(kept):
        begin = _seconds(clock, incident.at)
        end = begin + incident.length if isinstance(incident, LastingIncident) else begin
        match incident:
            case ZoneLost():
                found[number] = (Blow.ZONE_LOST, begin, end, zones.index(incident.zone), 0.0, 0)
            case NoCapacity():
                zone = NOBODY if incident.zone is None else zones.index(incident.zone)
                found[number] = (Blow.NO_CAPACITY, begin, end, zone, 0.0, 0)
            case SlowBoots():
                found[number] = (Blow.SLOW_BOOTS, begin, end, 0, incident.factor, 0)
            case SlowDependency():
                found[number] = (Blow.SLOW_DEPENDENCY, begin, end, 0, incident.extra, 0)
            case SpotStorm() | NoSpot() | PriceShock():
                found[number] = (Blow.MARKET, begin, end, 0, 0.0, 0)
            case Breaking():
                found[number] = (Blow.BREAKING, begin, end, 0, incident.share, _FAULTS[incident.fault])
    return found


def hands_in_order(hands: list[Hand], clock: Clock) -> list[Hand]:
    """The hands as the engine numbers them: by time, those before the start left out."""
    later = [hand for hand in hands if _seconds(clock, hand.at) >= 0]
    return sorted(later, key=lambda hand: _seconds(clock, hand.at))


def _hands(hands: list[Hand], clock: Clock) -> np.recarray:
    ordered = hands_in_order(hands, clock)
    found = rows(len(ordered), HAND)
    named = {"oldest": THE_OLDEST, "newest": THE_NEWEST}
    for number, hand in enumerate(ordered):
        time = _seconds(clock, hand.at)
        which = hand.instance if isinstance(hand, HandOnOne) else 0
        which = named[which] if isinstance(which, str) else which - 1
        match hand:
            case HandSet():
                found[number] = (HandAct.SET, time, 0, hand.count, 0.0)
            case HandKill():
                found[number] = (HandAct.KILL, time, which, 0.0, 0.0)
            case HandPin():
                found[number] = (HandAct.PIN, time, which, 0.0, 0.0)
            case HandStress():
                found[number] = (HandAct.STRESS, time, which, hand.cpu, hand.length)
            case HandLoad():
                found[number] = (HandAct.LOAD, time, 0, 0.0, hand.lasts)
            case HandRollout():
                found[number] = (HandAct.ROLL, time, _ROLLS[hand.act], 0.0, 0.0)
    return found


def _outside(crew: Crew, clock: Clock) -> NDArray[np.float32]:
    """Each outside series at the end of each meter period."""
    step = round(crew.group.meters.period / clock.tick)
    samples = clock.ticks // step
    found = np.zeros((len(crew.outside), samples), np.float32)
    for number, (_, series) in enumerate(crew.outside):
        found[number] = series.on(clock)[step - 1 :: step][:samples]
    return found
