"""Who may ask: the page of this service and programs on this machine, never a page from elsewhere in the same browser.

A browser says with each request where it comes from (Origin, and the Fetch Metadata of the W3C). What comes from another
origin is refused, whatever its method, but for following a link to a page. Every answer says what its page may load.
"""

import base64
import hashlib

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jostle.api.bounded import MOST_BODY, MOST_FILE, TooLarge
from jostle.api.problem import too_large
from jostle.provider.origin import is_foreign, not_from_there


def policy(style: str = "'self'") -> str:
    """The Content-Security-Policy of an answer whose styles come from `style`."""
    return (
        f"default-src 'none'; script-src 'self'; style-src {style}; font-src 'self'; img-src 'self' data:; connect-src 'self'; "
        "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
    )


def policy_of_page(page: str) -> str:
    """That of a page that stands alone with one sheet of styles in it, which it names by its hash."""
    sheet = page.partition("<style>")[2].partition("</style>")[0]
    return policy(f"'sha256-{base64.b64encode(hashlib.sha256(sheet.encode()).digest()).decode()}'")


HEADERS = {
    "Content-Security-Policy": policy(),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class Guard:
    """Refuses what another origin's page asks and what is too large, and puts the headers on every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        headers = Headers(scope=scope)
        if is_foreign(scope["method"], headers):
            await not_from_there()(scope, receive, with_headers)
            return
        most = MOST_FILE if headers.get("content-type", "").startswith("multipart/") else MOST_BODY
        length = headers.get("content-length", "")
        if length.isdigit() and int(length[:20]) > most:
            await too_large(TooLarge(most))(scope, receive, with_headers)
            return
        taken = 0

        async def bounded() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                raise TooLarge(most)
            return message

        await self.app(scope, bounded, with_headers)
