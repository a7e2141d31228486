"""One group as it lives: its ground on the stand-in, its keeper, and the record of both, told as a rehearsal is."""

import math
from copy import copy
from dataclasses import replace
from datetime import datetime
from decimal import Decimal
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.play import coming_version, roll_by_hand
from jostle.core.calendar.moved import begun, ended
from jostle.core.calendar.occurrence import holds_since
from jostle.core.costs.ledger import Ledger, Stretch, ledger_of
from jostle.core.costs.price import total
from jostle.core.decide.code import NOBODY, Phase, Step
from jostle.core.decide.memory import carry_learning, carry_rollouts, new_memory
from jostle.core.decide.row import VIEW
from jostle.core.decide.rules import rows
from jostle.core.engine.compile import Crew, with_line_of
from jostle.core.engine.record import with_kinds
from jostle.core.engine.result import Result
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.layer import LoadTest
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.template import Launch
from jostle.core.plan.word import listed
from jostle.core.rehearsal.rehearsal import Rehearsal, clock_of, crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.keeper.keeper import Keeper, Remark
from jostle.live.company import Company
from jostle.live.embedded import Embedded
from jostle.live.hand import (
    ActAs,
    ChangeCount,
    CountByHand,
    DryRun,
    EndGroup,
    EntryNow,
    Hand,
    HoldGroup,
    LaunchSingles,
    LeaveAlone,
    LoadInstance,
    LoadService,
    OneInstance,
    PausePolicy,
    PutToWork,
    ResumePolicy,
    RollOut,
    RolloutByHand,
    Silence,
    StopLoad,
    Trouble,
)
from jostle.live.lateness import Lateness
from jostle.live.leg import Leg
from jostle.provider.provider import Provider, Refused
from jostle.standin.ground import Ground
from jostle.standin.weather import from_now_on, incident_of, own_demand, with_demand

_ROLLS = {
    "pause rollout": Step.HELD,
    "go on with rollout": Step.GOES_ON,
    "stop rollout": Step.STOPS,
    "turn rollout back": Step.TURNS_BACK,
}
# Remarks of the keeper that are kept
MOST_REMARKS = 1000


class Life:
    """A group that lives from the beginning of `plan` to its end. Times are seconds from its beginning."""

    def __init__(
        self, plan: Plan, group: str, arrangement: int, seed: int, rehearser: Rehearser, company: Company | None = None
    ) -> None:
        """By itself, or as the next of a company, which has a ground for it."""
        self.group, self.seed, self.rehearser = group, seed, rehearser
        self.clock = clock_of(plan)
        # As it began, before any hand
        self.first_plan = plan
        self.company = company or Company([rehearser.setup_of(plan, group, seed)])
        self.ground = self.company.grounds[len(self.company.lives)]
        self.company.lives.append(self)
        self.legs = [Leg(0, 0.0, arrangement, plan, crew_of(plan, group), self.ground.setup)]
        self.provider: Provider = Embedded(self.ground)
        self.keeper = self._keeper()
        self.kept = True
        # Whether a hand has ended it
        self.ended, self._before = False, 0
        # What started it, where it is single instances rather than a group
        self.single: LaunchSingles | None = None
        # What the keeper says besides what it decides: time, kind and text
        self.remarks: list[tuple[float, Remark, str]] = []
        self.hands = 0
        # Whether hands have changed what comes
        self.steered_demand = False
        self._own_layers = len(own_demand(plan, group).layers)
        self.paused: dict[str, float] = {}
        # What was last drawn of it, with what that was drawn from
        self.tape: tuple[Any, Any] | None = None
        self._other_dice: tuple[Leg, Setup] | None = None
        self._lateness = Lateness(self.clock, self.result)

    def beside(self, company: Company, ground: Ground) -> "Life":
        """The same on another ground, to try something on."""
        twin = copy(self)
        twin.company, twin.ground, twin.legs, twin.paused = company, ground, list(self.legs), dict(self.paused)
        twin.provider, twin._other_dice = Embedded(ground), None
        twin.keeper = twin._keeper()
        return twin

    @property
    def leg(self) -> Leg:
        return self.legs[-1]

    @property
    def time(self) -> float:
        return self.ground.time

    @property
    def every(self) -> float:
        """Seconds between evaluations."""
        return self.leg.crew.group.evaluate_every

    @property
    def state(self) -> State:
        return self.ground.state

    def _keeper(self) -> Keeper:
        leg = self.leg
        return Keeper(self.group, leg.crew, self.clock, leg.setup.rules, self.state.memory, self.provider, self)

    def enter(self, decision: Any, views: Any) -> int:
        """Enter a decision into the record; see `keeper.Journal`."""
        return self.ground.enter(decision, views)

    def remark(self, time: float, kind: Remark, text: str) -> None:
        """Take down what the keeper says besides; see `keeper.Journal`."""
        self.remarks.append((time, kind, text))
        del self.remarks[:-MOST_REMARKS]

    def go_on(self, until: float, decided: bool = False) -> None:
        """Live on, with all who live together with it; see `Company.go_on`."""
        self.company.go_on(until, decided)

    @property
    def hour_ends(self) -> float:
        """When the hour of its ledger ends that is under way."""
        return self._lateness.ends

    def end_hour(self) -> None:
        """See to the hour that is under way, where it has ended."""
        if self.time >= self._lateness.ends - self.clock.tick / 2:
            self._lateness.end_hour(self.result, self.leg.crew.group.promises)

    def attend(self) -> None:
        """Have what was found broken seen to, or the count decided."""
        if self.ground.found:
            self._mend()
        else:
            self.evaluate()

    def evaluate(self) -> None:
        if not self.kept or self.ended:
            self.ground.leave_alone(self.keeper.wanted)
            return
        self._resume_due()
        self.keeper.evaluate(self.time)

    def _mend(self) -> None:
        """Have what was found broken seen to."""
        if self.kept:
            self.keeper.mend(self.time)
        self.ground.seen_to()

    @property
    def steered(self) -> bool:
        """Whether a hand has it otherwise than its arrangement says, so that only the keeper can go on."""
        return not self.kept or self.ended or self.keeper.held or self.keeper.dry or bool(self.paused) or self.ground.silent

    def _resume_due(self) -> None:
        for name in [name for name, until in self.paused.items() if self.time >= until - 1e-6]:
            del self.paused[name]
        self._apply_pauses()

    def _apply_pauses(self) -> None:
        paused = self.leg.setup.rules.policies.view(np.ndarray)["paused"]
        for number, policy in enumerate(self.leg.crew.group.policies):
            paused[number] = policy.paused or policy.name in self.paused

    def lay(self, hand: Hand) -> None:
        """Do what a hand does, now. Raises Refused where that cannot be, PlanError where an arrangement does not fit."""
        key = f"hand {self.hands}"
        match hand:
            case CountByHand():
                self._set_count(hand.count)
            case ChangeCount():
                self._set_count(self.keeper.wanted + hand.by)
            case OneInstance():
                if hand.act == "kill" and self.leg.crew.launch.fields.protected:
                    said = "is protected against being ended by hand, as its template says; drain it, or set the count"
                    raise Refused(f"instance {hand.instance} {said}")
                self.ground.handle(key, hand.act, hand.instance - 1)
                if hand.one_fewer:
                    self._set_count(self.keeper.wanted - 1)
            case LoadInstance():
                self.ground.handle(key, hand.act, hand.instance - 1, hand.cpu, hand.length)
            case PausePolicy():
                until = math.inf if hand.length is None else self.time + hand.length
                self.paused |= dict.fromkeys(self._named(hand.policy), until)
                self._apply_pauses()
            case ResumePolicy():
                for name in self._named(hand.policy):
                    self.paused.pop(name, None)
                self._apply_pauses()
            case HoldGroup():
                self.keeper.held = hand.act == "hold"
            case DryRun():
                self.keeper.dry = hand.act == "dry run"
                self._mend()
            case LeaveAlone():
                self.kept = hand.act == "keep again"
                self._mend()
            case Silence():
                self.ground.silent = hand.act == "silence"
            case LoadService() | StopLoad() | Trouble():
                self._meet(hand)
            case ActAs():
                self._act_as(hand.policy)
            case EntryNow():
                self._put_to_work(self._with_entry(hand))
            case RollOut():
                self._put_to_work(self._with_rollout(hand))
            case RolloutByHand():
                self._roll_by_hand(hand)
            case EndGroup():
                self._end(hand)
            case PutToWork():
                self._put_to_work(hand)
            case LaunchSingles():
                raise Refused(f"{self.group} is a group; single instances are started outside of it")
        self.keeper.look()
        self.hands += 1

    def _set_count(self, count: int) -> None:
        before, after = self.keeper.set_count(self.time, self.hands, count)
        if before != after:
            self.ground.note_count(before, after)

    def _act_as(self, name: str) -> None:
        self._named(name)
        number = [one.name for one in self.leg.crew.group.policies].index(name)
        wanted = self.keeper.wish(self.time, number)
        if wanted is None:
            raise Refused(f"{name} has no reading to go by")
        if wanted == self.keeper.wanted:
            raise Refused(f"{name} asks for nothing else: {wanted} is what it would have")
        self._set_count(wanted)

    def _with_entry(self, hand: EntryNow) -> PutToWork:
        """The arrangement as it is, but for an entry of the calendar."""
        group = self.leg.crew.group
        entry = next((one for one in group.calendar if one.name == hand.entry), None)
        if entry is None:
            known = ", ".join(one.name for one in group.calendar) or "none"
            raise Refused(f"{self.group} has no entry {hand.entry} in its calendar; it has {known}")
        now, zone = self.clock.first + self.time, self.clock.zone
        if isinstance(entry, Rollout):
            raise Refused(f"{hand.entry} is a rollout; bring its version in by hand, or have a say in the one under way")
        if hand.act == "begin entry":
            change = begun(entry, now, zone)
        elif (since := holds_since(entry, now, zone)) is not None:
            change = ended(entry, since, zone)
        else:
            raise Refused(f"{hand.entry} does not hold now")
        document = group.model_dump(mode="json", by_alias=True)
        document["calendar"] = [told | change if told["name"] == hand.entry else told for told in document["calendar"]]
        return PutToWork(act="put to work", arrangement=self.leg.arrangement, document=document)

    def _with_rollout(self, hand: RollOut) -> PutToWork:
        """The arrangement as it is, and a rollout that begins now."""
        group, row = self.leg.crew.group, self.state.memory.row.view(np.ndarray)
        if coming_version(self.leg.setup.rules, self.state.memory, self.time) != NOBODY:
            raise Refused("a rollout is under way; let it end, or turn it back")
        if int(row["version"][0]) == hand.version:
            raise Refused(f"{self.group} runs version {hand.version} already")
        known = [entry.name for entry in group.calendar]
        name = next(one for one in (f"by-hand-{n}" for n in range(1, 1000)) if one not in known)
        at = self.clock.at(self.clock.first + self.time).replace(tzinfo=None).isoformat()
        entry = {"name": name, "kind": "rollout", "from": at, "to": hand.version, "canary": {} if hand.canary else None}
        document = group.model_dump(mode="json", by_alias=True)
        # What is over stands in the version that runs.
        rest = [one for one in document["calendar"] if one["name"] not in self._rollouts_over()]
        document["calendar"], document["version"] = [*rest, entry], int(row["version"][0])
        return PutToWork(act="put to work", arrangement=self.leg.arrangement, document=document)

    def _rollouts_over(self) -> set[str]:
        """The rollouts that were brought in, or went back, by name."""
        phases = self.state.memory.rollouts.view(np.ndarray)["phase"]
        pairs = zip(_rollouts_of(self.leg), phases.tolist(), strict=True)
        return {name for name, phase in pairs if phase in (Phase.DONE, Phase.BACK)}

    def _roll_by_hand(self, hand: RolloutByHand) -> None:
        if not roll_by_hand(self.leg.setup.rules, self.state.memory, int(_ROLLS[hand.act]), self.time, self.keeper.wanted):
            raise Refused(f"no rollout of {self.group} is under way that could be")

    def holding(self, entry: CalendarEntry) -> datetime | None:
        """When the time began for which an entry holds now, on the clock of its zone; None where it does not."""
        since = holds_since(entry, self.clock.first + self.time, self.clock.zone)
        return None if since is None else datetime.fromtimestamp(since, entry.zone_in(self.clock.zone)).replace(tzinfo=None)

    def _end(self, hand: EndGroup) -> None:
        if self.ended == (hand.act == "end group"):
            raise Refused(f"{self.group} {'has ended' if self.ended else 'has not ended'}")
        self.ended = not self.ended
        before = self.keeper.wanted
        if self.ended:
            self._before = before
            self.keeper.end(f"{self.time:g} hand {self.hands}")
            self.ground.end_stopped()
        else:
            self.keeper.set_count(self.time, self.hands, self._before)
        if before != self.keeper.wanted:
            self.ground.note_count(before, self.keeper.wanted)

    def _named(self, policy: str | None) -> list[str]:
        names = [one.name for one in self.leg.crew.group.policies]
        if policy is not None and policy not in names:
            raise Refused(f"{self.group} has no policy {policy}; it has {', '.join(names) or 'none'}")
        return names if policy is None else [policy]

    @property
    def loads(self) -> list[LoadTest]:
        """The loads that hands began and that are not over."""
        demand = own_demand(self.leg.plan, self.group)
        begun = demand.layers[self._own_layers :]
        now = self.clock.first + self.time
        return [
            one
            for one in begun
            if isinstance(one, LoadTest) and not one.muted and now < self.clock.epoch_of(one.at) + one.ramp + one.hold
        ]

    def _meet(self, hand: LoadService | StopLoad | Trouble) -> None:
        """Have another demand come from now on."""
        old, at = self.leg, self.clock.at(self.clock.first + self.time).isoformat()
        demand = own_demand(old.plan, self.group)
        layers, incidents = list(demand.layers), list(demand.incidents)
        match hand:
            case LoadService():
                sends = {field: getattr(hand, field) for field in ("clients", "each", "waits", "think", "ramp")}
                layers.append(LoadTest(kind="load_test", at=at, hold=hand.length, **sends))
            case StopLoad():
                if not (going := self.loads):
                    raise Refused("no load is under way that a hand began")
                layers = [one.model_copy(update={"muted": True}) if one in going else one for one in layers]
            case Trouble():
                zones = old.crew.launch.zones
                if hand.kind == "zone_lost" and hand.zone not in zones:
                    raise Refused(f"there is no zone {hand.zone} here; it has {', '.join(zones)}")
                incidents.append(incident_of(hand.kind, at, hand.length, hand.zone, hand.amount))
        plan = with_demand(old.plan, self.group, demand.model_copy(update={"layers": layers, "incidents": incidents}))
        crew = crew_of(plan, self.group, old.crew.versions)
        setup = self.rehearser.setup_of(plan, self.group, self.seed, crew.versions)
        going_on, self.ground.state = from_now_on(setup, old.setup, self.state)
        self.ground.take(going_on)
        self.legs[-1] = replace(old, plan=plan, crew=crew, setup=self.ground.setup)
        self.keeper.crew, self.steered_demand = self.leg.crew, True

    def _put_to_work(self, hand: PutToWork) -> None:
        """Go by another arrangement from the next evaluation on. What waits goes on waiting, policy by policy."""
        old = self.leg
        document = {**hand.document, "demand": old.crew.group.demand} if self.steered_demand else hand.document
        plan = with_group(old.plan, self.group, document)
        crew = crew_of(plan, self.group, old.crew.versions)
        before, after = old.crew.group, crew.group
        same: list[tuple[str, object, object]] = [
            ("machine", old.crew.launch.machine, crew.launch.machine),
            ("buying", _types_of(old.crew), _types_of(crew)),
            ("zones", old.crew.launch.zones, crew.launch.zones),
            ("host", before.host, after.host),
            ("place", before.place, after.place),
            ("buying", old.crew.weights, crew.weights),
            *((field, getattr(before, field), getattr(after, field)) for field in ("work", "demand", "evaluate_every", "meters")),
        ]
        for field, was, now in same:
            if was != now:
                said = "cannot change while the group lives; begin it anew for that"
                raise PlanError([Problem(("groups", self.group, field), str(now), said)])
        if before.buying is not None and after.buying is None:
            said = "what was bought as spot is still there; buy all on demand instead, by a share of 100 %"
            raise PlanError([Problem(("groups", self.group, "buying"), None, said)])
        setup = with_line_of(self.rehearser.setup_of(plan, self.group, self.seed, crew.versions), old.setup, crew)
        memory = new_memory(setup.rules, self.keeper.wanted, crew.launch.version)
        row, kept = memory.row, self.state.memory.row
        for field in ("awake_count", "asleep", "hand_stands", "wait_until", "settled"):
            row[field] = kept[field]
        row["placed"] = kept["placed"] if before.order == after.order else False
        waits = dict(zip([one.name for one in old.crew.group.policies], self.state.memory.waits, strict=True))
        for number, policy in enumerate(crew.group.policies):
            memory.waits[number] = waits.get(policy.name, -math.inf)
        carry_learning(self.state.memory, before.policies, memory, after.policies)
        carry_rollouts(self.state.memory, _rollouts_of(old), memory, _rollouts_of(replace(old, crew=crew, setup=setup)))
        number = int(self.state.now["evaluations"][0])
        self.legs[-1] = replace(old, views=self.state.views)
        views = rows((len(self.state.views), len(crew.group.policies)), VIEW)
        self.ground.state = with_kinds(self.state, setup)._replace(memory=memory, views=views)
        self.ground.take(setup)
        self.legs.append(Leg(number, self.time, hand.arrangement, plan, crew, self.ground.setup))
        self.paused = {name: until for name, until in self.paused.items() if name in waits}
        keeper = self._keeper()
        keeper.held, keeper.dry = self.keeper.held, self.keeper.dry
        self.keeper = keeper
        self._apply_pauses()
        self.keeper.listen(self.time)
        self.keeper.reconcile(f"{self.time:g} hand {self.hands}")

    def catch_up(self) -> None:
        """The engine remembers in the same place as the keeper, which only has to read the meters again."""
        self.keeper.read = 0
        self.keeper.listen(self.time)
        self.keeper.look()

    @property
    def result(self) -> Result:
        """All that was lived, as it stands; times of the present leg."""
        return Result(self.leg.setup, self.state)

    def record(self, leg: Leg | None = None) -> Rehearsal:
        """All that was lived, as a rehearsal; its policies and entries are those of a leg, the present one if left out."""
        told = leg or self.leg
        state = self.state if told.views is None else self.state._replace(views=told.views)
        return self._as_rehearsal(told, Result(told.setup, state), [life.result for life in self.company.lives])

    def frozen_record(self, leg: Leg) -> Rehearsal:
        """The same, to be read while it lives on: only what is entered already is in it."""
        record = self.record(leg)
        state = record.result.state
        return replace(record, result=Result(record.result.setup, state._replace(now=state.now.copy())))

    def _as_rehearsal(self, leg: Leg, result: Result, results: list[Result]) -> Rehearsal:
        aboard = self.company.aboard(results)
        return Rehearsal(leg.plan, self.group, self.seed, leg.crew, self.clock, result, self.rehearser.find_bounds, aboard)

    def _under(self, dice: int) -> Setup:
        """The present leg's setup under other draws."""
        if self._other_dice is None or self._other_dice[0] is not self.leg:
            self._other_dice = self.leg, self._thrown(1)
        # What the tapes ask for again and again is kept; the others would take more room than they are worth.
        return self._other_dice[1] if dice == 1 else self._thrown(dice)

    def _thrown(self, dice: int) -> Setup:
        setup = self.rehearser.setup_of(self.leg.plan, self.group, self.seed + dice, self.leg.crew.versions)
        same = self.leg.setup
        # Nobody decides about single instances
        kept = self.single is not None
        return setup._replace(line=same.line, rules=same.rules, orders=same.orders, quota=same.quota).changed(kept=kept)

    def spend_ahead(self, edges: list[float], dice: int) -> list[float]:
        """What is likely to be spent between each of the edges (s from the beginning, from now on) and the next, under other
        draws; as the engine reckons it while it plays. For a guest its host spends."""
        company, setup = self.company, self.leg.setup
        untils = [min(setup.ticks, round(edge / setup.tick)) for edge in edges]

        def made() -> list[list[float]]:
            setups = [life._under(dice) for life in company.lives]
            played = company.on_from_here(setups, untils)
            return [[float(one.state.now["spend"][0]) for one in results] for results in played]

        spent = [row[company.lives.index(self)] for row in company.once(f"spent under {dice}", untils, made)]
        return [after - before for before, after in pairwise(spent)]

    def likely(self, ahead: float) -> Rehearsal:
        """What is likely from now on for so many seconds: the record so far, played on under other draws with the engine deciding
        as the arrangement says."""

        def made() -> list[Result]:
            return self._played_on([life._under(1) for life in self.company.lives], ahead)

        # What is likely of a host is so of all its guests.
        results: list[Result] = made() if self.company.whole is None else self.company.once("likely", ahead, made)
        return self._as_rehearsal(self.leg, self._own(results), results)

    def _own(self, results: list[Result]) -> Result:
        return results[self.company.lives.index(self)]

    def foretold(self, hand: PutToWork, ahead: float) -> Rehearsal:
        """The same as if an arrangement were put to work now; nothing is done. Raises PlanError where it does not fit."""
        twin = self.company.beside().lives[self.company.lives.index(self)]
        twin._put_to_work(hand)
        return twin.likely(ahead)

    def _played_on(self, setups: list[Setup], ahead: float) -> list[Result]:
        """The records so far of all who live together and so many seconds more under their setups; what was lived stays."""
        until = min(setups[0].ticks, round((self.time + ahead) / setups[0].tick))
        return next(self.company.on_from_here(setups, [until]))

    @cached_property
    def rehearsed(self) -> NDArray[np.float32]:
        """The capacity in each tick of the same span rehearsed beforehand, under the first arrangement and other dice."""
        rehearsal = self.rehearser.rehearse(self.first_plan, self.group, 1)
        return np.array(rehearsal.result.series["capacity"])

    def foreseen(self, ahead: float) -> float | None:
        """When its count changes next within so many seconds, on the stand-in, which knows its own dice."""
        setups = [life.leg.setup.changed(kept=False) for life in self.company.lives]
        rows = self._own(self._played_on(setups, ahead)).decisions
        later = rows[(rows["time"] > self.time + 1e-6) & (rows["decided"] != rows["desired"])]
        return float(later["time"][0]) if len(later) else None

    def ledger(self, since: float = 0.0, closed: bool = False) -> Ledger:
        """Its hours and amounts, as of now, from the hour on that begins at `since` (s from the beginning), without what begins
        right now where they are `closed`. All of it is made once."""
        kept = ("last hours" if since > 0 else "ledgers") + " closed" * closed
        books: list[Ledger] = self.company.once(kept, since, lambda: self.company.ledgers(since, closed))
        return books[self.company.lives.index(self)]

    def own_ledger(self, since: float, closed: bool) -> Ledger:
        """The same of what it is charged itself, each stretch of it at the prices of its arrangement."""
        ends = [*(leg.began for leg in self.legs[1:]), math.inf]
        stretches = [
            Stretch(Result(leg.setup, self.state), leg.crew, leg.began, end) for leg, end in zip(self.legs, ends, strict=True)
        ]
        late = self._lateness.by_hour(self.result, self.leg.crew.group.promises)
        return ledger_of(stretches, self.clock, since, late, closed)

    def spent(self) -> Decimal:
        """What it cost so far."""
        if self.company.whole is None and len({leg.crew.money for leg in self.legs}) == 1:
            return total(self.result, self.leg.crew)
        spent: list[Decimal] = self.company.once("spent", None, self.company.spent)
        return spent[self.company.lives.index(self)]

    def launch_of(self, version: int) -> Launch:
        """How an instance of a version of the template was made."""
        group = self.leg.crew.group.model_copy(update={"version": version})
        return crew_of(self.leg.plan.model_copy(update={"groups": {self.group: group}}), self.group).launch

    def leg_at(self, time: float) -> Leg:
        """The leg to which the last evaluation at or before a time belongs."""
        return next((leg for leg in reversed(self.legs) if leg.began <= time + 1e-6), self.legs[0])


def begun_together(plan: Plan, names: list[str], arrangements: dict[str, int], seed: int, rehearser: Rehearser) -> list[Life]:
    """A group by itself, or a host, which comes first, with its guests."""
    company = Company([rehearser.setup_of(plan, name, seed) for name in names])
    return [Life(plan, name, arrangements.get(name, 1), seed, rehearser, company) for name in names]


def _rollouts_of(leg: Leg) -> list[str]:
    """The rollouts of a leg by name, as its rules number them."""
    return [leg.crew.group.calendar[int(entry)].name for entry in leg.setup.rules.rollouts.view(np.ndarray)["entry"]]


def _types_of(crew: Crew) -> str:
    """Its machines, the first of which is the one that its template launches."""
    return listed(one.launch.machine for one in crew.types)
