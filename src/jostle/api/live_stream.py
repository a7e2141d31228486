"""The journal of what lives as a stream: each line as it is entered."""

from collections.abc import AsyncIterator, Callable
from typing import Any
from urllib.parse import quote

from jostle.api.live_desk import Running
from jostle.api.live_journal import Line, Standing, standing
from jostle.api.signal import STILL_HERE, event_text


async def journal_events(running: Running, source: str, last: int | None, goes_on: Callable[[], bool]) -> AsyncIterator[str]:
    """CloudEvents 1.0 as server-sent events, in the order of time; from now on where nothing was heard before."""
    since = running.live.now if last is None else last / 1000
    heard = set[str]()

    def stood() -> Standing:
        with running.lock:
            return standing(running.live)

    def event(line: Line) -> str:
        return event_text(str(round(line.at)), line.key, "live.entered", source, _told(line, source))

    async for turn in running.signal.turns(-1, goes_on):
        if turn is None:
            yield STILL_HERE
            continue
        lines = await running.tail.lines(turn, since, stood, event)
        if told := "".join(line.text for line in lines if line.key not in heard):
            yield told
        if lines:
            since = lines[-1].at / 1000
            heard = {line.key for line in lines if line.at >= lines[-1].at}


def _told(line: Line, source: str) -> dict[str, Any]:
    place = f"{source}/groups/{quote(line.group)}/moment?at={round(line.at)}"
    return line.model_dump(exclude={"key"}) | {"moment": place if line.why else None}
