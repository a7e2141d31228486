"""Answers that go on until the reader leaves, reads no more, or the service stops."""

import socket
from contextlib import suppress

import anyio
import structlog
import uvicorn
from fastapi import FastAPI
from fastapi.responses import StreamingResponse
from starlette.types import Message, Receive, Scope, Send

from jostle import HOST
from jostle.provider.details import problem_answer

HIGHEST_PORT = 65535
# Streams that are open at once, and s that one waits for a reader who takes nothing
MOST_STREAMS, READER_PATIENCE = 256, 20.0
# s that a service which stops waits for what is under way
STOPS_WITHIN = 10
log = structlog.get_logger()


class ServeError(RuntimeError):
    """The service cannot start; the message says what to do."""


class EventStream(StreamingResponse):
    """Server-sent events. The application knows the open ones (`app.state.streams`), so that a service that stops ends them.

    What a reader has not taken waits in the connection's own buffer, which is bounded; whoever takes nothing for READER_PATIENCE
    is let go.
    """

    media_type = "text/event-stream"

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        streams: set[anyio.CancelScope] = scope["app"].state.streams
        if len(streams) >= MOST_STREAMS:
            said = f"{MOST_STREAMS} streams are open already; close one, or try again in a few seconds"
            await problem_answer(503, "Busy", said, headers={"Retry-After": "5"})(scope, receive, send)
            return
        dropped = False

        async def send_in_time(message: Message) -> None:
            nonlocal dropped
            with anyio.move_on_after(READER_PATIENCE) as waited:
                await send(message)
            if waited.cancelled_caught:
                dropped = True
                open_scope.cancel()

        with anyio.CancelScope() as open_scope:
            streams.add(open_scope)
            try:
                await super().__call__(scope, receive, send_in_time)
            finally:
                streams.discard(open_scope)
        if dropped:
            log.warning("stream dropped", path=scope["path"], said=f"its reader took nothing for {READER_PATIENCE:g} s")
        elif open_scope.cancelled_caught:
            await send({"type": "http.response.body", "body": b"", "more_body": False})


class Service(uvicorn.Server):
    """Serves an application on this machine; when it is told to stop, open streams do not hold it up."""

    def __init__(self, app: FastAPI, port: int) -> None:
        super().__init__(uvicorn.Config(app, host=HOST, port=port, log_level="warning", timeout_graceful_shutdown=STOPS_WITHIN))
        self.app = app

    def run(self, sockets: list[socket.socket] | None = None) -> None:
        with suppress(KeyboardInterrupt):
            super().run(sockets)

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        for one in list(self.app.state.streams):
            one.cancel()
        await super().shutdown(sockets)


def check_port(port: int) -> None:
    """Raises ServeError where a port is taken."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            other = port + 1 if port < HIGHEST_PORT else port - 1
            raise ServeError(
                f"Port {port} on {HOST} cannot be used ({error.strerror}). Stop what uses it, or choose another: --port {other}."
            ) from None
