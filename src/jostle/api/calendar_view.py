"""The calendar and the hands as blocks on the time axis, with the days on which clocks change."""

from datetime import datetime, timedelta
from functools import lru_cache
from typing import Literal
from zoneinfo import ZoneInfo

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Between, at_ms
from jostle.core.calendar.occurrence import stretches
from jostle.core.decide.code import Phase
from jostle.core.journal.rollout_line import stage_text
from jostle.core.plan.calendar import Floor, Limits, SetCount
from jostle.core.plan.clock import DAY, offset_at
from jostle.core.plan.entry import Setting
from jostle.core.plan.rollout import Rollout
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span

DAYS_SHOWN = 7
MOST_BLOCKS = 400
WEEKS_KEPT = 64
_TONES: dict[Phase, Literal["comes", "watched", "rests", "back"]] = {
    Phase.CANARY_COMES: "comes",
    Phase.CANARY_WATCHED: "watched",
    Phase.BATCH_COMES: "comes",
    Phase.BATCH_WATCHED: "watched",
    Phase.PAUSED: "rests",
    Phase.STOPPED: "rests",
    Phase.GOES_BACK: "back",
}


class CalendarDay(Between):
    label: str
    clock_change: str | None = Field(description="What the clocks do on this day, where they change")


class Stage(Between):
    """A stretch of a rollout, and where it stands then."""

    said: str
    tone: Literal["comes", "watched", "rests", "back"]


class EntryBlocks(BaseModel):
    """An entry of the calendar; `level` is the count that it is about."""

    key: str
    kind: str
    label: str
    level: int | None
    lasting: bool
    repeats: bool
    paused: bool
    blocks: list[Between]
    stages: list[Stage] = Field(description="Of a rollout: how it went")


class HandMark(BaseModel):
    key: str
    label: str
    at: float
    end: float | None


class CalendarView(BaseModel):
    days: list[CalendarDay]
    entries: list[EntryBlocks]
    hands: list[HandMark]


def calendar_view(rehearsal: Rehearsal, span: Span) -> CalendarView:
    """The days of the week in which the span begins, and all blocks that touch them or the span."""
    clock, group = rehearsal.clock, rehearsal.crew.group
    first = clock.first + span.begin * clock.tick
    days = _days(clock.zone, clock.first if clock.seconds <= DAYS_SHOWN * DAY + 3600 else first)
    low = min(first, days[0].begin / 1000)
    high = max(clock.first + span.end * clock.tick, days[-1].end / 1000)
    entries = []
    for number, entry in enumerate(group.calendar):
        held = stretches(entry, low, high, clock.zone)[:MOST_BLOCKS]
        if isinstance(entry, Rollout):
            stages = _stages(rehearsal, number)
            held = [(begin, _ends(rehearsal, entry, begin, stages)) for begin, _ in held]
        entries.append(
            EntryBlocks(
                key=f"calendar.{entry.name}",
                kind=entry.kind,
                label=entry.in_short(),
                level=entry.count
                if isinstance(entry, Floor | SetCount)
                else entry.maximum
                if isinstance(entry, Limits)
                else None,
                lasting=not isinstance(entry, Setting),
                stages=stages if isinstance(entry, Rollout) else [],
                repeats=entry.repeat is not None or bool(entry.also),
                paused=entry.paused,
                blocks=[Between(begin=begin * 1000, end=end * 1000) for begin, end in held],
            )
        )
    hands = []
    for place, hand in enumerate(group.hands):
        at = clock.epoch_of(hand.at) - clock.first
        end = None if hand.lasts is None else at_ms(rehearsal, at + hand.lasts)
        hands.append(HandMark(key=f"hands.{place}", label=hand.text(), at=at_ms(rehearsal, at), end=end))
    return CalendarView(days=days, entries=entries, hands=hands)


def _stages(rehearsal: Rehearsal, number: int) -> list[Stage]:
    """How a rollout went, by its number in the calendar."""
    rows = rehearsal.result.decisions
    rows = rows[(rows["rollout"] == number) & (rows["phase"] != Phase.NOT_BEGUN)]
    if not len(rows):
        return []
    edges = np.flatnonzero(np.diff(rows["phase"], prepend=-1))
    every = rehearsal.crew.group.evaluate_every
    ends = np.append(rows["time"][edges[1:]], rows["time"][-1] + every)
    found = []
    for k, end in zip(edges, ends, strict=True):
        phase = Phase(int(rows["phase"][k]))
        if phase in (Phase.DONE, Phase.BACK):
            continue
        begin, until = at_ms(rehearsal, float(rows["time"][k])), at_ms(rehearsal, float(end))
        found.append(Stage(begin=begin, end=until, said=stage_text(phase), tone=_TONES[phase]))
    return found


def _ends(rehearsal: Rehearsal, entry: Rollout, begin: float, stages: list[Stage]) -> float:
    """When a rollout that begins then (s since 1970) is over, as it went, or as it would at the soonest."""
    if stages:
        return stages[-1].end / 1000
    return begin + entry.least_time(max(1, rehearsal.crew.group.first_count))


@lru_cache(WEEKS_KEPT)
def _days(zone: ZoneInfo, first: float) -> list[CalendarDay]:
    midnight = datetime.fromtimestamp(first, zone).replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    walls: list[datetime] = [midnight + timedelta(days=k) for k in range(DAYS_SHOWN + 1)]
    epochs = [wall.replace(tzinfo=zone).timestamp() for wall in walls]
    return [
        CalendarDay(
            begin=begin * 1000,
            end=end * 1000,
            label=f"{wall:%a}"[:2] + f" {wall.day}",
            clock_change=_clock_change(zone, begin, end),
        )
        for wall, begin, end in zip(walls, epochs, epochs[1:], strict=False)
    ]


def _clock_change(zone: ZoneInfo, begin: float, end: float) -> str | None:
    ahead = offset_at(end, zone) - offset_at(begin, zone)
    if not ahead:
        return None
    hours = f"{abs(ahead) / 3600:g} h"
    return f"the clocks go {'forward' if ahead > 0 else 'back'} {hours}: this day has {(end - begin) / 3600:g} hours"
