"""Sets judged by the workers of a Dask cluster. A worker that is lost is made up for by another: what comes of a set follows from
the plan, its settings and the seeds alone."""

import threading
from contextlib import suppress

from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.tuning.goal import Goal, Judged
from jostle.core.tuning.judges import Task

# s in which a scheduler has to answer, and times that a set is given to another worker
PATIENCE, RETRIES = 5, 5
_own = threading.local()


class NoCluster(RuntimeError):
    """There is no cluster to work with; the message says why."""


class Workers:
    """The workers of a scheduler at an address such as tcp://10.0.0.5:8786."""

    def __init__(self, address: str) -> None:
        try:
            from dask.distributed import Client
        except ImportError:
            raise NoCluster("dask is not installed; install jostle[cluster]") from None
        try:
            self._client = Client(address, timeout=PATIENCE, set_as_default=False)
        except (OSError, TimeoutError, ValueError) as error:
            raise NoCluster(f"no scheduler answers at {address}: {error}") from None
        if not self._client.nthreads():
            self.close()
            raise NoCluster(f"the scheduler at {address} has no workers; start one with: dask worker {address}")

    def judge(self, goal: Goal, tasks: list[Task]) -> list[Judged]:
        futures = [self._client.submit(judged, goal, task, retries=RETRIES, pure=False) for task in tasks]
        found: list[Judged] = self._client.gather(futures)
        return found

    def close(self) -> None:
        with suppress(OSError, TimeoutError):
            self._client.close()


def judged(goal: Goal, task: Task) -> Judged:
    """What a worker does, with a rehearser of its own for each of its threads."""
    if not hasattr(_own, "rehearser"):
        _own.rehearser = Rehearser()
    number, values, seeds, best = task
    return goal.judge(number, values, _own.rehearser, seeds, best)
