"""A decision explained from its own rows: why this count, and not more or less."""

from typing import Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict

from jostle.core.decide.code import Cause, Outcome, Stance
from jostle.core.journal.rollout_line import rollout_in, stand_text
from jostle.core.journal.sentence import MODES
from jostle.core.plan.clock import Clock
from jostle.core.plan.group import Group
from jostle.core.plan.order import LAPSES, Order
from jostle.core.plan.policy import Expected
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.word import listed

Tone = Literal["add", "remove", "both", "wait", "limit", "serving", "quiet", "calendar"]


class Reason(BaseModel):
    """One line of an explanation; `key` is the sentence of the page that it concerns, where there is one."""

    model_config = ConfigDict(frozen=True)

    text: str
    outcome: str
    tone: Tone
    key: str | None = None


class Explanation(BaseModel):
    """A decision in words."""

    model_config = ConfigDict(frozen=True)

    question: str
    decision: str
    not_more: str
    not_fewer: str
    reasons: list[Reason]


class Told(NamedTuple):
    """A group and what was written of one decision about it: a row of DECISION and the views of its policies; and its clock."""

    group: Group
    row: np.void
    views: np.ndarray
    clock: Clock


def explain(group: Group, row: np.void, views: np.ndarray, clock: Clock) -> Explanation:
    """One decision explained. `views` are rows of VIEW, one for each policy of the group."""
    told = Told(group, row, views, clock)
    waiting = _waiting(told)
    return Explanation(
        question=_question(row, waiting),
        decision=_decision(told, waiting),
        not_more=_why_not(told, more=True),
        not_fewer=_why_not(told, more=False),
        reasons=[*_policies(told), *_held_back(told)],
    )


def decision_text(group: Group, row: np.void, views: np.ndarray, clock: Clock) -> str:
    """Of `explain`, what was decided alone."""
    told = Told(group, row, views, clock)
    return _decision(told, _waiting(told))


def _waiting(told: Told) -> list[tuple[str, int, float]]:
    """Policies that would act but wait: name, the count they want, seconds left."""
    pairs = zip(told.group.policies, told.views, strict=True)
    return [(p.name, int(v["ask"]), float(v["wait"])) for p, v in pairs if int(v["state"]) == Stance.WAITING]


def _question(row: np.void, waiting: list[tuple[str, int, float]]) -> str:
    before, after = int(row["desired"]), int(row["decided"])
    asks = [ask for _, ask, _ in waiting] if int(row["outcome"]) == Outcome.NOTHING else []
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


def _entry(told: Told, number: int) -> str:
    """A calendar entry by name and order; several entries of removals have none that closes them."""
    if number < 0:
        return "the calendar lets nothing be removed now"
    entry = told.group.calendar[number]
    return f"{entry.name}: {entry.in_short()}"


def _stopper(told: Told) -> str | None:
    """What held the decision back, in words; None where nothing did."""
    group, row = told.group, told.row
    match Outcome(int(row["outcome"])):
        case Outcome.AT_MAXIMUM:
            return f"the maximum is {group.maximum}"
        case Outcome.AT_MINIMUM:
            return f"the minimum is {group.minimum}"
        case Outcome.AT_QUOTA:
            return f"the quota leaves {int(row['quota'])}"
        case Outcome.AT_PINNED:
            return "the rest is pinned"
        case Outcome.GROUP_WAITS:
            return "the group waits after its last change"
        case Outcome.NOT_AGREED:
            return "not every policy that may remove agrees"
        case Outcome.EXPECTED:
            return f"{_expecting(told)} expects that all are needed"
        case Outcome.MODE_HOLDS:
            return f"policies may {MODES[group.mode]}"
        case Outcome.FROZEN if int(row["entry"]) < 0:
            return "the group is held by hand"
        case Outcome.FROZEN | Outcome.NO_REMOVALS | Outcome.AT_FLOOR | Outcome.AT_CEILING | Outcome.ASLEEP:
            return f"the calendar has {_entry(told, int(row['entry']))}" if int(row["entry"]) >= 0 else _entry(told, -1)
        case Outcome.BRAKED:
            brake = group.leaving.brake
            assert brake is not None
            most = f"{brake.at_most} %" if brake.of == "percent" else str(brake.at_most)
            return f"the brake lets {most} go within {say_duration(brake.within)}"
        case Outcome.NOTHING | Outcome.CHANGED:
            return None


def _decision(told: Told, waiting: list[tuple[str, int, float]]) -> str:
    row = told.row
    before, after = int(row["desired"]), int(row["decided"])
    winner = told.group.policies[int(row["winner"])].name if int(row["winner"]) >= 0 else ""
    if before != after:
        verb = "adds" if after > before else "removes"
        if int(row["cause"]) == Cause.ORDER:
            said = order_text(told.group.order, told.clock, float(row["time"]))
            return f"{_sentence(said)}: {before} → {after}."
        if int(row["cause"]) != Cause.POLICY:
            who = "The group wakes" if int(row["entry"]) < 0 else f"The calendar ({_entry(told, int(row['entry']))})"
            return f"{who}{'' if int(row['entry']) < 0 else f' {verb} {abs(after - before)}'}: {before} → {after}."
        clipped = int(row["wanted"]) - after
        limit = f", {abs(clipped)} {'fewer' if clipped > 0 else 'more'} than it asked for" if clipped else ""
        return f"{winner} {verb} {abs(after - before)}{limit}: {before} → {after}."
    stopper = _stopper(told)
    if stopper is not None and winner:
        return f"{winner} asks for {int(row['wanted'])}, but {stopper}: it stays at {after}."
    if stopper is not None:
        return f"It stays at {after}: {stopper}."
    if waiting:
        name, ask, left = max(waiting, key=lambda one: one[1])
        return f"{name} would make it {ask}, but waits {say_duration(left)} more: it stays at {after}."
    return f"Nothing asks for a change: it stays at {after}."


def _why_not(told: Told, more: bool) -> str:
    """Why the count did not go further up, or down, at an evaluation."""
    row, group = told.row, told.group
    before, after, wanted = int(row["desired"]), int(row["decided"]), int(row["wanted"])
    stopper, clip = _stopper(told), abs(wanted - after)
    went = after > before if more else after < before
    asked = wanted > before if more else wanted < before
    if went and asked:
        return f"{clip} held back by the limits." if clip else "It was all that was asked for."
    if asked and stopper is not None:
        return f"{_sentence(stopper)}."
    able = [(n, policy) for n, policy in enumerate(group.policies) if (policy.adds if more else policy.removes)]
    if not able:
        return f"No policy {'adds' if more else 'removes'}."
    if after == (group.maximum if more else group.minimum):
        return f"The {'maximum' if more else 'minimum'} is {after}."
    said = []
    for number, policy in able:
        view = told.views[number]
        state, ask = int(view["state"]), int(view["ask"])
        if state == Stance.NO_DATA:
            said.append(f"{policy.name} has no data")
        elif state == Stance.PAUSED:
            said.append(f"{policy.name} is paused")
        elif state == Stance.WAITING and (ask > before if more else ask < before):
            said.append(f"{policy.name} waits {say_duration(float(view['wait']))} more")
        else:
            said.append(f"{policy.name} asks for none")
    return f"{listed(said)}."


def _policies(told: Told) -> list[Reason]:
    reasons = []
    for policy, view in zip(told.group.policies, told.views, strict=True):
        state, ask, key = int(view["state"]), int(view["ask"]), f"policies.{policy.name}"
        value = float(view["value"])
        expected = expected_by(view, float(told.row["time"]), told.clock)
        sight = policy.name if np.isnan(value) else policy.sight(value, told.group.work, expected)
        tone = policy.tone
        match state:
            case Stance.NO_DATA:
                text = f"{policy.name}: {policy.blind}"
                reasons.append(Reason(text=text, outcome="no data", tone="quiet", key=key))
            case Stance.PAUSED:
                reasons.append(Reason(text=policy.name, outcome="paused", tone="quiet", key=key))
            case Stance.ADVISING:
                before = int(told.row["desired"])
                would = f"would want {ask}" if ask > before else f"{ask} would do" if ask < before else "would ask nothing"
                reasons.append(Reason(text=f"{sight} (advice)", outcome=would, tone="quiet", key=key))
            case Stance.WAITING:
                left = say_duration(float(view["wait"]))
                reasons.append(Reason(text=sight, outcome=f"wants {ask}, waits {left} more", tone="wait", key=key))
            case Stance.ASKING:
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


def expected_by(view: np.void, time: float, clock: Clock) -> Expected | None:
    """What a view at a time (s from the start) tells of what is expected; None of a policy that does not look ahead."""
    if not int(view["weeks"]):
        return None
    at = clock.at(clock.first + time + float(view["ahead"]))
    return Expected(at, int(view["weeks"]), float(view["ratio"]))


def _expecting(told: Told) -> str:
    """The policies that look ahead and ask for none to go."""
    pairs = zip(told.group.policies, told.views, strict=True)
    return listed([p.name for p, view in pairs if int(view["weeks"]) and int(view["state"]) == Stance.QUIET])


def _held_back(told: Told) -> list[Reason]:
    group, row = told.group, told.row
    outcome = int(row["outcome"])
    reasons = []
    if float(row["group_wait"]) > 0:
        left = say_duration(float(row["group_wait"]))
        reasons.append(Reason(text="The group waits after its last change", outcome=f"{left} left", tone="wait", key="pace"))
    wanted = int(row["wanted"])
    if wanted > group.maximum and outcome in (Outcome.CHANGED, Outcome.AT_MAXIMUM):
        text = f"The maximum is {group.maximum}"
        reasons.append(Reason(text=text, outcome=f"{wanted - group.maximum} refused", tone="limit", key="runs"))
    if wanted < group.minimum and outcome in (Outcome.CHANGED, Outcome.AT_MINIMUM):
        text = f"The minimum is {group.minimum}"
        reasons.append(Reason(text=text, outcome=f"{group.minimum - wanted} kept", tone="limit", key="runs"))
    if outcome == Outcome.NOT_AGREED:
        reasons.append(Reason(text="Removing needs every policy that may remove", outcome="not agreed", tone="limit"))
    if outcome == Outcome.EXPECTED:
        reasons.append(Reason(text=_sentence(_stopper(told) or ""), outcome="held back", tone="limit"))
    if outcome in (Outcome.MODE_HOLDS, Outcome.BRAKED, Outcome.AT_QUOTA, Outcome.AT_PINNED):
        reasons.append(Reason(text=_sentence(_stopper(told) or ""), outcome="held back", tone="limit", key="pace"))
    if group.order is not None:
        text = _sentence(order_text(group.order, told.clock, float(row["time"])))
        outcome_words = "decides" if int(row["cause"]) == Cause.ORDER else "held back"
        reasons.append(Reason(text=text, outcome=outcome_words, tone="calendar", key="order"))
    if (rollout := rollout_in(group, int(row["rollout"]))) is not None:
        key, text = f"calendar.{rollout.name}", stand_text(rollout, row)
        reasons.append(Reason(text=text, outcome="changes no count", tone="calendar", key=key))
    if int(row["entry"]) >= 0:
        entry = group.calendar[int(row["entry"])]
        outcome_words = "decides" if int(row["cause"]) in (Cause.CALENDAR, Cause.SLEEP) else "held back"
        key = f"calendar.{entry.name}"
        reasons.append(
            Reason(text=f"Calendar: {_entry(told, int(row['entry']))}", outcome=outcome_words, tone="calendar", key=key)
        )
    return reasons


def order_text(order: Order | None, clock: Clock, time: float) -> str:
    """What an order asks for at a time (s from the start)."""
    if order is None:
        return "the order"
    lapsed = order.until is not None and clock.first + time >= clock.epoch_of(order.until)
    if lapsed:
        return f"the order has lapsed; what runs {LAPSES[order.then]}"
    again = "what is gone is asked for again" if order.kind == "kept" else "what is gone is not asked for again"
    return f"{order.count} are ordered; {again}"


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}"
