"""A provider over HTTP, as a keeper in another process has it."""

import math
from collections.abc import Sequence
from threading import Event
from typing import Any, NamedTuple, NoReturn, TypeVar

import httpx2
import numpy as np
from pydantic import BaseModel, ValidationError

from jostle.exchange import Answer, BadAnswer, Line, NoAnswer
from jostle.provider.message import (
    PROTOCOL,
    VERSION,
    Ability,
    Accepted,
    Answered,
    ClockNote,
    CountsNote,
    Description,
    InstanceNote,
    LoadNote,
    Noted,
    ReadingsNote,
)
from jostle.provider.provider import Counts, Instance, Leaves, NotThere, Readings, Refused, Unusable, VersionCounts

M = TypeVar("M", bound=BaseModel)
# s for an answer
PATIENCE = 30.0
# Seconds before something is asked again, twice as long each time, or as the provider says, up to so many
FIRST_PAUSE, LONGEST_PAUSE = 0.1, 10.0
# What may be otherwise the next time
PASSING = (429, 500, 502, 503, 504)
# A quota that no group reaches
NO_QUOTA = 2**30


class Ours(NamedTuple):
    """What a keeper calls things of a group, in its own order: the machines of its types, zones, rows of samples."""

    machines: Sequence[str]
    zones: Sequence[str]
    metrics: Sequence[str]


class HttpProvider:
    """One group of a provider at an address. Whatever is asked is asked again where the answer is lost, is none, or says that it
    may be otherwise later, orders under their keys; raises ConnectionError where that does not help, Refused and NotThere where
    the provider says no. What it cannot, by its `can`, it is not asked."""

    def __init__(self, url: str, tries: int = 3, patience: float = PATIENCE) -> None:
        self.url, self.tries = url.rstrip("/"), tries
        try:
            self._line = Line(self.url, patience)
        except httpx2.InvalidURL as error:
            raise Unusable(f"{self.url} is no address: {error}") from None
        self.ours: dict[str, Ours] = {}
        self._about: Description | None = None
        self._noted: Noted | None = None
        self._decided: dict[str, Any] | None = None
        self._over = Event()

    @property
    def about(self) -> Description:
        """What it has and can, asked once. Raises Unusable, ConnectionError."""
        # Not a cached_property: before Python 3.12 all objects share its lock, and a slow provider would hold up all others.
        return self._about or self.describe()

    def close(self) -> None:
        self._over.set()
        self._line.close()

    def can(self, ability: Ability) -> bool:
        return ability in self.about.can

    def describe(self) -> Description:
        """What it has and can. Raises Unusable where it speaks another protocol, or another version of it."""
        told = self._json("GET", "/")
        protocol, version = (told.get("protocol"), told.get("version")) if isinstance(told, dict) else (None, None)
        if protocol != PROTOCOL:
            raise Unusable(f"{self.url} is no provider: it speaks {protocol!r}, not {PROTOCOL}")
        if version != VERSION:
            raise Unusable(f"{self.url} speaks version {version} of {PROTOCOL}; this keeper speaks version {VERSION}")
        self._about = self._read(Description, told)
        return self._about

    # What a keeper asks; see `provider.Provider`

    def counts(self, group: str) -> Counts:
        if self._noted is not None:
            return _counts(self._noted.counts)
        return _counts(self._read(CountsNote, self._json("GET", f"/groups/{group}/counts")))

    def instances(self, group: str) -> list[Instance]:
        ours = self._ours(group)
        told = self._json("GET", f"/groups/{group}/instances")
        if not isinstance(told, list):
            raise Unusable(f"{self.url} told no list of instances of {group}")
        notes = [self._read(InstanceNote, one) for one in told]
        if (strange := next((note for note in notes if note.zone not in ours.zones), None)) is not None:
            said = f"instance {strange.number} of {group} is in {strange.zone!r}"
            raise Unusable(f"{said}; {self.url} has told {', '.join(ours.zones)}")
        return [_instance(note, ours.zones.index(note.zone), ours.machines) for note in notes]

    def readings(self, group: str, first: int) -> Readings:
        if self._noted is not None and self._noted.readings.first <= first:
            return self._laid(group, self._noted.readings)
        told = self._json("GET", f"/groups/{group}/readings", params={"first": first})
        return self._laid(group, self._read(ReadingsNote, told))

    def more(self, group: str, key: str, number: int, by: int, version: int | None = None) -> None:
        self._order(group, "more", {"key": key, "number": number, "by": by, "version": version})

    def fewer(self, group: str, key: str, leaving: list[Leaves], by: int, notice: str = "") -> None:
        told = [{"number": one.number, "to_stop": one.to_stop, "why": one.why} for one in leaving]
        self._order(group, "fewer", {"key": key, "leaving": told, "by": by, "notice": notice})

    def mend(self, group: str, key: str, number: int, again: bool) -> None:
        self.act(group, number, key, "mend" if again else "replace")
        self._noted = None

    def act(self, group: str, number: int, key: str, what: str, cpu: float = 0.0, length: float = 0.0) -> None:
        """Do one thing to one instance."""
        body = {"key": key, "act": what, "cpu": cpu, "length": length}
        self._read(Accepted, self._json("POST", f"/groups/{group}/instances/{number}", json=body))

    # The clock, and what is entered

    def clock(self, until: float | None = None, pace: float | None = None) -> ClockNote:
        """Where the clock stands, after it was told to go to an instant or at a pace, where it can be told."""
        self._noted = None
        if (until is None and pace is None) or not self.can("clock"):
            return self._read(ClockNote, self._json("GET", "/clock"))
        return self._read(ClockNote, self._json("POST", "/clock", json={"until": until, "pace": pace}))

    def decide(self, decision: dict[str, Any], views: list[dict[str, Any]], time: float) -> None:
        """Take down a decision, which goes with the next order or answer, to a provider that keeps a record."""
        if self.can("decisions"):
            self._decided = {"time": time, "decision": decision, "views": views}

    def answer(self, group: str, time: float, from_reading: int, mended: bool = False) -> Noted:
        """Say that an instant is done with, and hear where the group stands when the next one is due."""
        body = self._decided or {"time": time}
        self._decided = None
        said = {**body, "from_reading": from_reading, "mended": mended}
        noted = self._read(Noted, self._json("POST", f"/groups/{group}/answered", json=said))
        # Where others are to answer first it will stand otherwise by then.
        self._noted = noted if noted.due else None
        return noted

    def load(self, group: str) -> LoadNote:
        """What came, was answered and failed since its first instant."""
        return self._read(LoadNote, self._json("GET", f"/groups/{group}/load"))

    def figures(self, group: str) -> Any:
        """What the span came to, as its record has it, where it keeps one."""
        return self._json("GET", f"/groups/{group}/figures")

    def _order(self, group: str, what: str, body: dict[str, Any]) -> None:
        if self._decided is not None:
            self._json("POST", f"/groups/{group}/decisions", json=self._read(Answered, self._decided).model_dump())
            self._decided = {"time": self._decided["time"]}
        self._read(Accepted, self._json("POST", f"/groups/{group}/{what}", json=body))
        self._noted = None

    def _group(self, group: str) -> Any:
        if group not in self.about.groups:
            raise NotThere(f"{self.url} has no group {group}; it has {', '.join(self.about.groups)}")
        return self.about.groups[group]

    def _ours(self, group: str) -> Ours:
        """What a keeper calls things, or the provider where nobody keeps the group."""
        note = self._group(group)
        return self.ours.get(group) or Ours([], note.zones, [one.name for one in note.metrics])

    def _laid(self, group: str, told: ReadingsNote) -> Readings:
        """Readings by the names and in the order of the keeper; what the provider does not measure is silent."""
        note, ours = self._group(group), self._ours(group)
        names, number = [one.name for one in note.metrics], len(told.metered)
        if (wrong := next((rows for rows in told.values if len(rows) != len(names)), None)) is not None:
            raise Unusable(f"readings of {group} have {len(wrong)} metrics; {self.url} has told {', '.join(names)}")
        if len(told.values) > 1 + len(note.zones):
            raise Unusable(f"readings of {group} have {len(told.values)} places: the group comes first, then its zones")
        places = [0, *(1 + ours.zones.index(zone) for zone in note.zones)]
        shape = (1 if len(told.values) < 2 else 1 + len(ours.zones), len(ours.metrics), number)
        values = np.full(shape, math.nan, np.float32)
        rows = [(k, ours.metrics.index(name)) for k, name in enumerate(names) if name in ours.metrics]
        for place, at in zip(told.values, places, strict=False):
            for k, row in rows:
                values[at, row] = [math.nan if one is None else one for one in place[k]]
        return Readings(told.first, values, np.array(told.metered, np.float32))

    def _json(self, method: str, path: str, **given: Any) -> Any:
        lost: Exception | None = None
        pause = 0.0
        for number in range(self.tries):
            if number and self._over.wait(pause):
                break
            pause = FIRST_PAUSE * 2**number
            try:
                answer = self._line.ask(method, path, **given)
                if answer.status in PASSING:
                    lost = ConnectionError(f"{self.url} answers {method} {path} with status {answer.status}: {_said(answer)}")
                    pause = max(pause, _asked_to_wait(answer))
                    continue
                if answer.status >= 400:
                    _refuse(answer)
                return answer.told()
            except NoAnswer as error:
                lost = ConnectionError(f"{self.url} cannot be reached: {method} {path}: {error}")
            except BadAnswer as error:
                lost = Unusable(f"what {self.url} answers to {method} {path} {error}")
        raise lost or ConnectionError(f"{self.url} is not asked any more")

    def _read(self, model: type[M], told: Any) -> M:
        try:
            return model.model_validate(told)
        except ValidationError as error:
            fault = error.errors()[0]
            place = ".".join(map(str, fault["loc"]))
            raise Unusable(f"{self.url} told no {model.__name__}: {place}: {fault['msg']}") from None


def _refuse(answer: Answer) -> NoReturn:
    said = _said(answer)
    raise NotThere(said) if answer.status == 404 else Refused(said)


def _said(answer: Answer) -> str:
    try:
        told = answer.told()
    except BadAnswer:
        told = None
    detail = told.get("detail") if isinstance(told, dict) else None
    return str(detail or f"status {answer.status}")


def _counts(told: CountsNote) -> Counts:
    quota = NO_QUOTA if told.quota is None else told.quota
    versions = tuple(VersionCounts(**one.model_dump()) for one in told.versions)
    return Counts(told.present, told.serving, told.pinned, told.waiting, quota, told.beyond, told.found, versions)


def _asked_to_wait(answer: Answer) -> float:
    """s for which the provider wants not to be asked, as far as that is heeded."""
    try:
        return min(LONGEST_PAUSE, max(0.0, float(answer.headers.get("retry-after", "0"))))
    except ValueError:
        return 0.0


def _instance(told: InstanceNote, zone: int, machines: Sequence[str]) -> Instance:
    same = {
        field: getattr(told, field) for field in Instance.__dataclass_fields__ if field not in ("zone", "requested", "machine")
    }
    requested, machine = told.requested or 0.0, machines.index(told.machine) if told.machine in machines else 0
    return Instance(zone=zone, requested=requested, machine=machine, **same)
