"""A group kept on a provider in another process: the keeper there and back over HTTP, instant by instant."""

import math
import time
from collections.abc import Callable
from copy import deepcopy
from typing import Any, TypeVar

import numpy as np

from jostle.core.decide.code import NOBODY, Cause
from jostle.core.decide.memory import Memory, new_memory
from jostle.core.engine.compile import Crew, compile_setup
from jostle.core.plan.clock import Clock
from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearsal import clock_of, crew_of
from jostle.core.rehearsal.verdict import Figures
from jostle.keeper.keeper import Keeper, Remark
from jostle.provider.client import HttpProvider
from jostle.provider.message import Noted
from jostle.provider.provider import Refused

T = TypeVar("T")
# s between two times that a provider is asked that is away
FIRST_PAUSE, LONGEST_PAUSE = 0.25, 10.0


class Afar:
    """Keeps one group of a plan at a provider: from the provider's first instant, or from what another keeper remembered when an
    instant was answered last. Killed between two answers it decides the same again, and orders it under the same keys."""

    def __init__(
        self,
        plan: Plan,
        group: str,
        provider: HttpProvider,
        memory: Memory | None = None,
        patience: float = 0.0,
        lost: Callable[[str], None] = lambda said: None,
    ) -> None:
        """Where the provider cannot be reached it is asked again for `patience` (s), and nothing else is done; `lost` is told
        when that begins."""
        self.group, self.provider, self.patience, self.lost = group, provider, patience, lost
        self.crew: Crew = crew_of(plan, group)
        self.clock: Clock = clock_of(plan)
        if group not in provider.about.groups:
            raise Refused(f"{provider.url} has no group {group}; it has {', '.join(provider.about.groups)}")
        note = provider.about.groups[group]
        if note.zones != self.crew.launch.zones or note.evaluate_every != self.crew.group.evaluate_every:
            raise Refused(f"{group} at {provider.url} is not that of the plan: other zones, or asked at other times")
        setup = compile_setup(self.crew, self.clock, np.zeros(self.clock.ticks), quota=self.crew.machine.quota)
        begun = memory or new_memory(setup.rules, self.crew.group.first_count)
        # What the keeper says besides what it decides: time, kind and text
        self.remarks: list[tuple[float, Remark, str]] = []
        self.keeper = Keeper(group, self.crew, self.clock, setup.rules, begun, provider, self)

    @property
    def every(self) -> float:
        return self.crew.group.evaluate_every

    def enter(self, decision: Any, views: Any) -> int:
        """Take down a decision, at home and for the provider; see `keeper.Journal`."""
        told = _plain(decision)
        self.provider.decide(told, [_plain(view) for view in views], told["time"])
        changed = int(decision["decided"]) != int(decision["desired"]) and int(decision["cause"]) == Cause.POLICY
        return int(decision["winner"]) if changed else NOBODY

    def remark(self, time: float, kind: Remark, text: str) -> None:
        """Take down what the keeper says besides; see `keeper.Journal`."""
        self.remarks.append((time, kind, text))

    @property
    def memory(self) -> Memory:
        """What it remembers, to be kept once an instant has been answered."""
        return deepcopy(self.keeper.memory)

    def go_on(self, until: float) -> None:
        """Keep the group until an instant (s from the beginning), answering each evaluation in turn. Raises ConnectionError."""
        stands = self._again(lambda: self.provider.clock(until=until))
        now, due = stands.groups[self.group], self.group in stands.due
        while due and now <= until + 1e-6:
            noted = self._again(lambda at=now: self._instant(at))  # type: ignore[misc]
            now, due = noted.time, noted.due

    def _instant(self, time: float) -> Noted:
        """All that is done at an instant at which the clock waits."""
        mends = self.provider.counts(self.group).found > 0
        if mends:
            self.keeper.mend(time)
        else:
            self.keeper.evaluate(time)
        return self.provider.answer(self.group, time, self.keeper.read, mends)

    def _again(self, act: Callable[[], T]) -> T:
        """Do something, again from where it began as long as the provider is away: orders have keys, and nothing is remembered of
        what was decided and not answered."""
        since, pause = None, FIRST_PAUSE
        while True:
            before = self.memory
            try:
                return act()
            except ConnectionError as error:
                now = time.monotonic()
                if since is None:
                    since = now
                    self.lost(str(error))
                if now - since >= self.patience:
                    raise
                for kept, was in zip(self.keeper.memory, before, strict=True):
                    kept[...] = was
            time.sleep(pause)
            pause = min(LONGEST_PAUSE, 2 * pause)

    def figures(self) -> Figures:
        """What it came to, as the provider's record has it."""
        return Figures.model_validate(self.provider.figures(self.group))


def _plain(row: Any) -> dict[str, Any]:
    """A row by field, with null for not a number."""
    found = {name: row[name].item() for name in row.dtype.names}
    return {name: None if isinstance(value, float) and not math.isfinite(value) else value for name, value in found.items()}
