"""Where a request comes from: a browser says it with each (Origin, and the Fetch Metadata of the W3C), a program does not."""

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

from jostle.provider.details import problem_answer


def is_foreign(method: str, headers: Headers) -> bool:
    """Whether a request comes from the page of another origin. Programs that are no browsers say nothing of it."""
    origin = headers.get("origin")
    if origin is not None and origin.lower() != f"http://{headers.get('host', '').lower()}":
        return True
    if headers.get("sec-fetch-site", "none") in ("none", "same-origin"):
        return False
    follows_a_link = headers.get("sec-fetch-mode") == "navigate" and headers.get("sec-fetch-dest") == "document"
    return not (follows_a_link and method in ("GET", "HEAD"))


def not_from_there() -> Response:
    return problem_answer(403, "Not from there", "only this service's own page may ask; another site's page did")


class NoForeignPages:
    """Refuses what another origin's page asks, streams too, before anything is done for it."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        foreign = scope["type"] == "http" and is_foreign(scope["method"], Headers(scope=scope))
        await (not_from_there() if foreign else self.app)(scope, receive, send)
