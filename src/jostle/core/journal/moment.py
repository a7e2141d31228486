"""One evaluation explained: why this count, and not more or less."""

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from jostle.core.engine import code
from jostle.core.journal.event import iso, say_sight, say_time
from jostle.core.journal.sentence import policy_tone, say_count
from jostle.core.plan.quantity import say_duration, say_number
from jostle.core.rehearsal.rehearsal import Rehearsal

Tone = Literal["add", "remove", "both", "wait", "limit", "serving", "quiet"]


class Reason(BaseModel):
    """One line of an explanation; `key` is the sentence of the page that it concerns, where there is one."""

    model_config = ConfigDict(frozen=True)

    text: str
    outcome: str
    tone: Tone
    key: str | None = None


class Moment(BaseModel):
    """An evaluation, with the times (s from the start) of the decisions around it that changed or refused something."""

    model_config = ConfigDict(frozen=True)

    seconds: float
    time: str
    title: str
    decision: str
    reasons: list[Reason]
    previous: float | None
    following: float | None


def moment(rehearsal: Rehearsal, seconds: float) -> Moment | None:
    """The last evaluation at or before a time; the first one where that is earlier. None where there is none at all."""
    rows = rehearsal.result.decisions
    if not len(rows):
        return None
    e = max(0, int(np.searchsorted(rows["time"], seconds + 1e-6, side="right")) - 1)
    row = rows[e]
    notable = np.flatnonzero(rows["outcome"] != code.NOTHING)
    earlier, later = notable[notable < e], notable[notable > e]
    at = float(row["time"])
    return Moment(
        seconds=at,
        time=iso(rehearsal.clock, at),
        title=f"{say_time(rehearsal.clock, at)}: {_question(row, _waiting(rehearsal, e))}",
        decision=_decision(rehearsal, row, _waiting(rehearsal, e)),
        reasons=[*_policies(rehearsal, e), *_held_back(rehearsal, row), *_instances(rehearsal, row, at)],
        previous=float(rows["time"][earlier[-1]]) if len(earlier) else None,
        following=float(rows["time"][later[0]]) if len(later) else None,
    )


def _waiting(rehearsal: Rehearsal, e: int) -> list[tuple[str, int, float]]:
    """Policies that would act but wait: name, the count they want, seconds left."""
    views = rehearsal.result.state.views[e]
    pairs = zip(rehearsal.crew.group.policies, views, strict=True)
    return [(p.name, int(v["ask"]), float(v["wait"])) for p, v in pairs if int(v["state"]) == code.WAITING]


def _question(row: np.void, waiting: list[tuple[str, int, float]]) -> str:
    before, after = int(row["desired"]), int(row["decided"])
    asks = [ask for _, ask, _ in waiting] if int(row["outcome"]) == code.NOTHING else []
    if asks:
        return f"why {after}, and not {'more' if max(asks) > after else 'fewer'}?"
    if after > before:
        return f"why {after}, and not {before} as before?"
    if after < before:
        return f"why only {after}, and not {before} as before?"
    if int(row["wanted"]) > before:
        return f"why {after}, and not more?"
    if int(row["wanted"]) < before:
        return f"why {after}, and not fewer?"
    return f"why {after}, and not more or fewer?"


def _decision(rehearsal: Rehearsal, row: np.void, waiting: list[tuple[str, int, float]]) -> str:
    before, after, outcome = int(row["desired"]), int(row["decided"]), int(row["outcome"])
    winner = rehearsal.crew.group.policies[int(row["winner"])].name if int(row["winner"]) >= 0 else ""
    group = rehearsal.crew.group
    match outcome:
        case code.CHANGED:
            verb = "adds" if after > before else "removes"
            clipped = int(row["wanted"]) - after
            limit = f", {abs(clipped)} {'fewer' if clipped > 0 else 'more'} than it asked for" if clipped else ""
            return f"{winner} {verb} {abs(after - before)}{limit}: {before} → {after}."
        case code.AT_MAXIMUM:
            return f"{winner} asks for {int(row['wanted'])}, but the maximum is {group.maximum}."
        case code.AT_MINIMUM:
            return f"{winner} asks for {int(row['wanted'])}, but the minimum is {group.minimum}."
        case code.GROUP_WAITS:
            return f"{winner} asks for {int(row['wanted'])}, but the group waits after its last change."
        case code.NOT_AGREED:
            return f"{winner} asks for {int(row['wanted'])}, but not every policy that may remove agrees."
    if waiting:
        name, ask, left = max(waiting, key=lambda one: one[1])
        return f"{name} would make it {ask}, but waits {say_duration(left)} more: it stays at {after}."
    return f"Nothing asks for a change: it stays at {after}."


def _policies(rehearsal: Rehearsal, e: int) -> list[Reason]:
    reasons = []
    for policy, view in zip(rehearsal.crew.group.policies, rehearsal.result.state.views[e], strict=True):
        state, ask, key = int(view["state"]), int(view["ask"]), f"policies.{policy.name}"
        sight = say_sight(policy, float(view["value"]))
        tone = policy_tone(policy)
        match state:
            case code.NO_DATA:
                text = f"{policy.metric.label}: fewer than half of the samples of its window are there"
                reasons.append(Reason(text=text, outcome="no data", tone="quiet", key=key))
            case code.PAUSED:
                reasons.append(Reason(text=policy.name, outcome="paused", tone="quiet", key=key))
            case code.WAITING:
                left = say_duration(float(view["wait"]))
                reasons.append(Reason(text=sight, outcome=f"wants {ask}, waits {left} more", tone="wait", key=key))
            case code.ASKING:
                reasons.append(
                    Reason(
                        text=sight,
                        outcome=f"wants {ask}",
                        tone="add" if tone == "add" else "remove" if tone == "remove" else "both",
                        key=key,
                    )
                )
            case _:
                reasons.append(Reason(text=sight, outcome="asks nothing", tone="quiet", key=key))
    return reasons


def _held_back(rehearsal: Rehearsal, row: np.void) -> list[Reason]:
    group, outcome = rehearsal.crew.group, int(row["outcome"])
    reasons = []
    if float(row["group_wait"]) > 0:
        left = say_duration(float(row["group_wait"]))
        reasons.append(Reason(text="The group waits after its last change", outcome=f"{left} left", tone="wait", key="pace"))
    wanted = int(row["wanted"])
    if wanted > group.maximum and outcome in (code.CHANGED, code.AT_MAXIMUM):
        text = f"The maximum is {group.maximum}"
        reasons.append(Reason(text=text, outcome=f"{wanted - group.maximum} refused", tone="limit", key="runs"))
    if wanted < group.minimum and outcome in (code.CHANGED, code.AT_MINIMUM):
        text = f"The minimum is {group.minimum}"
        reasons.append(Reason(text=text, outcome=f"{group.minimum - wanted} kept", tone="limit", key="runs"))
    if outcome == code.NOT_AGREED:
        reasons.append(Reason(text="Removing needs every policy that may remove", outcome="not agreed", tone="limit"))
    return reasons


def _instances(rehearsal: Rehearsal, row: np.void, at: float) -> list[Reason]:
    rows = rehearsal.result.instances
    there = (rows["requested"] <= at) & (np.isnan(rows["gone"]) | (rows["gone"] > at))
    coming = there & (rows["serves"] > at) & (rows["requested"] < at)
    leaving = there & (rows["drains"] < at)
    reasons = []
    if coming.any():
        ready = say_time(rehearsal.clock, float(rows["serves"][coming].min())).split(" ", 3)[-1]
        text = f"{say_count(int(coming.sum()), 'instance')} booting or warming up, the first ready at {ready}"
        reasons.append(Reason(text=text, outcome=f"{int(row['serving'])} serving", tone="serving"))
    else:
        reasons.append(Reason(text="All that are wanted serve", outcome=f"{int(row['serving'])} serving", tone="serving"))
    if leaving.any():
        reasons.append(Reason(text="Draining, still paid for", outcome=say_number(int(leaving.sum())), tone="remove"))
    k = min(int(at / rehearsal.clock.tick), rehearsal.clock.ticks) - 1
    waiting = float(rehearsal.result.state.series["waiting"][max(0, k)])
    if waiting >= 0.5:
        reasons.append(Reason(text="Requests waiting for want of capacity", outcome=say_number(waiting), tone="limit"))
    return reasons
