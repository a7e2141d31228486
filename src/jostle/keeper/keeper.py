"""One group kept: it reads the meters, decides as a rehearsal does, and orders what follows from that."""

import math
from copy import deepcopy
from typing import Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.play import (
    ask_now,
    coming_version,
    decide,
    is_kept,
    next_to_leave,
    restarts,
    set_by_hand,
    turnover,
    version_before,
    why_it,
)
from jostle.core.calendar.orders import Gate, orders
from jostle.core.decide.code import DIALS, NOBODY, Cause, Reason, Standing, Step
from jostle.core.decide.leaving import CANDIDATE
from jostle.core.decide.memory import Memory
from jostle.core.decide.row import DECISION, FLEET, SIDE_FIELDS, VIEW, no_orders, order_rows
from jostle.core.decide.rules import Rules, rows
from jostle.core.decide.sight import Sight
from jostle.core.engine.compile import Crew
from jostle.core.engine.state import UNLIMITED, ZONE
from jostle.core.plan.clock import Clock
from jostle.core.plan.group import Group
from jostle.provider.provider import Counts, Instance, Leaves, Provider

_STANDING = {
    "asked": Standing.ASKED,
    "booting": Standing.COMING,
    "warming": Standing.COMING,
    "serving": Standing.SERVING,
    "broken": Standing.BROKEN,
}


# Evaluations for which the calendar is asked at once
AHEAD = 120


Remark = Literal["would", "differs"]


class Journal(Protocol):
    """Where decisions are entered."""

    def enter(self, decision: Any, views: Any) -> int:
        """Enter a decision row with the views of its policies; returns the policy that changed the count, -1 for none."""
        ...

    def remark(self, time: float, kind: Remark, text: str) -> None:
        """Enter what a dry run would do, or that instances are gone, or there, of which nothing here knew why."""
        ...


class Keeper:
    """Keeps one group. Times are seconds on the group's clock."""

    def __init__(
        self, group: str, crew: Crew, clock: Clock, rules: Rules, memory: Memory, provider: Provider, journal: Journal
    ) -> None:
        self.group, self.crew, self.clock, self.rules, self.memory = group, crew, clock, rules, memory
        self.provider, self.journal = provider, journal
        one = rules.row[0]
        longest = max((int(policy.window) for policy in rules.policies), default=1)
        ring = longest + math.ceil(float(one.meter_delay + one.evaluate_every) / float(one.period)) + 1
        zoned = 1 + len(crew.launch.zones) if any(int(policy.zone) for policy in rules.policies) else 1
        shape = (zoned, DIALS + len(crew.outside), ring)
        self.sight = Sight(np.full(shape, np.nan, np.float32), np.zeros(ring, np.float32))
        self.read = 0
        # No automatic change at all
        self.held = False
        # Says what it would do, and orders nothing
        self.dry = False
        self._last_said = ""
        # Instances that are there as far as is known, and whether the market may take each back; None before it was looked
        self._known: dict[int, bool] | None = None
        self._beyond = 0
        self._ahead: NDArray[np.float64] = np.zeros(0)
        self._told = no_orders(0)

    @property
    def wanted(self) -> int:
        return int(self.memory.row.view(np.ndarray)["desired"][0])

    @property
    def _notice(self) -> str:
        """What people with instances that leave are told."""
        return self.crew.group.notice.text if self.crew.group.notice else ""

    def listen(self, time: float) -> None:
        """Take in the samples that have come since. Those that are due and have not come are not there; silence is not zero."""
        ring = len(self.sight.metered)
        due = int(time / float(self.rules.row[0].period) + 1e-9)
        told = self.provider.readings(self.group, max(self.read, due - ring))
        known = told.first + len(told.metered)
        for number in range(max(self.read, due - ring), due):
            place = number % ring
            self.sight.samples[:, :, place], self.sight.metered[place] = np.nan, 0.0
            if told.first <= number < known:
                values = told.values[:, :, number - told.first]
                self.sight.samples[: len(values), :, place] = values[: len(self.sight.samples)]
                self.sight.metered[place] = told.metered[number - told.first]
        self.read = due

    def evaluate(self, time: float) -> None:
        """One evaluation: what is decided, entered, and ordered. Raises ConnectionError where the provider cannot be reached;
        with what was remembered before it can then be done again."""
        self.listen(time)
        counts = told_in_units(self.provider, self.group, self.crew)
        self._compare(time, counts)
        if self.dry:
            self._say(time, counts)
        decision, views = self._decide(time, counts, self.memory, self.held or self.dry)
        by = self.journal.enter(decision, views)
        if not self.dry:
            self._order(f"{time:g}", counts, by)

    def _decide(self, time: float, counts: Counts, memory: Memory, frozen: bool) -> tuple[np.record, np.ndarray]:
        """What is decided on a memory, which takes it in, and what the policies saw."""
        fleet, decision = rows(1, FLEET), rows(1, DECISION)
        views = rows((1, len(self.rules.policies)), VIEW)
        there = fleet[0]
        there.present, there.serving, there.pinned, there.quota = counts.present, counts.serving, counts.pinned, counts.quota
        there.waiting = counts.waiting * self.crew.weight_of(0)
        self._tell_apart(there, counts, int(coming_version(self.rules, memory, time)))
        order = self._orders(time)
        if frozen:
            order.gates, order.gates_by = Gate.FREEZE, NOBODY
        decide(self.rules, memory, self.sight, order, fleet, time, decision, views, 0)
        return decision[0], views[0]

    def _tell_apart(self, there: Any, counts: Counts, coming: int) -> None:
        """Write down what is there of the version that is being brought in, and what it and the others came to."""
        for one in counts.versions:
            side = "own" if one.version == coming else "others"
            for field in SIDE_FIELDS:
                there[f"{side}_{field}"] += getattr(one, field)
        if coming != NOBODY:
            there.fresh, there.fresh_serving = self._of(counts, coming)

    def _of(self, counts: Counts, version: int) -> tuple[int, int]:
        """How many instances of a version are present, and how many of them serve; counted one by one where that is not told."""
        for told in counts.versions:
            if told.version == version:
                return told.present, told.serving
        states = [one.state for one in self.provider.instances(self.group) if one.version == version]
        return sum(state in _STANDING for state in states), states.count("serving")

    def _say(self, time: float, counts: Counts) -> None:
        """Say what would be done now, once for as long as it stays the same."""
        decision, _ = self._decide(time, counts, deepcopy(self.memory), False)
        after = int(decision["decided"])
        goal = after + counts.beyond
        rolls = int(decision["step"]) != Step.NONE
        if change := change_text(self.crew.group, decision):
            said = f"would go {change}"
        elif counts.present != goal:
            said = f"would {'launch' if counts.present < goal else 'send away'} {abs(goal - counts.present)} to have {after}"
        else:
            said = ""
        if rolls and not said:
            said = f"would go on with {self.crew.group.calendar[int(decision['rollout'])].name}"
        if said and said != self._last_said:
            self.journal.remark(time, "would", said)
        self._last_said = said

    def _present(self) -> list[Instance]:
        return [one for one in self.provider.instances(self.group) if one.state in _STANDING]

    def look(self) -> dict[int, bool]:
        """Take the instances that are there as they are. Returns their numbers, and whether the market may take each back."""
        self._known = {one.number: one.spot for one in self._present()}
        return self._known

    def _compare(self, time: float, counts: Counts) -> None:
        """Where other instances are there than were left, say which, and go on from what the provider says. What the market takes
        back, and a start that drops what it launched beyond need, are told by themselves."""
        before, as_before = self._known, counts.beyond == self._beyond
        self._beyond = counts.beyond
        if before is not None and not self.crew.weights and counts.present == len(before):
            return
        there = self.look()
        if before is None or not as_before:
            return
        if gone := [number for number, spot in before.items() if number not in there and not spot]:
            said = f"{_named(gone)} no longer there, and nothing here ordered that; another comes where one is wanted"
            self.journal.remark(time, "differs", said)
        if strange := [number for number in there if number not in before]:
            said = f"{_named(strange)} there, and nothing here ordered that; it counts from now on"
            self.journal.remark(time, "differs", said)

    def _orders(self, time: float) -> np.recarray:
        ahead = np.flatnonzero(np.abs(self._ahead - time) < 1e-6)
        if not len(ahead):
            self._ahead = np.asarray(time + float(self.rules.row[0].evaluate_every) * np.arange(AHEAD), dtype=np.float64)
            calendar = self.crew.group.calendar
            self._told = order_rows(orders(calendar, self.clock.first, self.clock.zone, self._ahead, self.crew.lead))
            ahead = np.zeros(1, np.int64)
        return self._told[ahead[0] : ahead[0] + 1].copy().view(np.recarray)

    def reconcile(self, key: str, by: int = NOBODY) -> None:
        """Order what is missing, or have leave what is too many. The key names the occasion, so that nothing is ordered twice."""
        self._order(key, told_in_units(self.provider, self.group, self.crew), by)

    def _order(self, key: str, counts: Counts, by: int) -> None:
        goal = self.wanted + counts.beyond
        if self.memory.row.view(np.ndarray)["rollout"][0] != NOBODY:
            self._roll_over(key, counts, goal, by)
            return
        if counts.present == goal and counts.waiting == 0:
            return
        if counts.present < goal or counts.waiting > 0:
            version = int(self.memory.row.view(np.ndarray)["version"][0])
            self.provider.more(self.group, f"{key} more", max(0, goal - counts.present), by, version)
        if counts.present > goal:
            self.provider.fewer(self.group, f"{key} fewer", self._leaving(counts.present - goal), by, self._notice)
        self.look()

    def _roll_over(self, key: str, counts: Counts, goal: int, by: int) -> None:
        """The same where one version takes the place of another."""
        rules, memory = self.rules, self.memory
        coming = int(rules.rollouts.view(np.ndarray)["to"][int(memory.row.view(np.ndarray)["rollout"][0])])
        fresh, _ = self._of(counts, coming)
        more, before, leave, leave_before = turnover(rules, memory, goal, counts.present, fresh, counts.serving, counts.quota)
        for number, version in ((more, coming), (before, int(version_before(memory)))):
            if number > 0 or counts.waiting > 0:
                self.provider.more(self.group, f"{key} more {version}", number, by, version)
        for number, is_fresh in ((leave, True), (leave_before, False)):
            if number > 0:
                leaving = self._leaving(number, (coming, is_fresh))
                self.provider.fewer(self.group, f"{key} fewer {is_fresh}", leaving, by, self._notice)
        self.look()

    def mend(self, time: float) -> None:
        """See to the instances whose faults were found."""
        for one in self.provider.instances(self.group):
            if one.found:
                again = bool(restarts(self.rules, one.restarts, one.stranded))
                if self.dry:
                    self.journal.remark(time, "would", f"would {'restart' if again else 'replace'} instance {one.number + 1}")
                else:
                    self.provider.mend(self.group, f"{time:g} mend {one.number} {one.restarts}", one.number, again)
        self.look()

    def _leaving(self, number: int, side: tuple[int, bool] | None = None) -> list[Leaves]:
        """Who leaves, as long as the next in turn is worth no more than so much, and whether to be stopped and kept; where `side`
        says a version and whether those of it are meant or the others, of those alone."""
        asleep = bool(self.memory.row[0].asleep)
        present = self._present()
        there = [one for one in present if asleep or not one.pinned]
        if side is not None:
            there = [one for one in present if (one.version == side[0]) == side[1]]
        crowds = rows(len(self.crew.launch.zones), ZONE)["present"]
        for one in present:
            crowds[one.zone] += one.state != "asked"
        candidates = rows(len(there), CANDIDATE)
        for row, one in zip(candidates, there, strict=True):
            row.number, row.zone, row.version = one.number, one.zone, one.version
            row.overflow, row.paid_left = one.overflow, one.paid_left
            row.sessions = one.copies if self.crew.group.hosts else one.sessions
            row.standing, row.spot, row.price = _STANDING[one.state], one.spot, one.price
            row.weight = self.crew.weight_of(one.machine)
        chosen: list[Leaves] = []
        while number > 0:
            c = next_to_leave(self.rules, candidates, len(there), crowds)
            if c == NOBODY or candidates[c].weight > number:
                break
            why = int(why_it(self.rules, candidates, len(there), crowds, c)) if side is None else int(Reason.ROLLOUT)
            row, one = candidates[c], there[c]
            number -= int(row.weight)
            if row.standing != Standing.ASKED:
                crowds[one.zone] -= 1
            row.standing = Standing.LEFT
            chosen.append(
                Leaves(one.number, bool(is_kept(asleep, self.crew.group.owned is not None, one.overflow)) and not one.spot, why)
            )
        return chosen

    def wish(self, time: float, number: int) -> int | None:
        """The count that a policy would have now, a trigger as if its level were passed; None where it has no reading."""
        self.listen(time)
        found = int(ask_now(self.rules, self.memory, self.sight, number, time, self.wanted))
        return None if found == NOBODY else found

    def end(self, key: str) -> None:
        """Have none, and all that are there leave, pinned ones too."""
        self.memory.row["desired"] = 0
        leaving = [Leaves(one.number, False, Reason.HAND) for one in self._present()]
        self.provider.fewer(self.group, f"{key} end", leaving, NOBODY, self._notice)

    def set_count(self, time: float, hand: int, count: int) -> tuple[int, int]:
        """Hand number `hand` sets the count, within the limits. Returns what it was and what it became."""
        before = self.wanted
        after = set_by_hand(self.rules, self.memory, count)
        self.reconcile(f"{time:g} hand {hand}")
        return before, after


def told_in_units(provider: Provider, group: str, crew: Crew) -> Counts:
    """What a provider counts, in what the group counts in, with the quotas of all its machines."""
    counts, weight = provider.counts(group), crew.weight_of
    quota = counts.quota * weight(0)
    for number, one in enumerate(crew.types[1:], 1):
        quota += (UNLIMITED if one.machine.quota is None else one.machine.quota) * weight(number)
    if crew.weights:
        there = [one for one in provider.instances(group) if one.state in _STANDING]
        counts = counts._replace(
            present=sum(weight(one.machine) for one in there),
            serving=sum(weight(one.machine) for one in there if one.state == "serving"),
            pinned=sum(weight(one.machine) for one in there if one.pinned),
        )
    return counts._replace(quota=min(UNLIMITED, quota))


def change_text(group: Group, decision: np.record) -> str:
    """From which count to which, and who decided; empty where it stays."""
    before, after, cause = int(decision["desired"]), int(decision["decided"]), int(decision["cause"])
    if before == after:
        return ""
    by = ""
    if cause == Cause.POLICY:
        by = group.policies[int(decision["winner"])].name
    elif int(decision["entry"]) != NOBODY:
        by = group.calendar[int(decision["entry"])].name
    return f"from {before} to {after}" + (f": {by}" if by else "")


def _named(numbers: list[int]) -> str:
    told = ", ".join(str(number + 1) for number in numbers[:5])
    more = f" and {len(numbers) - 5} more" if len(numbers) > 5 else ""
    return f"instance {told} is" if len(numbers) == 1 else f"instances {told}{more} are"
