"""One provider on trial: what it is asked, and how long it takes."""

import time
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import httpx2

from jostle.provider.client import HttpProvider
from jostle.provider.message import CloudEvent, Description

# Seconds within which a provider answers whatever it is asked
PROMPT = 2.0
PATIENCE = 20.0
# Instants of evaluation for which a launch, or a departure, is waited for
MOST_INSTANTS = 400


class Broken(AssertionError):
    """A promise is not kept; the message says what was seen."""


class NotTried(RuntimeError):
    """The provider says that it cannot do what the promise is about."""


class Trial:
    """One provider, and one of its groups on which everything is tried."""

    def __init__(self, url: str) -> None:
        known = HttpProvider(url)
        self.about: Description = known.about
        known.close()
        self.http = httpx2.Client(base_url=url.rstrip("/"), timeout=PATIENCE)
        if not self.about.groups:
            raise ConnectionError(f"{url} has no group to try")
        self.group = next(iter(self.about.groups))
        self.note = self.about.groups[self.group]
        self.slowest = 0.0
        self.slow_path = ""
        self.stamp = f"kit {uuid4().hex}"

    def ask(self, method: str, path: str, expect: tuple[int, ...] = (200, 202), **given: Any) -> Any:
        began = time.monotonic()
        answer = self.http.request(method, path, **given)
        took = time.monotonic() - began
        if took > self.slowest:
            self.slowest, self.slow_path = took, f"{method} {path}"
        if answer.status_code not in expect:
            raise Broken(
                f"{method} {path} answered {answer.status_code}, not {' or '.join(map(str, expect))}: {answer.text[:200]}"
            )
        return answer

    def of(self, path: str, **given: Any) -> Any:
        return self.ask("GET", f"/groups/{self.group}/{path}", **given).json()

    def order(self, path: str, body: dict[str, Any]) -> Any:
        return self.ask("POST", f"/groups/{self.group}/{path}", json=body).json()

    def instances(self) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = self.of("instances")
        return found

    def can(self, ability: str) -> None:
        if ability not in self.about.can:
            raise NotTried(f"it says that it cannot: {ability}")

    def on(self) -> float:
        """Let the clock go on to the next instant of evaluation, of which nothing is decided. Returns the time."""
        self.can("clock")
        clock = self.ask("GET", "/clock").json()
        now: float = clock["groups"][self.group]
        # A host and its guests are due one after the other.
        for _ in range(2 * len(self.about.groups)):
            for group in clock["due"]:
                mended = self.ask("GET", f"/groups/{group}/counts").json().get("found", 0) > 0
                self.ask("POST", f"/groups/{group}/answered", json={"time": clock["groups"][group], "mended": mended})
            clock = self.ask("POST", "/clock", json={"until": now + self.note.evaluate_every}).json()
            if self.group in clock["due"] or clock["groups"][self.group] > now:
                break
        found: float = clock["groups"][self.group]
        return found

    def until(self, met: Callable[[], bool], what: Callable[[], str]) -> None:
        for _ in range(MOST_INSTANTS):
            if met():
                return
            self.on()
        raise Broken(f"after {MOST_INSTANTS} instants of evaluation {what()}")

    def events(self, last: str | None, wanted: int) -> list[tuple[str, dict[str, Any]]]:
        """Events from after `last` on, with the id of each in the stream: as many as are wanted, or those of two seconds."""
        headers = {} if last is None else {"Last-Event-ID": last}
        found: list[tuple[str, dict[str, Any]]] = []
        until, event_id = time.monotonic() + PROMPT, ""
        with self.http.stream("GET", "/events", headers=headers, params={"group": self.group}) as answer:
            if not answer.headers.get("content-type", "").startswith("text/event-stream"):
                raise Broken(f"/events is {answer.headers.get('content-type')}, not text/event-stream")
            for line in answer.iter_lines():
                name, _, value = line.partition(": ")
                if name == "id":
                    event_id = value
                if name == "data":
                    found.append((event_id, CloudEvent.model_validate_json(value).model_dump()))
                # A comment says that there is nothing more for now.
                if len(found) >= wanted or line.startswith(":") or time.monotonic() > until:
                    break
        return found
