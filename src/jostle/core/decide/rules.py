"""The standing orders of a group in plain numbers: what `decide` goes by."""

import math
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Annotated, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.built.laid import Bytes, FloatBlock, Many, One
from jostle.core.decide.code import Compared, Criterion, Dial, Fold, Mode, Then
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import MOST_BANDS, LookaheadPolicy, MetricPolicy, Policy, PolicyKind, SparePolicy
from jostle.core.plan.policy.lookahead import SLOTS, USUAL
from jostle.core.plan.rollout import Rollout

RULES = np.dtype(
    [
        ("minimum", "i4"),
        ("maximum", "i4"),
        ("mode", "i1"),
        ("paused", "?"),
        ("cooldown", "f8"),  # s
        ("brake", "i4"),  # 0 for none
        ("brake_percent", "?"),
        ("brake_within", "f8"),  # s
        ("balance_zones", "?"),
        ("restarts", "i4"),  # of a broken instance, before it is replaced
        ("unit", "f8"),  # of one instance, what a Spare policy counts: requests, 1/s; jobs side by side; seats
        ("evaluate_every", "f8"),  # s
        ("period", "f8"),  # s between samples
        ("meter_delay", "f8"),  # s until a sample is known
        ("each", "f8"),  # of those, what one arrival a second takes
        ("order", "i4"),  # how many are ordered; 0 for none
        ("order_kept", "?"),
        ("order_until", "f8"),  # s
        ("order_ends", "?"),  # whether what runs then ends
    ],
    align=True,
)
POLICY = np.dtype(
    [
        ("kind", "i1"),
        ("metric", "i2"),  # row of the samples
        ("zone", "i2"),  # 0 for the whole group, else 1 + number of the zone
        ("below", "?"),
        ("level", "f8"),  # level to hold, threshold, or what is kept free, in the metric's unit
        ("tolerance", "f8"),  # share of the level
        ("window", "i4"),  # samples
        ("fold", "i1"),
        ("action", "i1"),
        ("amount", "i4"),
        ("percent", "?"),
        ("unit", "f8"),  # of one instance, what a Spare policy counts
        ("bands", "i1"),
        ("cooldown", "f8"),  # s
        ("removes", "?"),
        ("paused", "?"),
        ("lead", "f8"),  # s that it looks ahead
        ("advice", "?"),
        ("book", "i2"),  # its place among those that look ahead
    ],
)
ROLLOUT = np.dtype(
    [
        ("entry", "i2"),  # number in the calendar
        ("at", "f8"),  # s
        ("to", "i8"),  # version
        ("batch", "i4"),
        ("batch_percent", "?"),
        ("extra", "i4"),
        ("fewer", "i4"),
        ("watch", "f8"),
        ("pause", "f8"),
        ("patience", "f8"),
        ("canary", "i4"),  # 0 for none
        ("canary_percent", "?"),
        ("canary_watch", "f8"),
        ("compared", "i1"),
        ("worse_by", "f8"),
        ("false_alarms", "f8"),
        ("looks", "i4"),
        ("at_least", "f8"),
        ("worse", "i8"),
        ("unclear", "i8"),
    ],
    align=True,
)
_DIALS: dict[Metric, Dial] = {metric: Dial[metric.name] for metric in Metric if metric != Metric.OUTSIDE}


class Rules(NamedTuple):
    """One row of RULES, and the arrays beside it."""

    row: Annotated[np.ndarray, One(RULES)]
    policies: Annotated[np.ndarray, Many(POLICY)]
    bands: FloatBlock  # level and amount, shape (policies, bands, 2)
    criteria: Bytes
    usual: Annotated[np.ndarray, Many(USUAL, 2)]  # what those that look ahead know to begin with, shape (those, SLOTS)
    rollouts: Annotated[np.ndarray, Many(ROLLOUT)]  # in the order of time


def rows(shape: int | tuple[int, ...], kind: np.dtype) -> np.recarray:
    """Empty rows whose fields are attributes, in compiled code and in plain Python alike."""
    return np.zeros(shape, _with_attributes(kind)).view(np.recarray)


def uncleared(shape: int | tuple[int, ...], kind: np.dtype) -> np.recarray:
    """The same that hold anything: all of each is to be written before anybody looks at it."""
    return np.empty(shape, _with_attributes(kind)).view(np.recarray)


@cache
def _with_attributes(kind: np.dtype) -> np.dtype:
    return np.dtype((np.record, kind))


def copied_rows(kept: np.ndarray, number: int | None = None, room: int | None = None) -> Any:
    """The first so many rows once more, or all, and room for the others, or for so many in all, which is not touched. They are
    copied byte by byte: field by field takes ten times as long."""
    made = np.zeros((len(kept) if room is None else room, *kept.shape[1:]), kept.dtype)
    taken = kept[:number].view(np.ndarray).reshape(-1).view(np.uint8)
    made.reshape(-1).view(np.uint8)[: len(taken)] = taken
    return made.view(type(kept))


class Surroundings(NamedTuple):
    """What rules stand on besides the group: what an instance holds and an arrival a second takes of it, how long a launch and a
    reading take (s), the zones and the outside series in order, what is usual by the name of a history, when its order lapses
    (s), and when each rollout of the calendar comes, by its number there (s), and which version it brings; the vCPUs that an
    instance of a host has for copies."""

    unit: float
    each: float
    lead: float
    zones: list[str]
    outside: list[str]
    usual: Mapping[str, np.ndarray]
    lapse: float = math.inf
    rollouts: Sequence[tuple[int, float, int]] = ()
    vcpus: float = 0.0


def rules_of(group: Group, around: Surroundings) -> Rules:
    """The rules of a group."""
    row, brake = rows(1, RULES), group.leaving.brake
    row.minimum, row.maximum, row.unit, row.each = group.minimum, group.maximum, around.unit, around.each
    row.cooldown, row.paused, row.mode = group.cooldown, group.policies_paused, Mode[group.mode.upper()]
    if brake is not None:
        row.brake, row.brake_percent, row.brake_within = brake.at_most, brake.of == "percent", brake.within
    row.balance_zones, row.restarts = group.leaving.balance_zones, group.mending.restarts
    row.evaluate_every, row.period, row.meter_delay = group.evaluate_every, group.meters.period, group.meters.delay
    if group.order is not None:
        row.order, row.order_kept, row.order_ends = group.order.count, group.order.kind == "kept", group.order.then == "ended"
    row.order_until = around.lapse
    policies, bands = _policies(group, around)
    known = [Criterion[name.upper()] for name in group.leaving.criteria if name.upper() in Criterion.__members__]
    return Rules(row, policies, bands, np.array(known, np.int8), _usual(group, around), _rollouts(group, around))


def _usual(group: Group, around: Surroundings) -> np.recarray:
    """What each policy that looks ahead knows to begin with."""
    ahead = [policy for policy in group.policies if isinstance(policy, LookaheadPolicy)]
    found = rows((len(ahead), SLOTS), USUAL)
    for book, policy in enumerate(ahead):
        if policy.history is not None:
            found[book] = around.usual[policy.history]
    return found


def _rollouts(group: Group, around: Surroundings) -> np.recarray:
    """The rollouts in the order of time."""
    found = rows(len(around.rollouts), ROLLOUT)
    for row, (number, at, to) in zip(found, sorted(around.rollouts, key=lambda one: one[1]), strict=True):
        entry = group.calendar[number]
        assert isinstance(entry, Rollout)
        row.entry, row.at, row.to = number, at, to
        row.batch, row.batch_percent, row.extra, row.fewer = entry.batch, entry.of == "percent", entry.extra, entry.fewer
        row.watch, row.pause, row.patience = entry.watch, entry.pause, entry.patience
        if (canary := entry.canary) is not None:
            row.canary, row.canary_percent, row.canary_watch = canary.count, canary.of == "percent", canary.watch
            row.compared, row.worse_by, row.looks = Compared[canary.metric.upper()], canary.worse_by, canary.looks
            row.false_alarms, row.at_least = canary.false_alarms, canary.at_least
            row.worse, row.unclear = Then[canary.worse.upper()], Then[canary.unclear.upper()]
    return found


def _policies(group: Group, around: Surroundings) -> tuple[np.recarray, NDArray[np.float64]]:
    found = rows(len(group.policies), POLICY)
    bands = np.zeros((len(group.policies), MOST_BANDS, 2))
    books = 0
    for number, policy in enumerate(group.policies):
        row = found[number]
        row.window = max(1, round(policy.window / group.meters.period))
        row.fold, row.cooldown, row.paused = Fold[policy.fold.upper()], policy.cooldown, policy.paused
        row.metric = dial_row(policy, around.outside)
        row.unit = around.vcpus if isinstance(policy, SparePolicy) and policy.of == "cpu" else around.unit
        if isinstance(policy, MetricPolicy) and policy.zone is not None:
            row.zone = 1 + around.zones.index(policy.zone)
        row.kind, order = PolicyKind[policy.kind.upper()], policy.order()
        for field, value in order.numbers.items():
            row[field] = value
        if isinstance(policy, LookaheadPolicy):
            row.lead = policy.lead or around.lead
            row.book = books
            books += 1
        row.bands = len(order.bands)
        bands[number, : len(order.bands)] = np.array(order.bands).reshape(-1, 2)
    return found, bands


def dial_row(policy: Policy, outside: list[str]) -> int:
    """Row of the samples that a policy watches."""
    if isinstance(policy, LookaheadPolicy):
        return Dial.ARRIVALS
    if not isinstance(policy, MetricPolicy):
        return Dial.VCPUS_IN_USE if isinstance(policy, SparePolicy) and policy.of == "cpu" else Dial.IN_USE
    return metric_row(policy.metric) if policy.metric != Metric.OUTSIDE else len(Dial) + outside.index(policy.series or "")


def metric_row(metric: Metric) -> int:
    """Row of the samples of a metric that is not from outside."""
    return _DIALS[metric]


_METRICS: dict[Dial, Metric] = {dial: metric for metric, dial in _DIALS.items()}


def samples(outside: Sequence[str]) -> dict[str, str]:
    """What each row of samples is called, in their order, and its unit; those that no metric reads by itself, and those of
    outside series, are numbers."""
    told = [(dial, _METRICS.get(dial)) for dial in Dial]
    own = {(dial.name.lower() if one is None else one.value): "number" if one is None else one.unit for dial, one in told}
    return own | dict.fromkeys(outside, "number")
