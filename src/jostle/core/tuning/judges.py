"""Whoever judges sets of settings, several at once: threads here, or workers elsewhere."""

from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple, Protocol

from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.tuning.goal import Goal, Judged

THREADS = 2


class Task(NamedTuple):
    """One set to judge under some seeds; see `Goal.judge`."""

    number: int
    values: dict[str, float]
    seeds: tuple[int, ...]
    best: float


class Judges(Protocol):
    """What comes of a set does not depend on who judges it."""

    def judge(self, goal: Goal, tasks: list[Task]) -> list[Judged]:
        """What comes of each, in the same order."""
        ...


class Threads:
    """Threads of this process, a rehearser for each: the engine lets go of the lock."""

    def __init__(self, width: int = THREADS) -> None:
        self.width = width
        self._rehearsers = [Rehearser() for _ in range(width)]

    def judge(self, goal: Goal, tasks: list[Task]) -> list[Judged]:
        def look(task: Task, rehearser: Rehearser) -> Judged:
            return goal.judge(task.number, task.values, rehearser, task.seeds, task.best)

        found: list[Judged] = []
        with ThreadPoolExecutor(self.width) as pool:
            for first in range(0, len(tasks), self.width):
                some = tasks[first : first + self.width]
                found += pool.map(look, some, self._rehearsers)
        return found
