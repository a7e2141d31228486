"""Calendar entries that contradict one another or the group, or that leave hours to nobody."""

from itertools import combinations, permutations

import numpy as np

from jostle.core.calendar.occurrence import stretches
from jostle.core.checks.direction import active
from jostle.core.checks.finding import Finding, Mend
from jostle.core.journal.event import say_time
from jostle.core.plan.calendar import CalendarEntry, Floor, Freeze, Limits, Removals, SetCount, Sleep
from jostle.core.plan.entry import Readied, Setting
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.rollout import Rollout
from jostle.core.rehearsal.rehearsal import Rehearsal

Stretches = list[tuple[float, float]]
# s: a setting's instances are looked for so long, and so little late is not worth a word
PATIENCE, BARELY = 3600.0, 60.0


def check_entries(rehearsal: Rehearsal) -> list[Finding]:
    """Contradictions that come up within the span, and entries that never come up."""
    clock, group = rehearsal.clock, rehearsal.crew.group
    entries = [entry for entry in group.calendar if not entry.paused]
    last = clock.first + clock.seconds
    held = {e.name: [(b - clock.first, c - clock.first) for b, c in stretches(e, clock.first, last, clock.zone)] for e in entries}
    found = [_never(entry, rehearsal) for entry in entries if not held[entry.name]]
    found += [_beyond(entry, group.minimum, group.maximum) for entry in entries if _outside(entry, group.maximum)]
    for one, other in combinations(entries, 2):
        at = _meet(held[one.name], held[other.name])
        if at is not None and (why := _against(one, other)):
            text = f"From {say_time(clock, at)} on it holds at once with {other.name} ({other.in_short()}): {why}."
            found.append(Finding(code="calendar-clash", severity="warning", path=f"calendar.{one.name}", text=text, at=at))
    for one, other in permutations(entries, 2):
        if (why := _idle(one, other)) and _within(held[one.name], held[other.name]):
            text = f"It holds only while {other.name} does ({other.in_short()}), to no effect: {why}."
            found.append(Finding(code="calendar-idle", severity="note", path=f"calendar.{one.name}", text=text))
    found += [late for entry in entries if (late := _late(entry, held[entry.name], rehearsal)) is not None]
    found += [early for entry in entries if (early := _too_early(entry, held[entry.name], rehearsal)) is not None]
    return found + _uncovered(rehearsal, [h for e in entries if isinstance(e, Floor | Limits | Sleep) for h in held[e.name]])


def _late(entry: CalendarEntry, held: Stretches, rehearsal: Rehearsal) -> Finding | None:
    """A floor whose instances are launched at its time and so serve after it."""
    if not isinstance(entry, Floor | Limits | SetCount) or entry.ready_by:
        return None
    serving, tick = rehearsal.result.series["units"], rehearsal.clock.tick
    late: list[tuple[float, float]] = []
    for begin, end in held:
        first = max(0, round(begin / tick))
        last = first + int(PATIENCE / tick) if isinstance(entry, SetCount) else round(end / tick)
        reached = np.flatnonzero(serving[first:last] >= entry.lifts)
        if begin >= 0 and len(reached):
            late.append((float(reached[0]) * tick, begin))
    longest, at = max(late, default=(0.0, 0.0))
    if longest <= BARELY:
        return None
    text = (
        f"Its {entry.lifts} {rehearsal.crew.group.unit}s serve up to {say_duration(longest)} after its time, the longest at "
        f"{say_time(rehearsal.clock, at)}: they are launched at it."
    )
    path = f"calendar.{entry.name}.ready_by"
    mend = Mend(text=f"ready by then: launch {say_duration(round(rehearsal.crew.lead))} before", settings={path: True})
    return Finding(code="floor-late", severity="warning", path=path, text=text, mend=mend, at=at)


def _too_early(entry: CalendarEntry, held: Stretches, rehearsal: Rehearsal) -> Finding | None:
    """One that is to be ready so soon after the span begins that its launches would have to begin before it."""
    lead = rehearsal.crew.lead
    if not isinstance(entry, Readied) or not entry.ready_by or entry.lifts <= rehearsal.crew.group.first_count:
        return None
    at = next((begin for begin, _ in held if 0.0 <= begin < lead), None)
    if at is None:
        return None
    text = (
        f"It is to be ready by {say_time(rehearsal.clock, at)}, and its launches take up to {say_duration(lead)}: they would "
        f"have to begin before the span does, so it is late the first time. Start with {entry.lifts}, or begin the span earlier."
    )
    mend = Mend(text=f"{entry.lifts} at the start", settings={"start_count": entry.lifts})
    return Finding(code="ready-early", severity="warning", path=f"calendar.{entry.name}", text=text, mend=mend, at=at)


def _never(entry: CalendarEntry, rehearsal: Rehearsal) -> Finding:
    if isinstance(entry, Rollout) and not entry.comes_in(rehearsal.plan):
        running = rehearsal.crew.launch.version
        text = f"It lies before the plan begins, and is over: the group runs version {running} throughout."
        mend = Mend(text=f"run {entry.version_text}", settings={"version": entry.to})
        return Finding(code="rollout-past", severity="warning", path=f"calendar.{entry.name}.from", text=text, mend=mend)
    text = f"It does not come up in the {say_duration(rehearsal.clock.seconds)} that are rehearsed."
    return Finding(code="calendar-unused", severity="note", path=f"calendar.{entry.name}", text=text)


def _outside(entry: CalendarEntry, maximum: int) -> bool:
    wanted = entry.count if isinstance(entry, Floor | SetCount) else entry.minimum if isinstance(entry, Limits) else 0
    return wanted > maximum


def _beyond(entry: CalendarEntry, minimum: int, maximum: int) -> Finding:
    text = f"It asks for {entry.in_short()}, but the group has {minimum} to {maximum}."
    return Finding(code="calendar-clash", severity="error", path=f"calendar.{entry.name}", text=text)


def _meet(one: Stretches, other: Stretches) -> float | None:
    """The first instant at which a stretch of each holds; an instant that lies in a stretch counts as well."""
    starts = [
        max(a, c) for a, b in one for c, d in other if max(a, c) < min(b, d) or (a == b and c <= a < d) or (c == d and a <= c < b)
    ]
    return min(starts, default=None)


def _within(inner: Stretches, outer: Stretches) -> bool:
    """Whether each stretch lies within one of the others."""
    return bool(inner) and all(any(c <= a and b <= d for c, d in outer) for a, b in inner)


def _idle(one: CalendarEntry, other: CalendarEntry) -> str | None:
    """Why an entry that holds only while another does has no effect; None where it has one."""
    if isinstance(other, Sleep) and not isinstance(one, Sleep):
        return "the group sleeps throughout"
    if isinstance(other, Freeze) and isinstance(one, Removals):
        return "nothing is removed while it is frozen"
    if isinstance(one, Floor) and isinstance(other, Floor) and one.count <= other.count:
        return f"there are at least {other.count} anyway"
    if isinstance(one, Limits) and isinstance(other, Limits) and other.minimum >= one.minimum and other.maximum <= one.maximum:
        return f"the count lies between {other.minimum} and {other.maximum} anyway"
    return None


def _against(one: CalendarEntry, other: CalendarEntry) -> str | None:
    """Why two entries cannot both have their way; None where they can."""
    for a, b in ((one, other), (other, one)):
        if isinstance(a, Sleep) and isinstance(b, Floor | Limits | Setting):
            return "the group sleeps"
        if isinstance(a, Freeze) and isinstance(b, Setting | Floor):
            return "nothing changes while it is frozen"
        if isinstance(a, Limits) and isinstance(b, Floor) and b.count > a.maximum:
            return f"{b.count} and at most {a.maximum} cannot both be; the upper bound wins"
        if isinstance(a, Limits) and isinstance(b, Limits) and b.minimum > a.maximum:
            return f"at least {b.minimum} and at most {a.maximum} cannot both be; the upper bound wins"
    return None


def _uncovered(rehearsal: Rehearsal, held: Stretches) -> list[Finding]:
    """Hours of which neither a policy nor the calendar says how many, in a group that goes by its calendar."""
    if active(rehearsal.crew) or not held:
        return []
    clock = rehearsal.clock
    times = np.arange(clock.ticks) * clock.tick
    covered = np.zeros(clock.ticks, bool)
    for begin, end in held:
        covered[np.searchsorted(times, begin) : np.searchsorted(times, end)] = True
    if covered.all():
        return []
    first = float(times[np.argmin(covered)])
    text = (
        f"For {say_duration(float((~covered).sum()) * clock.tick)} no entry says how many and no policy is there, "
        f"the first time from {say_time(clock, first)}: the count stays as it was left."
    )
    return [Finding(code="calendar-gap", severity="note", path="calendar", text=text, at=first)]
