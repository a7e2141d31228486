"""One evaluation explained: why this count, and not more or less."""

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from jostle.core.engine import code
from jostle.core.journal.calendar_line import entry_words
from jostle.core.journal.event import iso, say_time
from jostle.core.journal.policy_line import policy_tone, say_sight
from jostle.core.journal.sentence import MODES
from jostle.core.journal.word import listed, say_count
from jostle.core.plan.quantity import say_duration, say_number
from jostle.core.rehearsal.rehearsal import Rehearsal

Tone = Literal["add", "remove", "both", "wait", "limit", "serving", "quiet", "calendar"]


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
    not_more: str
    not_fewer: str
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
        not_more=_why_not(rehearsal, e, more=True),
        not_fewer=_why_not(rehearsal, e, more=False),
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


def _entry(rehearsal: Rehearsal, number: int) -> str:
    """A calendar entry by name and order; several entries of removals have none that closes them."""
    if number < 0:
        return "the calendar lets nothing be removed now"
    entry = rehearsal.crew.group.calendar[number]
    return f"{entry.name}: {entry_words(entry)}"


def _stopper(rehearsal: Rehearsal, row: np.void) -> str | None:
    """What held the decision back, in words; None where nothing did."""
    group = rehearsal.crew.group
    match int(row["outcome"]):
        case code.AT_MAXIMUM:
            return f"the maximum is {group.maximum}"
        case code.AT_MINIMUM:
            return f"the minimum is {group.minimum}"
        case code.AT_QUOTA:
            return f"the quota leaves {int(row['quota'])}"
        case code.AT_PINNED:
            return "the rest is pinned"
        case code.GROUP_WAITS:
            return "the group waits after its last change"
        case code.NOT_AGREED:
            return "not every policy that may remove agrees"
        case code.MODE_HOLDS:
            return f"policies may {MODES[group.mode]}"
        case code.FROZEN | code.NO_REMOVALS | code.AT_FLOOR | code.AT_CEILING | code.ASLEEP:
            return f"the calendar has {_entry(rehearsal, int(row['entry']))}" if int(row["entry"]) >= 0 else _entry(rehearsal, -1)
        case code.BRAKED:
            brake = group.leaving.brake
            assert brake is not None
            most = f"{brake.at_most} %" if brake.of == "percent" else str(brake.at_most)
            return f"the brake lets {most} go within {say_duration(brake.within)}"
    return None


def _decision(rehearsal: Rehearsal, row: np.void, waiting: list[tuple[str, int, float]]) -> str:
    before, after = int(row["desired"]), int(row["decided"])
    winner = rehearsal.crew.group.policies[int(row["winner"])].name if int(row["winner"]) >= 0 else ""
    if before != after:
        verb = "adds" if after > before else "removes"
        if int(row["cause"]) != code.BY_POLICY:
            who = "The group wakes" if int(row["entry"]) < 0 else f"The calendar ({_entry(rehearsal, int(row['entry']))})"
            return f"{who}{'' if int(row['entry']) < 0 else f' {verb} {abs(after - before)}'}: {before} → {after}."
        clipped = int(row["wanted"]) - after
        limit = f", {abs(clipped)} {'fewer' if clipped > 0 else 'more'} than it asked for" if clipped else ""
        return f"{winner} {verb} {abs(after - before)}{limit}: {before} → {after}."
    stopper = _stopper(rehearsal, row)
    if stopper is not None and winner:
        return f"{winner} asks for {int(row['wanted'])}, but {stopper}: it stays at {after}."
    if stopper is not None:
        return f"It stays at {after}: {stopper}."
    if waiting:
        name, ask, left = max(waiting, key=lambda one: one[1])
        return f"{name} would make it {ask}, but waits {say_duration(left)} more: it stays at {after}."
    return f"Nothing asks for a change: it stays at {after}."


def _why_not(rehearsal: Rehearsal, e: int, more: bool) -> str:
    """Why the count did not go further up, or down, at an evaluation."""
    row, group = rehearsal.result.decisions[e], rehearsal.crew.group
    before, after, wanted = int(row["desired"]), int(row["decided"]), int(row["wanted"])
    stopper, clip = _stopper(rehearsal, row), abs(wanted - after)
    went = after > before if more else after < before
    asked = wanted > before if more else wanted < before
    if went and asked:
        return f"{clip} held back by the limits." if clip else "It was all that was asked for."
    if asked and stopper is not None:
        return f"{_sentence(stopper)}."
    ways = ("add", "both") if more else ("remove", "both")
    able = [(n, policy) for n, policy in enumerate(group.policies) if policy_tone(policy) in ways]
    if not able:
        return f"No policy {'adds' if more else 'removes'}."
    if after == (group.maximum if more else group.minimum):
        return f"The {'maximum' if more else 'minimum'} is {after}."
    told = []
    for number, policy in able:
        view = rehearsal.result.state.views[e, number]
        state, ask = int(view["state"]), int(view["ask"])
        if state == code.NO_DATA:
            told.append(f"{policy.name} has no data")
        elif state == code.PAUSED:
            told.append(f"{policy.name} is paused")
        elif state == code.WAITING and (ask > before if more else ask < before):
            told.append(f"{policy.name} waits {say_duration(float(view['wait']))} more")
        else:
            told.append(f"{policy.name} asks for none")
    return f"{listed(told)}."


def _policies(rehearsal: Rehearsal, e: int) -> list[Reason]:
    reasons = []
    for policy, view in zip(rehearsal.crew.group.policies, rehearsal.result.state.views[e], strict=True):
        state, ask, key = int(view["state"]), int(view["ask"]), f"policies.{policy.name}"
        value = float(view["value"])
        sight = policy.name if np.isnan(value) else say_sight(policy, value, rehearsal.crew.group.work)
        tone = policy_tone(policy)
        match state:
            case code.NO_DATA:
                text = f"{policy.name}: fewer than half of the samples of its window are there"
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
    if outcome in (code.MODE_HOLDS, code.BRAKED, code.AT_QUOTA, code.AT_PINNED):
        reasons.append(Reason(text=_sentence(_stopper(rehearsal, row) or ""), outcome="held back", tone="limit", key="pace"))
    if int(row["entry"]) >= 0:
        entry = group.calendar[int(row["entry"])]
        outcome_words = "decides" if int(row["cause"]) in (code.BY_CALENDAR, code.BY_SLEEP) else "held back"
        key = f"calendar.{entry.name}"
        reasons.append(
            Reason(text=f"Calendar: {_entry(rehearsal, int(row['entry']))}", outcome=outcome_words, tone="calendar", key=key)
        )
    return reasons


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}"


def _instances(rehearsal: Rehearsal, row: np.void, at: float) -> list[Reason]:
    rows = rehearsal.result.instances
    there = (rows["requested"] <= at) & (np.isnan(rows["gone"]) | (rows["gone"] > at))
    coming = there & (rows["serves"] > at) & (rows["requested"] < at) & np.isfinite(rows["serves"])
    leaving = there & (rows["drains"] < at) & (rows["state"] != code.STOPPED)
    reasons = []
    if rehearsal.result.state.series["desired"][max(0, min(int(at / rehearsal.clock.tick), rehearsal.clock.ticks) - 1)] == 0:
        reasons.append(Reason(text="No instance is wanted", outcome=f"{int(row['serving'])} serving", tone="serving"))
    elif coming.any():
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
        noun = rehearsal.crew.group.work.kind.capitalize()
        reasons.append(Reason(text=f"{noun} waiting for want of capacity", outcome=say_number(waiting), tone="limit"))
    return reasons
