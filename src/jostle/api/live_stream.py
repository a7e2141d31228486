"""The journal of what lives as a stream: each line as it is entered."""

from collections.abc import AsyncIterator, Callable
from typing import Any
from urllib.parse import quote

import anyio

from jostle.api.live_desk import Running
from jostle.api.live_journal import Line, journal
from jostle.api.signal import STILL_HERE, event_text

# Lines that are told after a long silence; what is older is read from the journal
MOST_AT_ONCE = 2000


async def journal_events(running: Running, source: str, last: int | None, goes_on: Callable[[], bool]) -> AsyncIterator[str]:
    """CloudEvents 1.0 as server-sent events, in the order of time; from now on where nothing was heard before."""
    since = running.live.now if last is None else last / 1000
    heard = set[str]()
    async for turn in running.signal.turns(-1, goes_on):
        if turn is None:
            yield STILL_HERE
            continue
        lines = await anyio.to_thread.run_sync(_lines, running, since)
        for line in reversed(lines):
            if line.key not in heard:
                yield event_text(str(round(line.at)), line.key, "live.entered", source, _told(line, source))
        if lines:
            since = lines[0].at / 1000
            heard = {line.key for line in lines if line.at >= lines[0].at}


def _lines(running: Running, since: float) -> list[Line]:
    with running.lock:
        return journal(running.live, None, False, since, MOST_AT_ONCE)


def _told(line: Line, source: str) -> dict[str, Any]:
    place = f"{source}/groups/{quote(line.group)}/moment?at={round(line.at)}"
    return line.model_dump(exclude={"key"}) | {"moment": place if line.why else None}
