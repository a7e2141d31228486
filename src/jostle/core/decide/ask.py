"""What one policy asks for."""

import math

import numpy as np

from jostle.core.compiled import hot, leaf
from jostle.core.decide.code import NOBODY, Stance
from jostle.core.decide.memory import Memory
from jostle.core.decide.rules import Rules
from jostle.core.decide.sight import Sight, fold_window, instances_metered, published_by
from jostle.core.plan.policy import PolicyKind
from jostle.core.plan.policy.hold import hold_ask
from jostle.core.plan.policy.lookahead import lookahead_ask
from jostle.core.plan.policy.spare import spare_ask
from jostle.core.plan.policy.trigger import banded, trigger_ask


@hot
def wish(rules: Rules, sight: Sight, p: int, value: float, published: int, desired: int) -> int:
    """The count that policy p wishes for at a value of its metric."""
    policy = rules.policies[p]
    if policy.kind == PolicyKind.HOLD:
        metered = instances_metered(sight.samples[0, policy.metric], sight.metered, published, policy.window)
        return hold_ask(value, metered, policy.level, policy.tolerance, desired)
    if policy.kind == PolicyKind.SPARE:
        return spare_ask(value, policy.unit, policy.level, policy.percent, policy.tolerance, desired)
    if policy.kind == PolicyKind.TRIGGER:
        amount = banded(value, policy.below, policy.amount, rules.bands[p], policy.bands)
        return trigger_ask(value, policy.below, policy.level, policy.action, amount, policy.percent, desired)
    if policy.kind == PolicyKind.LOOKAHEAD:
        return lookahead_ask(value, rules.row[0].each, rules.row[0].unit, policy.level)
    return desired


@hot
def value_of(rules: Rules, memory: Memory, sight: Sight, p: int, published: int) -> float:
    """What policy p goes by: its folded metric, or what it expects; nan without data."""
    policy = rules.policies[p]
    if policy.kind == PolicyKind.LOOKAHEAD:
        return memory.books[policy.book].expected
    return fold_window(sight.samples[policy.zone, policy.metric], published, policy.window, policy.fold)


@hot
def ask(rules: Rules, memory: Memory, sight: Sight, p: int, time: float, published: int, views: np.ndarray, e: int) -> None:
    """Stage 1: what policy p sees, what it is doing and which count it asks for."""
    desired = memory.row[0].desired
    policy = rules.policies[p]
    view = views[e, p]
    value = value_of(rules, memory, sight, p, published)
    view.value, view.ask = value, desired
    view.wait = max(0.0, memory.waits[p] - time)
    if policy.kind == PolicyKind.LOOKAHEAD:
        book = memory.books[policy.book]
        view.ahead, view.off, view.weeks, view.ratio = book.ahead, book.off, book.weeks, book.ratio
    else:
        view.ahead, view.off, view.weeks, view.ratio = 0.0, 0.0, 0, 0.0
    if policy.paused or rules.row[0].paused:
        view.state = Stance.PAUSED
    elif math.isnan(value):
        view.state = Stance.NO_DATA
    else:
        wanted = wish(rules, sight, p, value, published, desired)
        if policy.advice:
            view.ask, view.state = wanted, Stance.ADVISING
        elif wanted == desired or (wanted < desired and not policy.removes):
            view.state = Stance.QUIET
        else:
            view.ask = wanted
            view.state = Stance.WAITING if time < memory.waits[p] else Stance.ASKING


@leaf
def ask_now(rules: Rules, memory: Memory, sight: Sight, p: int, time: float, desired: int) -> int:
    """The count that policy p would ask for now, a trigger as if its level were passed; NOBODY where it has no reading."""
    policy = rules.policies[p]
    published = published_by(time, rules.row[0].meter_delay, rules.row[0].period)
    value = value_of(rules, memory, sight, p, published)
    if math.isnan(value):
        return NOBODY
    if policy.kind == PolicyKind.TRIGGER:
        apart = 1e-9 * (1.0 + abs(policy.level))
        value = min(value, policy.level - apart) if policy.below else max(value, policy.level + apart)
    return wish(rules, sight, p, value, published, desired)
