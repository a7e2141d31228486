"""One request to somebody else's server, and its answer: within a time that counts for all of it, and up to a size, whatever that
server does.

Like letters: whoever writes one waits at home, and the carrier, one for everybody, comes back after so long with a whole answer
or without. All exchanges run on one event loop in a thread of its own, so many at once.
"""

import asyncio
import ssl
import threading
import zlib
from collections.abc import Coroutine
from concurrent.futures import Future
from functools import cache
from typing import Any, NamedTuple, TypeVar

import httpx2
import orjson

T = TypeVar("T")
# Bytes of an answer, unpacked
MOST_BYTES = 8 * 2**20
# Exchanges under way at once; more wait for one of them to end
AT_ONCE = 64


class NoAnswer(ConnectionError):
    """Nothing came back, or nothing whole within the time that there was."""


class BadAnswer(ValueError):
    """What came back cannot be taken: it is too long, or not what it says it is."""


class Answer(NamedTuple):
    """What came back; `content` is unpacked."""

    status: int
    headers: httpx2.Headers
    content: bytes

    def told(self) -> Any:
        """The content as JSON, up to a depth of 1,024. Raises BadAnswer."""
        try:
            return orjson.loads(self.content)
        except orjson.JSONDecodeError as error:
            raise BadAnswer(f"is not JSON: {error}") from None


@cache
def _trust() -> ssl.SSLContext:
    """Whom to believe over https, read once: that takes longer than most exchanges."""
    return httpx2.create_ssl_context(trust_env=False)


class Line:
    """To one server at an address, or to any where that is empty and paths are whole. `patience` (s) is how long an exchange may
    take in all, `most` how many bytes an answer may have. Raises httpx2.InvalidURL."""

    def __init__(self, url: str, patience: float, most: int = MOST_BYTES) -> None:
        self.patience, self.most = patience, most
        packed = {"accept-encoding": "gzip"}
        self._client = httpx2.AsyncClient(
            base_url=url, timeout=None, headers=packed, follow_redirects=False, trust_env=False, verify=_trust()
        )
        self._open: set[Future[Any]] = set()
        self._closed = False

    def ask(self, method: str, path: str, **given: Any) -> Answer:
        """Ask, and wait for the answer; `given` is what httpx2 takes. Raises NoAnswer, BadAnswer."""
        return self._wait(self._asked(method, path, given, self.most))

    def status(self, method: str, path: str, **given: Any) -> int:
        """Ask, and wait for the status only: whatever else there is of the answer is not read. Raises NoAnswer."""
        return self._wait(self._asked(method, path, given, None)).status

    def _wait(self, act: Coroutine[Any, Any, Answer]) -> Answer:
        asked = _CARRIER.carry(act)
        self._open.add(asked)
        if self._closed:
            asked.cancel()
        try:
            return asked.result()
        except Exception:
            if self._closed:
                raise NoAnswer("nothing is asked any more") from None
            raise
        finally:
            self._open.discard(asked)

    def close(self) -> None:
        """Break off what is under way; nothing is asked any more."""
        self._closed = True
        for one in list(self._open):
            one.cancel()
        _CARRIER.carry(self._client.aclose())

    async def _asked(self, method: str, path: str, given: dict[str, Any], most: int | None) -> Answer:
        try:
            async with _CARRIER.turns, asyncio.timeout(self.patience), self._client.stream(method, path, **given) as answer:
                content = b"" if most is None else await _content(answer, most)
                return Answer(answer.status_code, answer.headers, content)
        except TimeoutError:
            raise NoAnswer(f"no whole answer within {self.patience:g} s") from None
        except httpx2.TransportError as error:
            raise NoAnswer(str(error).partition("] ")[2] or str(error) or type(error).__name__) from None


async def _content(answer: httpx2.Response, most: int) -> bytes:
    """The body of an answer, unpacked piece by piece, so that little that becomes much is found out soon. Raises BadAnswer."""
    coding = answer.headers.get("content-encoding", "identity").strip().lower()
    if coding not in ("identity", "gzip"):
        raise BadAnswer(f"is packed as {coding}; plain or gzip is read")
    unpacking = zlib.decompressobj(16 + zlib.MAX_WBITS) if coding == "gzip" else None
    parts: list[bytes] = []
    size = 0
    async for piece in answer.aiter_raw():
        try:
            part = unpacking.decompress(piece, most - size + 1) if unpacking else piece
        except zlib.error as error:
            raise BadAnswer(f"is no gzip: {error}") from None
        size += len(part)
        if size > most:
            raise BadAnswer(f"is longer than {most / 2**20:g} MiB")
        parts.append(part)
    if unpacking and parts and not unpacking.eof:
        raise BadAnswer("ends in the middle of its gzip")
    return b"".join(parts)


class _Carrier:
    """The loop on which all exchanges run, begun with the first."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._loop: asyncio.AbstractEventLoop | None = None
        self.turns = asyncio.Semaphore(AT_ONCE)

    def carry(self, act: Coroutine[Any, Any, T]) -> Future[T]:
        with self._lock:
            if self._loop is None:
                self._loop = asyncio.new_event_loop()
                threading.Thread(target=self._loop.run_forever, daemon=True, name="exchanges").start()
        return asyncio.run_coroutine_threadsafe(act, self._loop)


_CARRIER = _Carrier()
