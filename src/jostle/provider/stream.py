"""Answers that go on until the reader leaves or the service stops."""

import socket
from contextlib import suppress

import anyio
import uvicorn
from fastapi import FastAPI
from fastapi.responses import StreamingResponse
from starlette.types import Receive, Scope, Send

from jostle import HOST

HIGHEST_PORT = 65535


class ServeError(RuntimeError):
    """The service cannot start; the message says what to do."""


class EventStream(StreamingResponse):
    """Server-sent events. The application knows the open ones (`app.state.streams`), so that a service that stops ends them."""

    media_type = "text/event-stream"

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        streams: set[anyio.CancelScope] = scope["app"].state.streams
        with anyio.CancelScope() as open_scope:
            streams.add(open_scope)
            try:
                await super().__call__(scope, receive, send)
            finally:
                streams.discard(open_scope)
        if open_scope.cancelled_caught:
            await send({"type": "http.response.body", "body": b"", "more_body": False})


class Service(uvicorn.Server):
    """Serves an application on this machine; when it is told to stop, open streams do not hold it up."""

    def __init__(self, app: FastAPI, port: int) -> None:
        super().__init__(uvicorn.Config(app, host=HOST, port=port, log_level="warning"))
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
