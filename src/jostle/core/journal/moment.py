"""One evaluation of a rehearsal explained, with the instances that were there."""

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from jostle.core.decide.code import Outcome
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.result import Result
from jostle.core.journal.event import iso, lacking, say_time
from jostle.core.journal.explanation import Reason, decision_text, explain
from jostle.core.journal.leaving_line import reason_text
from jostle.core.journal.market_line import Berth, berths
from jostle.core.plan.quantity import say_number
from jostle.core.plan.word import listed, say_count
from jostle.core.rehearsal.closer import next_to_leave, stood_at
from jostle.core.rehearsal.name import named
from jostle.core.rehearsal.rehearsal import Rehearsal


class Moment(BaseModel):
    """An evaluation, with the times (s from the start) of the decisions around it that changed or refused something."""

    model_config = ConfigDict(frozen=True)

    seconds: float
    time: str
    title: str
    decision: str
    not_more: str
    not_fewer: str
    reasons: list[Reason]
    buys: str = Field(description="How the next launch would be bought; empty where a group does not buy spot")
    market: list[Berth] = Field(description="What the spot market has, in the order of taking")
    previous: float | None
    following: float | None


def moment(rehearsal: Rehearsal, seconds: float) -> Moment | None:
    """The last evaluation at or before a time; the first one where that is earlier. None where there is none at all."""
    found = moment_played(rehearsal, seconds)
    return None if found is None else found[0]


def decision_at(rehearsal: Rehearsal, seconds: float) -> str:
    """Of the same evaluation, what was decided alone; empty where there is none at all."""
    rows = rehearsal.result.decisions
    if not len(rows):
        return ""
    e = _evaluation(rows, seconds)
    return decision_text(rehearsal.crew.group, rows[e], rehearsal.result.views[e], rehearsal.clock)


def _evaluation(rows: np.ndarray, seconds: float) -> int:
    return max(0, int(np.searchsorted(rows["time"], seconds + 1e-6, side="right")) - 1)


def moment_played(rehearsal: Rehearsal, seconds: float) -> tuple[Moment, Result] | None:
    """A moment, and how the rehearsal stood then, for which it is played again."""
    rows = rehearsal.result.decisions
    if not len(rows):
        return None
    e = _evaluation(rows, seconds)
    row = rows[e]
    notable = np.flatnonzero(rows["outcome"] != Outcome.NOTHING)
    earlier, later = notable[notable < e], notable[notable > e]
    at = float(row["time"])
    told = explain(rehearsal.crew.group, row, rehearsal.result.views[e], rehearsal.clock)
    stood = stood_at(rehearsal, at)
    buys, market = berths(rehearsal, stood)
    told_then = Moment(
        seconds=at,
        time=iso(rehearsal.clock, at),
        title=f"{say_time(rehearsal.clock, at)}: {told.question}",
        decision=told.decision,
        not_more=told.not_more,
        not_fewer=told.not_fewer,
        reasons=[*told.reasons, *_instances(rehearsal, row, at), *_next(rehearsal, stood)],
        buys=buys,
        market=market,
        previous=float(rows["time"][earlier[-1]]) if len(earlier) else None,
        following=float(rows["time"][later[0]]) if len(later) else None,
    )
    return told_then, stood


def _waiting(result: Result, at: float) -> int:
    """Copies of a guest that wait for a place at a time (s)."""
    rows, spells = result.instances, result.spells
    placed = np.full(len(rows), np.inf)
    np.minimum.at(placed, spells["instance"], spells["begin"])
    return int(((rows["requested"] <= at) & (placed > at) & ~(rows["gone"] <= at)).sum())


def _without_place(rehearsal: Rehearsal, at: float) -> list[Reason]:
    """What the copies of a guest wait for, that have no place."""
    refused = rehearsal.result.events
    refused = refused[(refused["kind"] == EventKind.LAUNCH_REFUSED) & (refused["time"] <= at)]
    if rehearsal.crew.group.host is None or not len(refused) or not (number := _waiting(rehearsal.result, at)):
        return []
    lacks = lacking(rehearsal, int(refused["who"][-1]), int(refused["after"][-1])) or ""
    text = f"{number} {'waits' if number == 1 else 'wait'} for a place"
    return [Reason(text=f"{text}: {lacks}", outcome=f"on {rehearsal.crew.group.host}", tone="limit", key="runs")]


def _by_guest(rehearsal: Rehearsal, at: float) -> str:
    """Whose copies those are that have no place."""
    aboard = rehearsal.aboard
    if aboard is None:
        return ""
    guests = zip(aboard.names[1:], aboard.results[1:], strict=True)
    return listed(name for name, result in guests if _waiting(result, at))


def _next(rehearsal: Rehearsal, stood: Result) -> list[Reason]:
    chosen = next_to_leave(stood)
    if chosen is None:
        return []
    instance, reason = chosen
    return [Reason(text=f"Next to leave: {reason_text(reason)}", outcome=named(rehearsal, instance, stood), tone="remove")]


def _instances(rehearsal: Rehearsal, row: np.void, at: float) -> list[Reason]:
    rows = rehearsal.result.instances
    there = (rows["requested"] <= at) & (np.isnan(rows["gone"]) | (rows["gone"] > at))
    coming = there & (rows["serves"] > at) & (rows["requested"] < at) & np.isfinite(rows["serves"])
    leaving = there & (rows["drains"] < at) & (rows["state"] != Life.STOPPED)
    reasons = []
    if rehearsal.result.series["desired"][max(0, min(int(at / rehearsal.clock.tick), rehearsal.clock.ticks) - 1)] == 0:
        reasons.append(Reason(text="No instance is wanted", outcome=f"{int(row['serving'])} serving", tone="serving"))
    elif coming.any():
        ready = say_time(rehearsal.clock, float(rows["serves"][coming].min())).split(" ", 3)[-1]
        text = f"{say_count(int(coming.sum()), 'instance')} booting or warming up, the first ready at {ready}"
        reasons.append(Reason(text=text, outcome=f"{int(row['serving'])} serving", tone="serving"))
    else:
        reasons.append(Reason(text="All that are wanted serve", outcome=f"{int(row['serving'])} serving", tone="serving"))
    if leaving.any():
        reasons.append(Reason(text="Draining, still paid for", outcome=say_number(int(leaving.sum())), tone="remove"))
    reasons += _without_place(rehearsal, at)
    k = min(int(at / rehearsal.clock.tick), rehearsal.clock.ticks) - 1
    waiting = float(rehearsal.result.series["waiting"][max(0, k)])
    if waiting >= 0.5 and rehearsal.crew.group.hosts:
        text = f"{say_count(int(waiting), 'copy')} without a place"
        reasons.append(Reason(text=text, outcome=_by_guest(rehearsal, at), tone="limit"))
    elif waiting >= 0.5:
        work, short = rehearsal.crew.group.work, bool(rehearsal.result.series["short"][max(0, k)])
        text = f"{work.kind.capitalize()} waiting for want of capacity" if short else work.in_line
        reasons.append(Reason(text=text, outcome=say_number(waiting), tone="limit" if short else "serving"))
    return reasons
