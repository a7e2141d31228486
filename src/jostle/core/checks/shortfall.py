"""Stretches in which the group was short of capacity: how bad each was, what the time went on, and what to try.

The time after a decision goes on whatever kept the count needed from serving then: on launches that were under way, or else on
why no more were asked for.
"""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from jostle.core.built.play import count_for
from jostle.core.calendar.orders import Gate
from jostle.core.checks.direction import active
from jostle.core.checks.finding import Mend
from jostle.core.decide.code import Outcome, Stance
from jostle.core.journal.event import say_time
from jostle.core.plan.policy import MetricPolicy, SparePolicy, TriggerPolicy
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import metric_series, wanted

# Stretches closer than this are one (s)
JOINED = 300.0
# Decisions looked into, over all stretches, the worst first
MOST_LOOKED_INTO = 20_000
CAUSES = {
    "metering": "metering",
    "window": "the window",
    "threshold": "not past the threshold",
    "wait": "waiting after a change",
    "step": "steps too small",
    "boot": "boot",
    "warm-up": "warm-up",
    "maximum": "the maximum",
    "quota": "the quota",
    "refused": "launches refused",
    "broken": "broken instances",
    "calendar": "the calendar",
    "mode": "what policies may do",
    "asleep": "sleep",
    "no data": "no data",
    "start": "before the first decision",
    "nothing adds": "no policy that adds",
}
_HELD = {
    Outcome.ASLEEP: "asleep",
    Outcome.FROZEN: "calendar",
    Outcome.AT_CEILING: "calendar",
    Outcome.MODE_HOLDS: "mode",
    Outcome.AT_MAXIMUM: "maximum",
    Outcome.AT_QUOTA: "quota",
    Outcome.GROUP_WAITS: "wait",
}


class Part(BaseModel):
    """So much of the time went on this."""

    model_config = ConfigDict(frozen=True)

    cause: str
    text: str
    minutes: float


class Shortfall(BaseModel):
    """`begin` and `end` are s from the start; `at` is the worst of it. `lost` counts requests failed or sessions refused; for
    jobs it is the longest wait (s)."""

    model_config = ConfigDict(frozen=True)

    begin: float
    end: float
    at: float
    minutes: float
    lost: float
    needed: int = Field(description="Instances, or of what else is counted, that would have carried the worst of it")
    served: int = Field(description="Those that served then")
    text: str
    parts: list[Part] = Field(description="What the time went on, the most first")
    prevented: str
    mend: Mend | None


@dataclass(frozen=True)
class _Look:
    """A rehearsal as it is looked into."""

    rehearsal: Rehearsal

    @cached_property
    def need(self) -> NDArray[np.int64]:
        """What each tick needs of what is counted: what it asks for, over what one can do."""
        setup = self.rehearsal.result.setup
        each = float(setup.of("capacity")) / float(setup.of("weight"))
        return np.asarray(np.ceil(wanted(self.rehearsal) / each - 1e-9), dtype=np.int64)

    @cached_property
    def adders(self) -> list[int]:
        policies = active(self.rehearsal.crew)
        return [n for n, policy in enumerate(self.rehearsal.crew.group.policies) if policy in policies and policy.adds]

    def past_since(self, number: int) -> NDArray[np.float64]:
        """For each tick, since when (s) the value of that instant has been past a policy's level; nan where it is not."""
        return self._past[number]

    @cached_property
    def _past(self) -> dict[int, NDArray[np.float64]]:
        return {number: self._since(number) for number in self.adders}

    def _since(self, number: int) -> NDArray[np.float64]:
        rehearsal, policy = self.rehearsal, self.rehearsal.crew.group.policies[number]
        series, tick = rehearsal.result.series, rehearsal.clock.tick
        if isinstance(policy, MetricPolicy):
            values, level = metric_series(rehearsal, policy.metric, policy.series), policy.level_at[1]
            past = values < level if policy.edge == "below" else values > level * (1 + getattr(policy, "tolerance", 0.0))
        else:
            used = wanted(rehearsal) if rehearsal.crew.group.work.kind == "requests" else series["in_use"]
            unit, level, by_share = rehearsal.result.setup.of("unit"), policy.level_at[1], policy.level_at[0] == "share"
            asked = np.array([count_for(float(one), unit, level, by_share) for one in used])
            past = asked > series["desired"]
        begins = np.where(past & ~np.concatenate([[False], past[:-1]]), np.arange(len(past)) * tick, -np.inf)
        return np.where(past, np.maximum.accumulate(begins), np.nan)


def shortfalls(rehearsal: Rehearsal) -> list[Shortfall]:
    """The stretches in which it was short, the worst first."""
    look, left = _Look(rehearsal), MOST_LOOKED_INTO
    found = []
    for begin, end in sorted(_stretches(rehearsal), key=lambda one: _lost(rehearsal, *one), reverse=True):
        step = round(rehearsal.crew.group.evaluate_every / rehearsal.clock.tick)
        looked = min(left, (end - 1) // step - begin // step + 1)
        left -= looked
        if looked <= 0:
            break
        found.append(_told(look, begin, end, looked))
    return found


def _stretches(rehearsal: Rehearsal) -> list[tuple[int, int]]:
    """First tick and the one after the last of each, those close together as one."""
    short = rehearsal.result.series["short"].astype(np.int8)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], short, [0]])))
    begins, ends = edges[::2], edges[1::2]
    apart = (begins[1:] - ends[:-1]) * rehearsal.clock.tick >= JOINED
    first, last = begins[np.append(True, apart)[: len(begins)]], ends[np.append(apart, True)[: len(ends)]]
    return list(zip(first.tolist(), last.tolist(), strict=True))


def _lost(rehearsal: Rehearsal, begin: int, end: int) -> float:
    series = rehearsal.result.series[begin:end]
    if rehearsal.crew.group.work.kind == "jobs":
        return float(series["age"].max())
    return float(series["failed"].sum(dtype=np.float64))


def _told(look: _Look, begin: int, end: int, looked: int) -> Shortfall:
    rehearsal = look.rehearsal
    series, clock, crew = rehearsal.result.series, rehearsal.clock, rehearsal.crew
    spent: dict[tuple[str, int | None], float] = defaultdict(float)
    for cause, policy, seconds in _causes(look, begin, end, looked):
        spent[cause, policy] += seconds
    by_cause: dict[str, float] = defaultdict(float)
    for (cause, _), seconds in spent.items():
        by_cause[cause] += seconds
    parts = parts_of({cause: seconds / 60 for cause, seconds in by_cause.items()})
    missing = look.need[begin:end] - series["units"][begin:end]
    worst = begin + int(missing.argmax())
    served = int(series["units"][worst])
    needed = max(served + 1, int(look.need[worst]))
    minutes = float(series["short"][begin:end].sum()) * clock.tick / 60
    blamed = max((one for one in spent if one[0] == parts[0].cause), key=lambda one: spent[one])
    by = begin * clock.tick - crew.ready_after
    return Shortfall(
        begin=begin * clock.tick,
        end=end * clock.tick,
        at=worst * clock.tick,
        minutes=round(minutes, 2),
        lost=_lost(rehearsal, begin, end),
        needed=needed,
        served=served,
        text=f"{say_time(clock, begin * clock.tick)}: {counts_text(rehearsal, served, needed)}",
        parts=parts,
        prevented=f"{needed} asked for by {say_time(clock, max(0.0, by))} would have been there in time"
        if needed <= crew.group.maximum
        else f"the maximum of {crew.group.maximum} is below the {needed} that were needed",
        mend=_mend(look, blamed[0], blamed[1], needed),
    )


def parts_of(minutes: Mapping[str, float]) -> list[Part]:
    """What time went on, the most first."""
    order = sorted(minutes, key=lambda cause: minutes[cause], reverse=True)
    return [Part(cause=cause, text=CAUSES[cause], minutes=round(minutes[cause], 2)) for cause in order]


def counts_text(rehearsal: Rehearsal, served: int, needed: int) -> str:
    return f"{say_count(served, rehearsal.crew.group.unit)} served and {needed} were needed"


def _causes(look: _Look, begin: int, end: int, looked: int) -> Iterator[tuple[str, int | None, float]]:
    """What each part of the stretch went on, decision by decision: cause, the policy that has it, and seconds short."""
    rehearsal = look.rehearsal
    step = round(rehearsal.crew.group.evaluate_every / rehearsal.clock.tick)
    first = begin // step
    for interval in range(first, first + looked):
        low, high = max(begin, interval * step), min(end, (interval + 1) * step)
        seconds = float(rehearsal.result.series["short"][low:high].sum()) * rehearsal.clock.tick
        if seconds > 0:
            yield *_cause(look, interval - 1, low), seconds


def _cause(look: _Look, decision: int, tick: int) -> tuple[str, int | None]:
    """Why the count that tick needs does not serve, after a decision."""
    rows, series = look.rehearsal.result.decisions, look.rehearsal.result.series
    if decision < 0 or not len(rows):
        return "start", None
    row = rows[min(decision, len(rows) - 1)]
    serving, need = int(series["units"][tick]), int(look.need[tick])
    if int(row["decided"]) >= max(need, serving + 1):
        return _under_way(look.rehearsal, tick * look.rehearsal.clock.tick, max(need, serving + 1) - serving), None
    return _not_asked(look, min(decision, len(rows) - 1), tick)


def _under_way(rehearsal: Rehearsal, time: float, missing: int) -> str:
    """What the last of those that are missing is at."""
    rows = rehearsal.result.lives
    coming = rows[(rows["requested"] <= time) & ~(rows["end"] <= time) & (rows["serves"] > time)]
    coming = np.sort(coming[np.isfinite(coming["serves"])], order="serves")
    if not len(coming):
        up = (rows["serves"] <= time) & ~(rows["drains"] <= time) & ~(rows["end"] <= time)
        serving = rehearsal.result.series["serving"][min(int(time / rehearsal.clock.tick), rehearsal.clock.ticks - 1)]
        return "broken" if int(up.sum()) > int(serving) else "refused"
    last = coming[min(missing, len(coming)) - 1]
    return "boot" if last["booted"] > time else "warm-up"


def _not_asked(look: _Look, decision: int, tick: int) -> tuple[str, int | None]:
    """Why a decision asked for no more."""
    rehearsal = look.rehearsal
    row, views = rehearsal.result.decisions[decision], rehearsal.result.views[decision]
    gates = int(rehearsal.result.setup.orders["gates"][decision])
    if gates & (Gate.SLEEP | Gate.FREEZE):
        return "asleep" if gates & Gate.SLEEP else "calendar", None
    for said in (int(row["outcome"]), int(row["limit"])):
        if said in _HELD:
            return _HELD[Outcome(said)], None
    if row["decided"] > row["desired"]:
        return "step", int(row["winner"]) if row["winner"] >= 0 else None
    for number in look.adders:
        if views["state"][number] == Stance.WAITING and views["ask"][number] > row["desired"]:
            return "wait", number
    if not look.adders:
        return "mode" if rehearsal.crew.group.mode == "stay" else "nothing adds", None
    if all(views["state"][number] == Stance.NO_DATA for number in look.adders):
        return "no data", look.adders[0]
    meters, time = rehearsal.crew.group.meters, tick * rehearsal.clock.tick
    since = {number: look.past_since(number)[tick] for number in look.adders}
    past = {number: at for number, at in since.items() if not math.isnan(at)}
    if not past:
        return "threshold", look.adders[0]
    number = min(past, key=lambda one: past[one])
    return ("metering" if time - past[number] < meters.period + meters.delay else "window"), number


def _mend(look: _Look, cause: str, number: int | None, needed: int) -> Mend | None:
    """What to try against a cause."""
    group = look.rehearsal.crew.group
    number = number if number is not None else next(iter(look.adders), None)
    policy = None if number is None else group.policies[number]
    path = "" if policy is None else f"policies.{policy.name}"
    match cause:
        case "maximum" if needed <= 1000:
            return Mend(text=f"maximum {needed}", settings={"maximum": needed})
        case "no data" if group.minimum == 0:
            return Mend(text="minimum 1", settings={"minimum": 1})
        case "metering" if group.meters.period > 10:
            period = max(10.0, 10 * round(group.meters.period / 20))
            return Mend(text=f"meters read every {say_duration(period)}", settings={"meters.period": period})
        case "window" if policy is not None and policy.window > group.meters.period:
            window = max(group.meters.period, 30 * round(policy.window / 60))
            return Mend(text=f"window {say_duration(window)}", settings={f"{path}.window": window})
        case "wait" if group.cooldown > (policy.cooldown if policy else 0.0):
            wait = max(30.0, 30 * round(group.cooldown / 60))
            return Mend(text=f"wait {say_duration(wait)}", settings={"cooldown": wait})
        case "wait" if policy is not None and policy.cooldown > 30:
            wait = max(30.0, 30 * round(policy.cooldown / 60))
            return Mend(text=f"wait {say_duration(wait)}", settings={f"{path}.cooldown": wait})
        case "step" if isinstance(policy, TriggerPolicy) and policy.action == "add":
            more = min(1000, 2 * policy.amount)
            return Mend(text=f"add {more}{' %' if policy.of == 'percent' else ''}", settings={f"{path}.amount": more})
        case "threshold" | "boot" | "warm-up" if isinstance(policy, MetricPolicy) and policy.fold != "count":
            field, level = policy.level_at
            sooner = float(f"{level * (1.15 if policy.edge == 'below' else 0.85):.2g}")
            return Mend(text=f"{field} {policy.say_level(sooner)}", settings={f"{path}.{field}": sooner})
        case "threshold" | "boot" | "warm-up" if isinstance(policy, SparePolicy) and policy.share is not None:
            share = round(min(0.9, 1.3 * policy.share), 2)
            return Mend(text=f"keep {round(100 * share)} % free", settings={f"{path}.share": share})
        case _:
            return None
