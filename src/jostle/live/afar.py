"""A group kept on a provider in another process: the keeper there and back over HTTP, instant by instant."""

import math
from collections import deque
from collections.abc import Callable
from copy import deepcopy
from datetime import datetime
from typing import Any, NamedTuple, TypeVar

import numpy as np

from jostle.core.decide.code import NOBODY, Cause, Step
from jostle.core.decide.memory import Memory, bytes_of, memory_of, new_memory
from jostle.core.decide.rules import Rules, dial_row, samples
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.journal.rollout_line import rollout_in, step_text
from jostle.core.plan.clock import Clock
from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.wall import say_second
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rehearsal import clock_of, crew_of
from jostle.core.rehearsal.verdict import Figures
from jostle.keeper.keeper import Keeper, Remark, change_text, told_in_units
from jostle.live.patience import Patience
from jostle.provider.client import HttpProvider, Ours
from jostle.provider.message import ClockNote, GroupNote, Noted
from jostle.provider.provider import Counts, Refused, Unusable

T = TypeVar("T")
# Lines of what was decided that are kept
MOST_LINES = 200
# s of ours between two looks at a clock: how long the next instant takes to come at its pace, within these
SHORTEST_LOOK, LONGEST_LOOK = 0.05, 1.0


class Answered(NamedTuple):
    """An instant (s from the beginning), and what was remembered before and after it, to be kept before it is answered: whoever
    comes after decides it anew from `before` where it was not answered, and goes on from `after` where it was."""

    time: float
    before: bytes
    after: bytes


class Stood(NamedTuple):
    """How a group stood at the instant that was answered last (s from the beginning)."""

    time: float
    counts: Counts
    decision: np.record
    views: np.ndarray


class BegunAnew(Exception):
    """The provider is not where it was: it has another first instant, or its clock went back. The message has both."""


class Afar:
    """Keeps one group of a plan at a provider: from what the provider has, or from what another keeper remembered when an instant
    was answered last. Killed between two answers it decides the same again, and orders it under the same keys."""

    def __init__(
        self,
        plan: Plan,
        group: str,
        provider: HttpProvider,
        remembered: Answered | None = None,
        patience: Patience | None = None,
        keep: Callable[[Answered], None] = lambda answered: None,
    ) -> None:
        """Where the provider cannot be reached it is asked again with `patience`, and nothing else is done. Raises Refused where
        it has no such group, PlanError."""
        self.group, self.provider, self.keep = group, provider, keep
        self.patience = patience or Patience(0.0)
        # Times are counted from the provider's first instant.
        plan = plan.model_copy(update={"start": datetime.fromtimestamp(provider.about.first, plan.zone)})
        self.crew: Crew = crew_of(plan, group)
        self.clock: Clock = clock_of(plan)
        if group not in provider.about.groups:
            raise Refused(f"{provider.url} has no group {group}; it has {', '.join(provider.about.groups)}")
        self.first = provider.about.first
        outside = [name for name, _ in self.crew.outside]
        _is_that_of_the_plan(provider.about.groups[group], self.crew, outside, f"{group} at {provider.url}")
        machines = [one.launch.machine for one in self.crew.types]
        provider.ours[group] = Ours(machines, self.crew.launch.zones, list(samples(outside)))
        setup = compile_setup(self.crew, self.clock, np.zeros(self.clock.ticks), quota=self.crew.machine.quota)
        # What the keeper says besides what it decides, and what it decided: time and text
        self.remarks: list[tuple[float, Remark, str]] = []
        self.lines: deque[tuple[float, str]] = deque(maxlen=MOST_LINES)
        self.stood: Stood | None = None
        # The last instant that was seen
        self.seen = 0.0
        begun = self._begun(setup.rules, remembered)
        self.keeper = Keeper(group, self.crew, self.clock, setup.rules, begun, provider, self)

    def _begun(self, rules: Rules, remembered: Answered | None) -> Memory:
        """What was remembered; without it the group's own count where its time begins, and later what is there, so that nobody
        leaves because a keeper came."""
        stands, counts = self.provider.clock(), told_in_units(self.provider, self.group, self.crew)
        now = self.seen = self._now(stands)
        if remembered is not None:
            unanswered = self.group in stands.due and counts.found == 0 and abs(now - remembered.time) < 1e-6
            kept = memory_of(remembered.before if unanswered else remembered.after, rules)
            if kept is not None:
                return kept
        first = self.crew.group.first_count if now <= self.every else counts.present - counts.beyond
        return new_memory(rules, first, self.crew.launch.version)

    @property
    def every(self) -> float:
        return self.crew.group.evaluate_every

    def enter(self, decision: Any, views: Any) -> int:
        """Take down a decision, at home and for the provider; see `keeper.Journal`."""
        told = _plain(decision)
        self.provider.decide(told, [_plain(view) for view in views], told["time"])
        self._decided = decision, views
        entry = rollout_in(self.crew.group, int(decision["rollout"]))
        if int(decision["step"]) != Step.NONE and entry is not None:
            self.lines.append((told["time"], step_text(entry, decision, self.crew.group.work.done)))
        changed = int(decision["decided"]) != int(decision["desired"]) and int(decision["cause"]) == Cause.POLICY
        return int(decision["winner"]) if changed else NOBODY

    def remark(self, time: float, kind: Remark, text: str) -> None:
        """Take down what the keeper says besides; see `keeper.Journal`."""
        self.remarks.append((time, kind, text))
        self.lines.append((time, text))

    def go_on(self, until: float) -> None:
        """Keep the group until an instant (s from the beginning), answering each evaluation in turn. Raises ConnectionError."""
        keep_together([self], until)

    def keep_on(self) -> None:
        """Keep the group as the provider's clock goes, until nobody waits any longer. Raises LetGo, BegunAnew."""
        while True:
            stands = self.stands()
            if self.group in stands.due:
                self.answer_all(stands, math.inf)
                continue
            self.rest(stands)

    def stands(self, until: float | None = None) -> ClockNote:
        """Where the provider's clock stands, after it was told to go to an instant where it can be. Raises BegunAnew."""
        stands = self._again(lambda: self.provider.clock(until=until))
        now = self._now(stands)
        if now < self.seen - 1e-6:
            self._same_as_before()
            raise BegunAnew(f"the clock of {self.provider.url} went back, from {self.said(self.seen)} to {self.said(now)}")
        self.seen = now
        return stands

    def rest(self, stands: ClockNote) -> None:
        """Wait until its clock, as it stands and goes, may have come to the next instant of evaluation, or a moment."""
        ahead = self.every - self._now(stands) % self.every
        look = ahead / stands.pace if stands.pace > 0 else math.inf
        self.patience.rest(min(LONGEST_LOOK, max(SHORTEST_LOOK, look)))

    def _now(self, stands: ClockNote) -> float:
        """Where the group's own time stands. Raises Unusable where the provider does not say."""
        if self.group not in stands.groups:
            raise Unusable(f"the clock of {self.provider.url} says no time of {self.group}")
        return stands.groups[self.group]

    def said(self, time: float) -> str:
        """A time of the group on the wall clock of the plan."""
        return say_second(self.clock.at(self.clock.first + time))

    def _again(self, act: Callable[[], T], undo: Callable[[], None] = lambda: None) -> T:
        """Do something until it can be done; where that was not at once, whoever answers then may be another. Raises
        BegunAnew."""
        before = self.patience.times
        done = self.patience.again(act, undo)
        if self.patience.times != before:
            self._same_as_before()
        return done

    def _same_as_before(self) -> None:
        about = self.patience.again(self.provider.describe)
        if about.first != self.first:
            was, now = (datetime.fromtimestamp(first, self.clock.zone) for first in (self.first, about.first))
            raise BegunAnew(f"{self.provider.url} has begun anew: its first instant was {was:%c}, and is {now:%c}")

    def answer_all(self, stands: ClockNote, until: float) -> None:
        """Answer each instant until one as long as the clock waits for this group."""
        now, due = self._now(stands), self.group in stands.due
        while due and now <= until + 1e-6:
            noted = self._answer(now)
            now, due = noted.time, noted.due
            self.seen = max(self.seen, now)

    def _answer(self, time: float) -> Noted:
        """Answer an instant, again from where that began as long as the provider is away: orders have keys, and nothing is
        remembered of what was decided and not answered."""
        before, lost = deepcopy(self.keeper.memory), False

        def forget() -> None:
            nonlocal lost
            lost = True
            for kept, was in zip(self.keeper.memory, before, strict=True):
                kept[...] = was

        def instant() -> Noted:
            # A clock that does not wait has gone on meanwhile: it is decided for now, not for then.
            return self._instant(max(time, self._now(self.provider.clock())) if lost else time)

        return self._again(instant, forget)

    def _instant(self, time: float) -> Noted:
        """All that is done at an instant at which the clock waits."""
        counts = self.provider.counts(self.group)
        mends = counts.found > 0
        if mends:
            self.keeper.mend(time)
            seen = "is seen to" if counts.found == 1 else "are seen to"
            self.lines.append((time, f"{say_count(counts.found, 'instance')} found broken {seen}"))
            return self.provider.answer(self.group, time, self.keeper.read, mends)
        before = bytes_of(self.keeper.memory)
        self.keeper.evaluate(time)
        self.keep(Answered(time, before, bytes_of(self.keeper.memory)))
        noted = self.provider.answer(self.group, time, self.keeper.read, mends)
        self.stood = Stood(time, counts, *self._decided)
        if said := change_text(self.crew.group, self.stood.decision):
            self.lines.append((time, said))
        return noted

    def figures(self) -> Figures | None:
        """What it came to, as the provider's record has it; None where it keeps none."""
        return Figures.model_validate(self.provider.figures(self.group)) if self.provider.can("figures") else None


def keep_together(keepers: list[Afar], until: float) -> None:
    """Keep several groups at one provider until an instant (s from the beginning), each as its turn comes: a host and its guests
    wait for each other. A clock that cannot be told is waited for. Raises ConnectionError, BegunAnew."""
    first = keepers[0]
    told = first.provider.can("clock")
    stands = first.stands(until)
    while True:
        due = [one for one in keepers if one.group in stands.due and stands.groups[one.group] <= until + 1e-6]
        for one in due:
            one.answer_all(stands, until)
        if not due:
            if told or all(stands.groups[one.group] >= until - 1e-6 for one in keepers):
                return
            first.rest(stands)
        stands = first.stands()


def _is_that_of_the_plan(note: GroupNote, crew: Crew, outside: list[str], where: str) -> None:
    """Raises Refused where a group at a provider is another than the plan's, or does not measure what it is to be kept by."""
    group, measured = crew.group, {one.name: one for one in note.metrics}
    both = [
        ("zones", sorted(note.zones), sorted(crew.launch.zones)),
        ("evaluations, every", say_duration(note.evaluate_every), say_duration(group.evaluate_every)),
        ("readings, every", say_duration(note.period), say_duration(group.meters.period)),
        ("counts", note.weights or "instances", crew.weights or "instances"),
    ]
    if unlike := [f"its {what} {there}, the plan's {ours}" for what, there, ours in both if there != ours]:
        raise Refused(f"{where} is not that of the plan: {'; '.join(unlike)}")
    units = samples(outside)
    for policy in group.policies:
        name = list(units)[dial_row(policy, outside)]
        if (one := measured.get(name)) is None:
            raise Refused(
                f"{where} does not measure {name}, by which {policy.name} goes; it measures {', '.join(measured) or 'nothing'}"
            )
        if one.kind == "counter" or one.unit not in (None, units[name]):
            said = "counted up" if one.kind == "counter" else f"a {one.unit}"
            raise Refused(f"{where} tells {name} as {said}; {policy.name} goes by a {units[name]}")


def _plain(row: Any) -> dict[str, Any]:
    """A row by field, with null for not a number."""
    found = {name: row[name].item() for name in row.dtype.names}
    return {name: None if isinstance(value, float) and not math.isfinite(value) else value for name, value in found.items()}
