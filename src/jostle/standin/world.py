"""The world of the stand-in: all groups of a plan on one clock, what goes wrong in it on purpose, and how it survives a stop.

All that happens follows from the plan, the seed and what was ordered, so that what is kept is the orders.
"""

import math
from collections.abc import Iterator
from pathlib import Path
from threading import Condition
from typing import Any

import numpy as np

from jostle.core.decide.code import NOBODY, Cause
from jostle.core.decide.row import DECISION, VIEW
from jostle.core.decide.rules import rows
from jostle.core.engine.compile import Crew
from jostle.core.engine.deck import NO_DECK
from jostle.core.engine.result import Result
from jostle.core.engine.state import State
from jostle.core.journal.event import Event, events
from jostle.core.plan.clock import Clock
from jostle.core.plan.layer import Surge
from jostle.core.plan.place import companies
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearsal import Aboard, Rehearsal, clock_of, crew_of
from jostle.core.rehearsal.rehearser import Rehearser, check_size
from jostle.provider.message import Answered, Fewer, More, OneAct, Steer
from jostle.provider.message import Fault as FaultOrder
from jostle.provider.provider import Leaves, NotThere, Readings, Refused
from jostle.standin.ground import MENDS, Ground
from jostle.standin.log import Log
from jostle.standin.shared_ground import grounds_of
from jostle.standin.weather import from_now_on, incident_of, own_demand, with_demand

WEEK = 7 * 86400.0


class Place:
    """One group in the world: its ground, its plan as it is by now, and which instant of evaluation was answered last."""

    def __init__(self, plan: Plan, group: str, seed: int, rehearser: Rehearser, ground: Ground, company: list["Place"]) -> None:
        """The next of a host and then its guests, or the only one."""
        self.group, self.seed, self.rehearser, self.ground = group, seed, rehearser, ground
        self.plan = plan
        self.crew: Crew = crew_of(plan, group)
        self.company = company
        company.append(self)
        self.answered = 0.0
        self.silent_until = self.late_until = self.slow_until = self.mute_until = -math.inf
        self.late_by = self.slow_by = 0.0

    @property
    def every(self) -> float:
        return self.crew.group.evaluate_every

    @property
    def evaluates(self) -> bool:
        """Whether the clock waits here for the keeper to decide."""
        late = not self.ground.found and self.ground.time >= self.answered + self.every - 1e-6
        whole = self.ground.whole
        return late and (whole is None or whole.waiting is self.ground)

    @property
    def furthest(self) -> float:
        """The instant to which it, or one with whom it shares its ground, has come."""
        return max(place.ground.time for place in self.company)

    @property
    def due(self) -> bool:
        """Whether the clock waits for the keeper here: to decide, or to see to what was found broken."""
        return self.ground.found or self.evaluates

    def go_on(self, goal: float) -> None:
        if self.ground.whole is not None:
            if not any(place.due for place in self.company):
                self.ground.whole.go_on(min(goal, self.ground.ends))
            return
        if self.ground.found:
            return
        until = min(goal, self.answered + self.every, self.ground.ends)
        if until > self.ground.time + 1e-9:
            self.ground.go_on(until)

    def change(self, plan: Plan) -> None:
        """Go by a plan whose demand is another from now on."""
        self.plan, self.crew = plan, crew_of(plan, self.group, self.crew.versions)
        setup = self.rehearser.setup_of(plan, self.group, self.seed, self.crew.versions)
        going_on, self.ground.state = from_now_on(setup, self.ground.setup, self.ground.state)
        self.ground.take(going_on)

    def record(self) -> Rehearsal:
        """All that happened, as a rehearsal."""
        results = [Result(place.ground.setup, place.ground.state) for place in self.company]
        names, crews = tuple(place.group for place in self.company), tuple(place.crew for place in self.company)
        aboard = None if self.ground.whole is None else Aboard(names, crews, tuple(results))
        own, bounds = results[self.company.index(self)], self.rehearser.find_bounds
        return Rehearsal(self.plan, self.group, self.seed, self.crew, clock_of(self.plan), own, bounds, aboard)

    def readings(self, first: int) -> Readings:
        """Those that the meters give by now."""
        told = self.ground.readings(first)
        period = self.crew.group.meters.period
        known = len(told.metered)
        if self.ground.time < self.silent_until:
            known = 0
        elif self.ground.time < self.late_until:
            known = max(0, min(known, int((self.ground.time - self.late_by) / period + 1e-9) - told.first))
        return Readings(told.first, told.values[:, :, :known], told.metered[:known])


class World:
    """Raises PlanError where the plan cannot live, Refused and NotThere where an order cannot be done, OSError where it cannot be
    written down; then it was not done."""

    def __init__(self, plan: Plan, seed: int = 1, folder: Path | None = None) -> None:
        if not plan.groups:
            raise PlanError([Problem(("groups",), None, "there is no group to run; write one first")])
        for name, group in plan.groups.items():
            check_size(plan, group)
            if group.hands:
                said = "hands act in a rehearsal only; leave them out to live through it"
                raise PlanError([Problem(("groups", name, "hands"), None, said)])
        rehearser = Rehearser()
        self.plan, self.seed, self.clock = plan, seed, clock_of(plan)
        self.places = _places(plan, seed, rehearser)
        self.goal = self.pace = 0.0
        self.changed = Condition()
        self._changes: list[dict[str, Any]] = []
        self._log = Log(folder)
        self._snapped = 0.0
        self._come_back()

    def place(self, group: str) -> Place:
        if group not in self.places:
            raise NotThere(f"there is no group {group}; there is: {', '.join(self.places)}")
        return self.places[group]

    def _come_back(self) -> None:
        """Stand where the log says that the world stood."""
        if (kept := self._log.read_snapshot()) is not None:
            said, arrays = kept
            if said["plan"] != self.plan.content or said["seed"] != self.seed:
                raise self._unfit("for another plan or seed")
            for change in said["changes"]:
                self._change(change)
            for name, place in self.places.items():
                state = _with_arrays(_apart(place), arrays, f"{name}/")
                if state is None:
                    raise self._unfit("by another version of Jostle")
                place.ground.state = state
                place.answered = said["answered"][name]
                place.ground.orders_known(said["keys"][name])
            for place in self.places.values():
                deck = place.company[0].ground.state.deck
                place.ground.state = place.ground.state._replace(deck=deck)
            self.goal = self._snapped = said["goal"]
        for entry in self._log.entries():
            if entry["g"]:
                # A fault is found within the step that begins at its time.
                within = self.plan.tick if _is_mending(entry) else 0.0
                self.places[entry["g"]].go_on(entry["t"] + within)
            self._do(entry)
        for place in self.places.values():
            place.go_on(self.goal)

    def _unfit(self, whose: str) -> PlanError:
        return PlanError([Problem(("data",), str(self._log.folder), f"was written {whose}; name another folder")])

    def _write(self, kind: str, group: str, body: dict[str, Any], lasting: bool = True) -> dict[str, Any]:
        time = self.places[group].furthest if group else self.goal
        entry = {"k": kind, "g": group, "t": time, "b": body}
        self._log.write(entry, lasting)
        return entry

    def _do(self, entry: dict[str, Any]) -> Any:
        """Do what an entry of the log says."""
        kind, body = str(entry["k"]), entry["b"]
        if kind == "clock":
            self.goal = max(self.goal, body["until"])
            return None
        if kind in ("fault", "steer"):
            return self._change(entry)
        place = self.places[entry["g"]]
        match kind:
            case "more":
                place.ground.more(body["key"], body["number"], body["by"], body.get("version"))
            case "fewer":
                leaving = [Leaves(one["number"], one["to_stop"], one["why"]) for one in body["leaving"]]
                place.ground.fewer(body["key"], leaving, body["by"])
            case "one":
                place.ground.handle(body["key"], body["act"], body["number"], body["cpu"], body["length"])
            case "enter":
                return self._enter(place, body)
            case "mended":
                place.ground.seen_to()
            case _:
                place.answered = body["time"]
        return None

    def _enter(self, place: Place, body: dict[str, Any]) -> int:
        state = place.ground.state
        if body["decision"] is None:
            place.ground.leave_alone(int(state.series["desired"][max(0, int(state.now["tick"][0]) - 1)]))
            return NOBODY
        decision, views = rows(1, DECISION)[0], rows(len(body["views"]), VIEW)
        for row, told in zip((decision, *views), (body["decision"], *body["views"]), strict=True):
            for field, value in told.items():
                row[field] = math.nan if value is None else value
        state.memory.row["desired"] = decision.decided
        return place.ground.enter(decision, views)

    def _change(self, entry: dict[str, Any]) -> None:
        self._changes.append(entry)
        place, time, body = self.places[entry["g"]], entry["t"], entry["b"]
        if entry["k"] == "steer":
            _steer(place, self.clock, time, Steer.model_validate(body))
        else:
            _fault(place, self.clock, time, FaultOrder.model_validate(body))

    # Orders

    def more(self, group: str, order: More) -> bool:
        self.place(group).ground.may_launch(order.version)
        return self._once(group, "more", order.key, order.model_dump())

    def fewer(self, group: str, order: Fewer) -> bool:
        ground = self.place(group).ground
        if not ground.known(order.key):
            for one in order.leaving:
                ground.may_leave(one.number)
        return self._once(group, "fewer", order.key, order.model_dump())

    def one(self, group: str, number: int, order: OneAct) -> bool:
        ground = self.place(group).ground
        if not ground.known(order.key):
            ground.may(order.act, number)
        return self._once(group, "one", order.key, {"number": number, **order.model_dump()})

    def _once(self, group: str, kind: str, key: str, body: dict[str, Any]) -> bool:
        """Do an order that was not done under its key. Returns whether it had been."""
        if self.place(group).ground.known(key):
            return True
        self._do(self._write(kind, group, body))
        self._tell()
        return False

    def enter(self, group: str, told: Answered) -> int:
        """Take down what the keeper decided; returns the policy that changed the count."""
        place = self.place(group)
        state = place.ground.state
        entered = int(state.now["evaluations"][0])
        if entered and state.decisions["time"][entered - 1] >= told.time - 1e-6:
            row = state.decisions[entered - 1]
            return int(row["winner"]) if row["decided"] != row["desired"] and row["cause"] == Cause.POLICY else NOBODY
        self._at_due(place, told.time)
        self._fits(place, told)
        return int(self._do(self._write("enter", group, told.model_dump(include={"time", "decision", "views"}), lasting=False)))

    def answer(self, group: str, told: Answered) -> None:
        """The keeper has done with an instant: the clock may go on."""
        place = self.place(group)
        if told.mended:
            if place.ground.found and abs(told.time - place.ground.time) < 1e-6:
                self._do(self._write("mended", group, {}, lasting=False))
                self.go_on()
            return
        if told.time <= place.answered + 1e-6:
            return
        self._at_due(place, told.time)
        self.enter(group, told)
        self._do(self._write("answered", group, {"time": told.time}, lasting=False))
        self.go_on()

    def _at_due(self, place: Place, time: float) -> None:
        if not place.evaluates or abs(time - place.ground.time) > 1e-6:
            said = f"is due at {place.answered + place.every:g} s, and it is {place.ground.time:g} s"
            raise Refused(f"{place.group} {said}; {time:g} s cannot be answered")

    def _fits(self, place: Place, told: Answered) -> None:
        state = place.ground.state
        names = (state.decisions.dtype.names or (), state.views.dtype.names or ())
        rows = ([told.decision] if told.decision is not None else [], told.views if told.decision is not None else [])
        for known, given in zip(names, rows, strict=True):
            for one in given:
                if unknown := set(one) - set(known):
                    raise Refused(f"a decision has no {', '.join(sorted(unknown))}; it has {', '.join(known)}")
        if told.decision is not None and len(told.views) != state.views.shape[1]:
            raise Refused(f"{len(told.views)} views were given of {state.views.shape[1]} policies")

    # The clock

    def set_clock(self, until: float | None, pace: float | None) -> None:
        if until is not None:
            self._do(self._write("clock", "", {"until": until}, lasting=False))
        if pace is not None:
            self.pace = pace
        self.go_on()

    def go_on(self) -> None:
        """Let all groups go as far as the clock and their keepers let them."""
        for place in self.places.values():
            place.go_on(self.goal)
        least = min(place.answered for place in self.places.values())
        if least - self._snapped >= WEEK:
            self._snapped = least
            self.snapshot()
        self._tell()

    def _tell(self) -> None:
        with self.changed:
            self.changed.notify_all()

    def snapshot(self) -> None:
        arrays = {path: array for name, place in self.places.items() for path, array in _arrays(_apart(place), f"{name}/")}
        said = {
            "plan": self.plan.content,
            "seed": self.seed,
            "changes": self._changes,
            "goal": self.goal,
            "answered": {name: place.answered for name, place in self.places.items()},
            "keys": {name: place.ground.recent_orders() for name, place in self.places.items()},
        }
        self._log.snapshot(said, arrays)

    # What goes wrong, and what is asked

    def fault(self, order: FaultOrder) -> None:
        place = self.place(order.group)
        if order.zone is not None and order.zone not in place.crew.launch.zones:
            raise Refused(f"{order.group} has no instance in {order.zone}; it has zones {', '.join(place.crew.launch.zones)}")
        if order.kind == "zone_lost" and order.zone is None:
            raise Refused(f"say which zone is lost: {', '.join(place.crew.launch.zones)}")
        self._do(self._write("fault", order.group, order.model_dump()))

    def steer(self, order: Steer) -> None:
        self.place(order.group)
        self._do(self._write("steer", order.group, order.model_dump()))

    def happened(self, group: str, since: int) -> Iterator[tuple[int, Event, int]]:
        """Events of a group from number `since` on: their number, the event, and the instance that it is about (or -1)."""
        record = self.place(group).record()
        rows = record.result.events[since:]
        for number, (row, event) in enumerate(zip(rows, events(record, from_row=since), strict=True)):
            yield since + number, event, int(row["who"])


def _places(plan: Plan, seed: int, rehearser: Rehearser) -> dict[str, Place]:
    """All groups of a plan, hosts and their guests on one ground."""
    found: dict[str, Place] = {}
    for names in companies(plan):
        company: list[Place] = []
        grounds = grounds_of([rehearser.setup_of(plan, name, seed) for name in names])
        for name, ground in zip(names, grounds, strict=True):
            found[name] = Place(plan, name, seed, rehearser, ground, company)
    return {name: found[name] for name in plan.groups}


def _apart(place: Place) -> State:
    """Its state, without what it shares with the host that has it."""
    state = place.ground.state
    return state if place.company[0] is place else state._replace(deck=NO_DECK)


def _is_mending(entry: dict[str, Any]) -> bool:
    return entry["k"] == "mended" or (entry["k"] == "one" and entry["b"]["act"] in MENDS)


def _steer(place: Place, clock: Clock, time: float, order: Steer) -> None:
    at = clock.at(clock.first + time).isoformat()
    layer = Surge(kind="surge", at=at, factor=order.factor, ramp=0.0, hold=order.length, decay=0.0)
    _with_demand(place, {"layers": [layer]})


def _fault(place: Place, clock: Clock, time: float, order: FaultOrder) -> None:
    until = time + order.length
    match order.kind:
        case "silent_meters":
            place.silent_until = until
        case "late_readings":
            place.late_until, place.late_by = until, order.amount
        case "slow_act":
            place.slow_until, place.slow_by = until, order.amount
        case "lost_answer":
            place.mute_until = until
        case _:
            at = clock.at(clock.first + time).isoformat()
            incident = incident_of(order.kind, at, order.length, order.zone, order.amount)
            _with_demand(place, {"incidents": [incident]})


def _with_demand(place: Place, more: dict[str, list[Any]]) -> None:
    """Add to the demand of one group alone."""
    demand = own_demand(place.plan, place.group)
    added = demand.model_copy(update={field: [*getattr(demand, field), *some] for field, some in more.items()})
    place.change(with_demand(place.plan, place.group, added))


def _arrays(part: Any, path: str) -> Iterator[tuple[str, np.ndarray]]:
    for name, value in part._asdict().items():
        if isinstance(value, np.ndarray):
            yield f"{path}{name}", value.view(np.ndarray)
        else:
            yield from _arrays(value, f"{path}{name}/")


def _with_arrays(state: State, arrays: dict[str, np.ndarray], path: str) -> State | None:
    """The state as it was written; None where that was in another form."""
    form = {place: (array.dtype.descr, array.ndim) for place, array in _arrays(state, path)}
    if any(place not in arrays or (arrays[place].dtype.descr, arrays[place].ndim) != form[place] for place in form):
        return None

    def fill(part: Any, inside: str) -> Any:
        found = {}
        for name, value in part._asdict().items():
            if isinstance(value, np.ndarray):
                kept = arrays[f"{inside}{name}"]
                found[name] = kept.view(np.recarray) if kept.dtype.names else kept
            else:
                found[name] = fill(value, f"{inside}{name}/")
        return part._replace(**found)

    filled: State = fill(state, path)
    return filled
