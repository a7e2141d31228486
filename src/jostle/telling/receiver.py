"""A receiver to try: it checks who sent a notice, and says what was in it."""

import json
from collections.abc import Callable
from typing import Any

from fastapi import FastAPI, Request, Response

from jostle.core.today import epoch
from jostle.telling.webhook import is_signed

MOST_BYTES = 65_536


def create_receiver(secret: str, say: Callable[[str], None], failures: int = 0) -> FastAPI:
    """What takes notices at /; the first so many are refused with 503, so that trying again can be seen."""
    app = FastAPI(title="A receiver of notices", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.streams = set()
    left = {"failures": failures}
    seen: set[str] = set()

    @app.post("/")
    async def take(request: Request) -> Response:
        body = b""
        async for part in request.stream():
            body += part
            if len(body) > MOST_BYTES:
                return Response(status_code=413)
        if not is_signed(secret, request.headers, body, epoch()):
            say("refused: not signed with this secret, or not of now")
            return Response(status_code=401)
        if left["failures"] > 0:
            left["failures"] -= 1
            say("answered 503, as it was told to")
            return Response(status_code=503)
        number = request.headers["webhook-id"]
        if number not in seen:
            seen.add(number)
            say(_said(json.loads(body)))
        return Response(status_code=204)

    return app


def _said(event: dict[str, Any]) -> str:
    return f"{event.get('time')} {event.get('type')}: {event.get('data', {}).get('text')}"
