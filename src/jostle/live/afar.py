"""A group kept on a provider in another process: the keeper there and back over HTTP, instant by instant."""

import math
from collections import deque
from collections.abc import Callable
from copy import deepcopy
from datetime import datetime
from typing import Any, NamedTuple

import numpy as np

from jostle.core.decide.code import NOBODY, Cause, Step
from jostle.core.decide.memory import Memory, bytes_of, memory_of, new_memory
from jostle.core.decide.rules import Rules
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.journal.rollout_line import rollout_in, step_text
from jostle.core.plan.clock import Clock
from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearsal import clock_of, crew_of
from jostle.core.rehearsal.verdict import Figures
from jostle.keeper.keeper import Keeper, Remark, change_text, told_in_units
from jostle.live.patience import Patience
from jostle.provider.client import HttpProvider
from jostle.provider.message import ClockNote, Noted
from jostle.provider.provider import Counts, Refused

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
        note = provider.about.groups[group]
        if note.zones != self.crew.launch.zones or note.evaluate_every != self.crew.group.evaluate_every:
            raise Refused(f"{group} at {provider.url} is not that of the plan: other zones, or asked at other times")
        if note.weights != self.crew.weights:
            raise Refused(
                f"{group} at {provider.url} counts {note.weights or 'instances'}, and the plan {self.crew.weights or 'instances'}"
            )
        provider.machines[group] = [one.launch.machine for one in self.crew.types]
        setup = compile_setup(self.crew, self.clock, np.zeros(self.clock.ticks), quota=self.crew.machine.quota)
        # What the keeper says besides what it decides, and what it decided: time and text
        self.remarks: list[tuple[float, Remark, str]] = []
        self.lines: deque[tuple[float, str]] = deque(maxlen=MOST_LINES)
        self.stood: Stood | None = None
        begun = self._begun(setup.rules, remembered)
        self.keeper = Keeper(group, self.crew, self.clock, setup.rules, begun, provider, self)

    def _begun(self, rules: Rules, remembered: Answered | None) -> Memory:
        """What was remembered; without it the group's own count where its time begins, and later what is there, so that nobody
        leaves because a keeper came."""
        stands, counts = self.provider.clock(), told_in_units(self.provider, self.group, self.crew)
        now = stands.groups.get(self.group, 0.0)
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
        self.answer_all(self.patience.again(lambda: self.provider.clock(until=until)), until)

    def keep_on(self) -> None:
        """Keep the group as the provider's clock goes, until nobody waits any longer. Raises LetGo, Refused, Unusable."""
        while True:
            stands = self.patience.again(self.provider.clock)
            if self.group in stands.due:
                self.answer_all(stands, math.inf)
                continue
            ahead = self.every - stands.groups[self.group] % self.every
            look = ahead / stands.pace if stands.pace > 0 else math.inf
            self.patience.rest(min(LONGEST_LOOK, max(SHORTEST_LOOK, look)))

    def answer_all(self, stands: ClockNote, until: float) -> None:
        """Answer each instant until one as long as the clock waits for this group."""
        now, due = stands.groups[self.group], self.group in stands.due
        while due and now <= until + 1e-6:
            noted = self._answer(now)
            now, due = noted.time, noted.due

    def _answer(self, time: float) -> Noted:
        """Answer an instant, again from where that began as long as the provider is away: orders have keys, and nothing is
        remembered of what was decided and not answered."""
        before = deepcopy(self.keeper.memory)

        def forget() -> None:
            for kept, was in zip(self.keeper.memory, before, strict=True):
                kept[...] = was

        return self.patience.again(lambda: self._instant(time), forget)

    def _instant(self, time: float) -> Noted:
        """All that is done at an instant at which the clock waits."""
        counts = self.provider.counts(self.group)
        mends = counts.found > 0
        if mends:
            self.keeper.mend(time)
            return self.provider.answer(self.group, time, self.keeper.read, mends)
        before = bytes_of(self.keeper.memory)
        self.keeper.evaluate(time)
        self.keep(Answered(time, before, bytes_of(self.keeper.memory)))
        noted = self.provider.answer(self.group, time, self.keeper.read, mends)
        self.stood = Stood(time, counts, *self._decided)
        if said := change_text(self.crew.group, self.stood.decision):
            self.lines.append((time, said))
        return noted

    def figures(self) -> Figures:
        """What it came to, as the provider's record has it."""
        return Figures.model_validate(self.provider.figures(self.group))


def keep_together(keepers: list[Afar], until: float) -> None:
    """Keep several groups at one provider until an instant (s from the beginning), each as its turn comes: a host and its guests
    wait for each other. Raises ConnectionError."""
    first = keepers[0]
    stands = first.patience.again(lambda: first.provider.clock(until=until))
    while due := [one for one in keepers if one.group in stands.due and stands.groups[one.group] <= until + 1e-6]:
        for one in due:
            one.answer_all(stands, until)
        stands = first.patience.again(first.provider.clock)


def _plain(row: Any) -> dict[str, Any]:
    """A row by field, with null for not a number."""
    found = {name: row[name].item() for name in row.dtype.names}
    return {name: None if isinstance(value, float) and not math.isfinite(value) else value for name, value in found.items()}
