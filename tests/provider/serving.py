"""Applications served on this machine, for tests that speak HTTP."""

import socket
import time
from collections.abc import Iterator
from contextlib import contextmanager
from subprocess import Popen
from threading import Event, Thread

import httpx2
from fastapi import FastAPI

from jostle.provider.stream import Service
from tests.patience import PATIENCE

# A process loads the engine first
STARTING = 3 * PATIENCE
# Without certificates, which take a tenth of a second to read
PLAIN = httpx2.Client(timeout=PATIENCE, verify=False)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def serving(app: FastAPI, port: int | None = None) -> Iterator[str]:
    """Serve an application, on a port if one is named; gives its address."""
    if not hasattr(app.state, "streams"):
        app.state.streams = set()
    port = port or free_port()
    service = Service(app, port)
    thread = Thread(target=service.run, daemon=True)
    thread.start()
    url = f"http://127.0.0.1:{port}"
    answers(url)
    try:
        yield url
    finally:
        service.should_exit = True
        thread.join(PATIENCE)


def answers(url: str, process: Popen[str] | None = None) -> None:
    """Wait until something answers; what starts in a process of its own may take longer, for as long as that lives."""
    until = time.monotonic() + (PATIENCE if process is None else STARTING)
    while True:
        try:
            PLAIN.get(url)
            return
        except httpx2.TransportError:
            if process and process.poll() is not None:
                raise AssertionError(f"it ended with {process.returncode}: {process.stderr and process.stderr.read()}") from None
            if time.monotonic() > until:
                raise
            # What starts in another process needs the time more than whoever waits for it.
            Event().wait(0.05)
