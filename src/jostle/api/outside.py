"""What waits for somebody else's server, in threads apart from those that answer pages, so many at once."""

from collections.abc import Callable
from typing import Annotated, TypeVar

import anyio
import anyio.to_thread
from fastapi import Depends, Request

T = TypeVar("T")
AT_ONCE = 8


class Busy(RuntimeError):
    """As many wait already as there is room for."""


class Outside:
    def __init__(self) -> None:
        self._waiting = anyio.CapacityLimiter(AT_ONCE)
        self._under_way = 0

    async def wait_for(self, act: Callable[[], T]) -> T:
        """What an act comes to. Raises Busy, and what the act raises."""
        # Counted here, and not by the limiter's tokens, which are taken only once a thread is found.
        if self._under_way >= AT_ONCE:
            raise Busy(f"{AT_ONCE} other servers are waited for already; try again in a few seconds")
        self._under_way += 1
        try:
            return await anyio.to_thread.run_sync(act, limiter=self._waiting)
        finally:
            self._under_way -= 1


def outside_of(request: Request) -> Outside:
    outside: Outside = request.app.state.outside
    return outside


OutsideDep = Annotated[Outside, Depends(outside_of)]
