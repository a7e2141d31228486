"""The calendar and the hands as blocks on the time axis, with the days on which clocks change."""

from datetime import datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from pydantic import BaseModel, Field

from jostle.api.strips import Between, at_ms
from jostle.core.calendar.occurrence import stretches
from jostle.core.plan.calendar import Floor, Limits, SetCount
from jostle.core.plan.clock import DAY, offset_at
from jostle.core.plan.entry import Setting
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span

DAYS_SHOWN = 7
MOST_BLOCKS = 400
WEEKS_KEPT = 64


class CalendarDay(Between):
    label: str
    clock_change: str | None = Field(description="What the clocks do on this day, where they change")


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
    for entry in group.calendar:
        held = stretches(entry, low, high, clock.zone)[:MOST_BLOCKS]
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
                repeats=entry.repeat is not None or bool(entry.also),
                paused=entry.paused,
                blocks=[Between(begin=begin * 1000, end=end * 1000) for begin, end in held],
            )
        )
    hands = []
    for number, hand in enumerate(group.hands):
        at = clock.epoch_of(hand.at) - clock.first
        end = None if hand.lasts is None else at_ms(rehearsal, at + hand.lasts)
        hands.append(HandMark(key=f"hands.{number}", label=hand.text(), at=at_ms(rehearsal, at), end=end))
    return CalendarView(days=days, entries=entries, hands=hands)


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
