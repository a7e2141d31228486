"""A provider of another making: what another tells, changed, and answers that have nothing to do with it."""

import json

from starlette.applications import Starlette


class Own:
    """An application that answers as another does, but for what `change` makes of the answer at a path; `moods` are answers
    (status, headers, body) that are given first, one for each request that `meant` takes."""

    def __init__(self, within, change=lambda path, told: None, moods=(), meant=lambda method, path: True):
        self.within, self.change, self.moods, self.meant = within, change, list(moods), meant
        self.asked = []
        self.state = Starlette().state
        self.state.streams = set()

    async def __call__(self, scope, receive, send):
        if scope["type"] != "http":
            await self.within(scope, receive, send)
            return
        method, path = scope["method"], scope["path"]
        self.asked.append((method, path))
        if self.moods and self.meant(method, path):
            status, headers, body = self.moods.pop(0)
            await send({"type": "http.response.start", "status": status, "headers": headers})
            await send({"type": "http.response.body", "body": body})
            return
        if path == "/events" or path.endswith("/metrics"):
            await self.within(scope, receive, send)
            return
        told = []

        async def hear(message):
            told.append(message)

        await self.within(scope, receive, hear)
        body = b"".join(one.get("body", b"") for one in told[1:])
        headers = told[0]["headers"]
        if told[0]["status"] < 300 and body:
            plain = json.loads(body)
            self.change(path, plain)
            body = json.dumps(plain).encode()
            headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode())]
        await send({**told[0], "headers": headers})
        await send({"type": "http.response.body", "body": body})


def readings_in(path, told):
    """The readings in an answer; None where there are none."""
    return told if path.endswith("/readings") else told.get("readings") if isinstance(told, dict) else None
