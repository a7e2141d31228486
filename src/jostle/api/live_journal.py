"""The journal of what lives: events, silences, and what hands did."""

import math
from typing import NamedTuple

import numpy as np
from pydantic import BaseModel

from jostle.core.decide.code import Outcome
from jostle.core.journal.event import Kind, events
from jostle.core.journal.explanation import decision_text
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.keeper.keeper import Remark
from jostle.live.leg import Leg
from jostle.live.life import Life
from jostle.live.live import Done, Live

MOST_LINES = 200


class Line(BaseModel):
    """A line of the journal; `why` says that a decision lies behind it."""

    key: str
    at: float
    clock: str
    group: str
    text: str
    kind: str
    why: bool


class Stretch(NamedTuple):
    """A leg of a life as it was recorded by an instant: its number, and when it ends (s from the beginning)."""

    number: int
    leg: Leg
    record: Rehearsal
    ends: float


class Standing(NamedTuple):
    """What a journal is written from, as it stood at an instant: what is lived afterwards does not change it."""

    lives: list[tuple[Life, list[Stretch], list[tuple[float, Remark, str]]]]
    log: list[Done]


def standing(live: Live, group: str | None = None) -> Standing:
    """How what lives stands, all of it or one group. It is taken while nothing goes on, and read while all does."""
    lives = [
        (life, _stretches(life), list(life.remarks)) for name, life in live.everyone.items() if group is None or name == group
    ]
    return Standing(lives, list(live.log))


def _stretches(life: Life) -> list[Stretch]:
    ends = [*(leg.began for leg in life.legs[1:]), math.inf]
    return [Stretch(number, leg, life.frozen_record(leg), ends[number]) for number, leg in enumerate(life.legs)]


def journal(stood: Standing, changes_only: bool, since: float, most: int = MOST_LINES, before: float = math.inf) -> list[Line]:
    """What happened since an instant, and before another (s since 1970), newest first: events, silences, and what hands did."""
    lines: list[Line] = []
    for life, stretches, remarks in stood.lives:
        for number, leg, record, ends in stretches:
            first, last = max(leg.began, since - life.clock.first), min(ends, before - life.clock.first)
            for event in events(record, _CHANGES if changes_only else None, None, first, until=last, most=most):
                at = record.clock.epoch_of(event.time)
                text = f"stays: {event.text}" if event.kind == "limit" else event.text
                key, why = f"{life.group} {number} {event.time} {event.kind} {event.text[:24]}", event.kind in ("count", "limit")
                lines.append(_line(key, at, life, text, event.kind, why))
            lines += _silences(life, leg.first, record, first, last, number, most)
        lines += [
            _line(f"{life.group} remark {time} {text}", life.clock.first + time, life, text, kind, kind == "would")
            for time, kind, text in remarks
            if life.clock.first + time >= since
        ]
    by_name = {life.group: life for life, _, _ in stood.lives}
    lines += [
        _line(f"hand {number}", done.at, by_name[done.group], f"by hand: {done.text}", "hand", False)
        for number, done in reversed(list(enumerate(stood.log)))
        if done.at >= since and done.group in by_name
    ]
    return sorted((line for line in lines if line.at < before * 1000), key=lambda line: -line.at)[:most]


_CHANGES: frozenset[Kind] = frozenset(
    (
        "count",
        "limit",
        "rollout",
        "refused",
        "taken",
        "broke",
        "restarts",
        "replaced",
        "launched",
        "incident",
        "incident over",
        "short",
        "served again",
    )
)


def _silences(life: Life, start: int, record: Rehearsal, first: float, ends: float, number: int, most: int) -> list[Line]:
    """Evaluations at which a policy asked and the count stayed, the first of each stretch; the last `most` of them."""
    rows = record.result.decisions[start:]
    held = (rows["decided"] == rows["desired"]) & (rows["wanted"] != rows["desired"]) & (rows["outcome"] != Outcome.NOTHING)
    begins = held & ~np.concatenate([[False], held[:-1]])
    begins &= (rows["time"] >= first) & (rows["time"] < ends)
    lines = []
    for place in np.flatnonzero(begins)[-most:]:
        row = rows[place]
        text = decision_text(record.crew.group, row, record.result.views[start + place], record.clock)
        at = life.clock.first + float(row["time"])
        lines.append(_line(f"{life.group} stays {number} {row['time']:g}", at, life, text, "stays", True))
    return lines


def _line(key: str, at: float, life: Life, text: str, kind: str, why: bool) -> Line:
    return Line(key=key, at=at * 1000, clock=f"{life.clock.at(at):%H:%M:%S}", group=life.group, text=text, kind=kind, why=why)
