"""A host and its guests on one axis: copies of each that have a place, those that wait, and what each instance carries."""

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.answer import column
from jostle.api.strips import Numbers, at_ms, drawn, laid_lives
from jostle.core.costs.sharing import part_of
from jostle.core.decide.code import NOBODY
from jostle.core.rehearsal.rehearsal import Aboard, Rehearsal
from jostle.core.rehearsal.strip import Span

# Stretches of a lane that are shorter than this part of the span are too narrow to be seen
NARROW = 1 / 1500


class OfGuest(BaseModel):
    guest: str
    copies: Numbers = Field(description="With a place, the most in each bucket")


class CopiesStrip(BaseModel):
    host: str
    guests: list[OfGuest]
    waiting: Numbers = Field(description="Without a place, the most in each bucket")
    stranded: Numbers = Field(description="That would have none were a host lost, the most in each bucket")
    summary: str


class Cargo(BaseModel):
    """What the lanes of a host carry, a column for each of what is said of it: a stretch of time (ms since 1970) in a `row`, a
    guest by its place in `guests`, and which part of the room it holds, from `low` to `high`."""

    guests: list[str]
    row: list[int]
    guest: list[int]
    begin: list[float]
    end: list[float]
    low: list[float]
    high: list[float]


def copies_strip(rehearsal: Rehearsal, span: Span) -> CopiesStrip | None:
    """The copies of all guests of a host; None of a group that neither carries others nor runs on them."""
    aboard = rehearsal.aboard
    if aboard is None or len(aboard.names) == 1:
        return None
    series = aboard.results[0].series
    waiting, stranded = span.buckets(series["waiting"]), span.buckets(series["taken"])
    guests = [
        OfGuest.model_construct(guest=name, copies=drawn(span.buckets(result.series["billed"]).high))
        for name, result in zip(aboard.names[1:], aboard.results[1:], strict=True)
    ]
    cut = slice(span.begin, span.end)
    minutes = float((series["waiting"][cut] > 0).sum()) * rehearsal.clock.tick / 60
    bare = float((series["taken"][cut] > 0).mean())
    most = int(waiting.high.max())
    return CopiesStrip.model_construct(
        host=aboard.names[0],
        guests=guests,
        waiting=drawn(waiting.high),
        stranded=drawn(stranded.high),
        summary=f"Up to {most} without a place, for {minutes:,.0f} min in all; room for the loss of any one host "
        f"{100 * (1 - bare):.0f} % of the time.",
    )


def cargo(rehearsal: Rehearsal, span: Span) -> Cargo | None:
    """What each instance of a host carries over a span, on the lines of its lanes; None of any other group."""
    aboard = rehearsal.aboard
    if aboard is None or not rehearsal.crew.group.hosts or len(aboard.names) == 1:
        return None
    rows, lines = laid_lives(rehearsal)
    line_of = dict(zip(rows["instance"].tolist(), lines.tolist(), strict=True))
    tick = rehearsal.clock.tick
    begin, end = span.begin * tick, span.end * tick
    columns: list[tuple[int, int, float, float, float, float]] = []
    for host, changes in _changes(aboard).items():
        columns += [(line_of[host], *one) for one in _stretches(changes, len(aboard.names) - 1, begin, end)]
    told = list(zip(*columns, strict=True)) or [()] * 6
    return Cargo.model_construct(
        guests=list(aboard.names[1:]),
        row=list(told[0]),
        guest=list(told[1]),
        begin=column(np.array([at_ms(rehearsal, at) for at in told[2]])),
        end=column(np.array([at_ms(rehearsal, at) for at in told[3]])),
        low=column(np.round(np.array(told[4], dtype=float), 4)),
        high=column(np.round(np.array(told[5], dtype=float), 4)),
    )


def _changes(aboard: Aboard) -> dict[int, list[tuple[float, int, float]]]:
    """By instance of the host: when how much more, or less, of its room is held by which guest."""
    host, found = aboard.results[0], dict[int, list[tuple[float, int, float]]]()
    for guest, result in enumerate(aboard.results[1:]):
        parts, lives = part_of(host, result), result.lives
        on, begins = result.instances["host"][lives["instance"]], lives["begin"]
        for who, begin, end in zip(on.tolist(), begins.tolist(), (begins + result.instance_seconds).tolist(), strict=True):
            if who != NOBODY:
                found.setdefault(who, []).extend([(begin, guest, parts[who]), (end, guest, -parts[who])])
    return found


def _stretches(
    changes: list[tuple[float, int, float]], guests: int, begin: float, end: float
) -> list[tuple[int, float, float, float, float]]:
    """Of one instance: guest, begin and end of a stretch (s), and which part of the room it holds then, the guests one upon the
    other."""
    held, found, since = np.zeros(guests), [], begin
    for at, guest, part in [*sorted(changes), (end, 0, 0.0)]:
        until = min(at, end)
        if until - since > NARROW * (end - begin):
            top = 0.0
            for number in np.flatnonzero(held > 1e-9):
                found.append((int(number), since, until, top, top + float(held[number])))
                top += float(held[number])
            since = until
        held[guest] += part
    return found
