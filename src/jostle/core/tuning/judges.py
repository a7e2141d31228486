"""Whoever judges sets of settings, several at once: threads here, or workers elsewhere."""

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from queue import Empty, SimpleQueue
from threading import Condition
from typing import NamedTuple, Protocol

from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import Judgement
from jostle.core.tuning.goal import Goal, Judged

THREADS = 2


class Task(NamedTuple):
    """One set to judge under some seeds, held against the best; see `Goal.judge`."""

    number: int
    values: dict[str, float]
    seeds: tuple[int, ...]
    best: tuple[float, ...] | None = None


class Judges(Protocol):
    """What comes of a set does not depend on who judges it."""

    def judge(self, goal: Goal, tasks: list[Task]) -> list[Judged]:
        """What comes of each, in the same order."""
        ...


class Shared:
    """A set whose weeks are played from the first on by one thread, and from the last back by those that have nothing else to do.
    Each is played once, whoever does; they are summed in their order."""

    def __init__(self, goal: Goal, task: Task) -> None:
        self.goal, self.task = goal, task
        self.plan: Plan | None = None
        self._first, self._last = 0, len(task.seeds)
        self._told: dict[int, list[Judgement] | Exception] = {}
        self._over, self._changed = False, Condition()

    def judged(self, rehearser: Rehearser) -> Judged:
        """The set judged, with what others did of it."""
        task = self.task
        try:
            return self.goal.judge(task.number, task.values, rehearser, task.seeds, task.best, self._weeks)
        finally:
            with self._changed:
                self._over = True
                self._changed.notify_all()

    def help(self, rehearser: Rehearser) -> None:
        """Play weeks from the last back, as long as there are some that nobody has begun."""
        with self._changed:
            self._changed.wait_for(lambda: self.plan is not None or self._over)
            plan = self.plan
        if plan is None:
            return
        weeks = self.goal.weeks(plan, rehearser, self.task.seeds[::-1])
        while (number := self._from_the_back()) is not None:
            told: list[Judgement] | Exception
            try:
                told = next(weeks)
            except Exception as error:
                told = error
            with self._changed:
                self._told[number] = told
                self._changed.notify_all()
            if isinstance(told, Exception):
                return

    def _weeks(self, plan: Plan, rehearser: Rehearser, seeds: Sequence[int]) -> Iterator[list[Judgement]]:
        with self._changed:
            self.plan = plan
            self._changed.notify_all()
        own = self.goal.weeks(plan, rehearser, seeds)
        for number in range(len(seeds)):
            yield self._played(number) if self._is_begun(number) else next(own)

    def _is_begun(self, number: int) -> bool:
        """Whether somebody else has begun a week; from now on nobody does."""
        with self._changed:
            self._first = number + 1
            return number >= self._last

    def _played(self, number: int) -> list[Judgement]:
        """A week that somebody else plays. Raises what was raised there."""
        with self._changed:
            self._changed.wait_for(lambda: number in self._told)
        told = self._told[number]
        if isinstance(told, Exception):
            raise told
        return told

    def _from_the_back(self) -> int | None:
        with self._changed:
            if self._over or self._last <= self._first:
                return None
            self._last -= 1
            return self._last


class Threads:
    """Threads of this process, a rehearser for each: the engine lets go of the lock."""

    def __init__(self, width: int = THREADS) -> None:
        self.width = width
        self._rehearsers = [Rehearser() for _ in range(width)]

    def judge(self, goal: Goal, tasks: list[Task]) -> list[Judged]:
        shared = [Shared(goal, task) for task in tasks]
        waiting, found = SimpleQueue[int](), dict[int, Judged]()
        for number in range(len(tasks)):
            waiting.put(number)

        def work(rehearser: Rehearser) -> None:
            with suppress(Empty):
                while True:
                    number = waiting.get_nowait()
                    found[number] = shared[number].judged(rehearser)
            for one in shared:
                one.help(rehearser)

        with ThreadPoolExecutor(self.width) as pool:
            list(pool.map(work, self._rehearsers))
        return [found[number] for number in range(len(tasks))]
