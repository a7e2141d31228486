"""Shortfalls that come again: those of one cause at about the same time of the day are told as one, so that a week of them can be
read."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from datetime import datetime

from pydantic import Field

from jostle.core.checks.shortfall import Shortfall, counts_text, parts_of
from jostle.core.plan.clock import Clock
from jostle.core.plan.layer import WEEKDAYS
from jostle.core.plan.word import listed
from jostle.core.rehearsal.rehearsal import Rehearsal

# Lines that are told, and the hours of the day that count as the same time, until the lines are no more
MOST_LINES, HOURS_ALIKE = 10, (1, 2, 3, 6, 12, 24)


class Usual(Shortfall):
    """Shortfalls that are alike; `at`, `needed`, `served`, `prevented` and `mend` are those of the worst, all else of all."""

    times: int
    each: list[float] = Field(description="The worst of each, s from the start, in order")


def usual(rehearsal: Rehearsal, found: Sequence[Shortfall]) -> list[Usual]:
    """Shortfalls, the worst first, as at most MOST_LINES lines, the most minutes first."""
    clock = rehearsal.clock
    for hours in HOURS_ALIKE:
        alike: dict[tuple[str, int], list[Shortfall]] = defaultdict(list)
        for one in found:
            alike[one.parts[0].cause, _at(clock, one.begin).hour // hours].append(one)
        if len(alike) <= MOST_LINES:
            break
    lines = sorted(alike.values(), key=lambda those: -sum(one.minutes for one in those))
    rest = [one for those in lines[MOST_LINES - 1 :] for one in those]
    told = lines if len(lines) <= MOST_LINES else [*lines[: MOST_LINES - 1], rest]
    return [_together(rehearsal, those) for those in told]


def _together(rehearsal: Rehearsal, those: Sequence[Shortfall]) -> Usual:
    # What is found is found the worst first
    worst, clock, work = those[0], rehearsal.clock, rehearsal.crew.group.work.kind
    by_cause: dict[str, float] = defaultdict(float)
    for one in those:
        for part in one.parts:
            by_cause[part.cause] += part.minutes
    lost = [one.lost for one in those]
    told = worst.model_dump() | {
        "begin": min(one.begin for one in those),
        "end": max(one.end for one in those),
        "minutes": round(sum(one.minutes for one in those), 2),
        "lost": max(lost) if work == "jobs" else sum(lost),
        "parts": parts_of(by_cause),
        "times": len(those),
        "each": sorted(one.at for one in those),
    }
    if len(those) > 1:
        counts = counts_text(rehearsal, worst.served, worst.needed)
        told["text"] = f"{_when(clock, those)}, {len(those)} times: at the worst {counts}"
    return Usual.model_validate(told)


def _when(clock: Clock, those: Sequence[Shortfall]) -> str:
    """`Mon to Fri between 06:00 and 07:00`."""
    begins = [_at(clock, one.begin) for one in those]
    hours = {at.hour for at in begins}
    until = (max(hours) + 1) % 24
    return f"{_days(sorted({at.weekday() for at in begins}))} between {min(hours):02}:00 and {until:02}:00"


def _days(days: Sequence[int]) -> str:
    """Days of the week by name, those that follow each other as a span: `Mon to Wed and Fri`."""
    return "each day" if len(days) == len(WEEKDAYS) else listed(_spans(days))


def _spans(days: Sequence[int]) -> Iterator[str]:
    begin = 0
    for place in range(1, len(days) + 1):
        if place == len(days) or days[place] != days[place - 1] + 1:
            span = [WEEKDAYS[day][:3].capitalize() for day in days[begin:place]]
            yield from span if len(span) < 3 else [f"{span[0]} to {span[-1]}"]
            begin = place


def _at(clock: Clock, seconds: float) -> datetime:
    return clock.at(clock.first + seconds)
