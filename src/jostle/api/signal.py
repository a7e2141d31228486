"""A signal that something has happened, from the thread where it did to those who wait for it on the event loop."""

import asyncio
import json
from collections.abc import AsyncIterator, Callable
from contextlib import suppress
from typing import Any

from jostle.core.today import now

# s: a stream says so often that it is still there
BEAT = 15.0
STILL_HERE = ": still here\n\n"


class Signal:
    """`turn` grows with each thing that happens."""

    def __init__(self) -> None:
        self.turn = 0
        self._listeners: set[tuple[asyncio.AbstractEventLoop, asyncio.Event]] = set()

    @property
    def heard(self) -> bool:
        """Whether anybody waits for it."""
        return bool(self._listeners)

    def tell(self) -> None:
        self.turn += 1
        for loop, happened in list(self._listeners):
            with suppress(RuntimeError):
                loop.call_soon_threadsafe(happened.set)

    async def wait(self, turn: int, timeout: float) -> int:
        """Wait until something has happened since a turn, or so many seconds; returns the turn then."""
        if self.turn == turn:
            happened = asyncio.Event()
            listener = (asyncio.get_running_loop(), happened)
            self._listeners.add(listener)
            try:
                if self.turn == turn:
                    await asyncio.wait_for(happened.wait(), timeout)
            except TimeoutError:
                pass
            finally:
                self._listeners.discard(listener)
        return self.turn

    async def events(
        self, kind: str, source: str, last: int | None, data: Callable[[], dict[str, Any]], goes_on: Callable[[], bool]
    ) -> AsyncIterator[str]:
        """CloudEvents 1.0 as server-sent events: one as soon as something has happened since `last`, while it goes on."""
        async for turn in self.turns(-1 if last is None or last > self.turn else last, goes_on):
            yield STILL_HERE if turn is None else event_text(str(turn), str(turn), kind, source, data())

    async def turns(self, last: int, goes_on: Callable[[], bool]) -> AsyncIterator[int | None]:
        """Each turn after `last`, or the newest where there were several, while it goes on; None where nothing has happened for
        so long that it is time to say that somebody is there."""
        while goes_on():
            found = await self.wait(last, BEAT)
            if not goes_on():
                return
            yield None if found == last else found
            last = found


def event_text(place: str, number: str, kind: str, source: str, data: dict[str, Any]) -> str:
    """A CloudEvent 1.0 as one server-sent event, to be resumed after `place`."""
    told = {
        "specversion": "1.0",
        "id": number,
        "source": source,
        "type": f"jostle.{kind}",
        "time": now().isoformat(),
        "datacontenttype": "application/json",
        "data": data,
    }
    return f"id: {place}\nevent: {kind.rpartition('.')[2]}\ndata: {json.dumps(told)}\n\n"
