"""Streams end where nobody reads them, and are bounded in number."""

import socket
import time
from collections.abc import AsyncIterator

import anyio
import httpx2
import pytest
from fastapi import FastAPI

from jostle.provider import stream
from jostle.provider.stream import EventStream
from tests.patience import PATIENCE
from tests.provider.serving import PLAIN, serving


@pytest.fixture
def app():
    made = FastAPI()
    made.state.streams = set()

    async def endless() -> AsyncIterator[str]:
        while True:
            yield f"data: {'x' * 60_000}\n\n"
            await anyio.sleep(0)

    async def quiet() -> AsyncIterator[str]:
        yield "data: begun\n\n"
        await anyio.sleep_forever()

    @made.get("/endless")
    def _() -> EventStream:
        return EventStream(endless())

    @made.get("/quiet")
    def _() -> EventStream:
        return EventStream(quiet())

    return made


def open_streams(app, number):
    until = time.monotonic() + PATIENCE
    while len(app.state.streams) != number:
        assert time.monotonic() < until, f"{len(app.state.streams)} streams are open"
        time.sleep(0.01)


def test_a_reader_that_takes_nothing_is_let_go_and_others_are_answered(app, monkeypatch):
    monkeypatch.setattr(stream, "READER_PATIENCE", 0.3)
    with serving(app) as url:
        readers = [socket.create_connection(("127.0.0.1", int(url.rpartition(":")[2]))) for _ in range(20)]
        for one in readers:
            one.sendall(b"GET /endless HTTP/1.1\r\nhost: 127.0.0.1\r\n\r\n")
        open_streams(app, 20)
        assert PLAIN.get(f"{url}/openapi.json").status_code == 200
        open_streams(app, 0)
        for one in readers:
            one.close()


def test_one_stream_too_many_is_refused_by_name_until_another_is_closed(app, monkeypatch):
    monkeypatch.setattr(stream, "MOST_STREAMS", 2)
    with serving(app) as url, httpx2.Client(base_url=url, timeout=PATIENCE) as client:
        with client.stream("GET", "/quiet") as first, client.stream("GET", "/quiet"):
            assert first.status_code == 200
            open_streams(app, 2)
            refused = PLAIN.get(f"{url}/quiet")
            assert (refused.status_code, refused.headers["retry-after"]) == (503, "5")
            assert refused.json()["detail"].startswith("2 streams are open already")
        open_streams(app, 0)
        with client.stream("GET", "/quiet") as again:
            assert again.status_code == 200
