"""What keeps a thread for long has its turn, so many at once, apart from the threads of what is answered at once."""

import os
from collections.abc import Callable
from functools import partial, wraps
from typing import Any, TypeVar

import anyio
import anyio.to_thread
from anyio.lowlevel import RunVar
from fastapi.routing import APIRoute

T = TypeVar("T")
# The engine runs beside Python, but more threads than these only wait for each other; and how many may wait for their turn
AT_ONCE, MOST_WAITING = (os.cpu_count() or 1) + 1, 200


class Busy(RuntimeError):
    """As many are under way or wait already as there is room for."""


class Turns:
    """Threads for `at_once` acts, and room for so many more to wait for one; `full` says what there is no more room for."""

    def __init__(self, at_once: int, waiting: int, full: str) -> None:
        self._threads, self._most = anyio.CapacityLimiter(at_once), at_once + waiting
        self._full, self._under_way = full, 0

    async def take(self, act: Callable[[], T]) -> T:
        """What an act comes to. Raises Busy, and what the act raises."""
        # Counted here, and not by the limiter, which counts what waits only once a thread is looked for.
        if self._under_way >= self._most:
            raise Busy(f"{self._full}; try again in a few seconds")
        self._under_way += 1
        try:
            return await anyio.to_thread.run_sync(act, limiter=self._threads)
        finally:
            self._under_way -= 1


_TURNS: RunVar[Turns] = RunVar("turns")


class LongRoute(APIRoute):
    """A route whose work takes its turn. Raises Busy where too much waits already."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **given: Any) -> None:
        @wraps(endpoint)
        async def in_its_turn(**arguments: Any) -> Any:
            return await in_turn(partial(endpoint, **arguments))

        super().__init__(path, in_its_turn, **given)


async def in_turn(act: Callable[[], T]) -> T:
    """What an act that keeps a processor busy comes to. Raises Busy, and what the act raises."""
    return await _turns().take(act)


def _turns() -> Turns:
    """Those of the loop that runs."""
    try:
        return _TURNS.get()
    except LookupError:
        _TURNS.set(Turns(AT_ONCE, MOST_WAITING, f"{MOST_WAITING} rehearsals wait already"))
        return _TURNS.get()
