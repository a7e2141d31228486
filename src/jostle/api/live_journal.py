"""The journal of what lives: events, silences, and what hands did."""

import math

import numpy as np
from pydantic import BaseModel

from jostle.core.decide.code import Outcome
from jostle.core.journal.event import events
from jostle.core.journal.moment import moment
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.live.life import Life
from jostle.live.live import Live

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


def journal(
    live: Live, group: str | None, changes_only: bool, since: float, most: int = MOST_LINES, before: float = math.inf
) -> list[Line]:
    """What happened since an instant, and before another (s since 1970), newest first: events, silences, and what hands did."""
    lines: list[Line] = []
    for name, life in live.everyone.items():
        if group not in (None, name):
            continue
        for number, leg in enumerate(life.legs):
            ends = life.legs[number + 1].began if number + 1 < len(life.legs) else np.inf
            record = life.record(leg)
            first = max(leg.began, since - life.clock.first)
            for event in events(record, None, None, first):
                at = record.clock.epoch_of(event.time)
                if at - life.clock.first >= ends:
                    break
                if changes_only and event.kind not in _CHANGES:
                    continue
                text = f"stays: {event.text}" if event.kind == "limit" else event.text
                key, why = f"{name} {number} {event.time} {event.kind} {event.text[:24]}", event.kind in ("count", "limit")
                lines.append(_line(key, at, life, text, event.kind, why))
            lines += _silences(life, leg.first, record, first, ends, number)
        lines += [
            _line(f"{name} remark {time} {text}", life.clock.first + time, life, text, kind, kind == "would")
            for time, kind, text in life.remarks
            if life.clock.first + time >= since
        ]
    lines += [
        _line(f"hand {number}", done.at, live.everyone[done.group], f"by hand: {done.text}", "hand", False)
        for number, done in reversed(list(enumerate(live.log)))
        if group in (None, done.group) and done.at >= since and done.group in live.everyone
    ]
    return sorted((line for line in lines if line.at < before * 1000), key=lambda line: -line.at)[:most]


_CHANGES = frozenset(
    (
        "count",
        "limit",
        "rollout",
        "refused",
        "taken",
        "broke",
        "restarts",
        "replaced",
        "incident",
        "incident over",
        "short",
        "served again",
    )
)


def _silences(life: Life, start: int, record: Rehearsal, first: float, ends: float, number: int) -> list[Line]:
    """Evaluations at which a policy asked and the count stayed, the first of each stretch."""
    rows = record.result.decisions[start:]
    held = (rows["decided"] == rows["desired"]) & (rows["wanted"] != rows["desired"]) & (rows["outcome"] != Outcome.NOTHING)
    begins = held & ~np.concatenate([[False], held[:-1]])
    lines = []
    for row in rows[begins & (rows["time"] >= first) & (rows["time"] < ends)]:
        told = moment(record, float(row["time"]))
        if told is not None:
            at = life.clock.first + float(row["time"])
            lines.append(_line(f"{life.group} stays {number} {row['time']:g}", at, life, told.decision, "stays", True))
    return lines


def _line(key: str, at: float, life: Life, text: str, kind: str, why: bool) -> Line:
    return Line(key=key, at=at * 1000, clock=f"{life.clock.at(at):%H:%M:%S}", group=life.group, text=text, kind=kind, why=why)
