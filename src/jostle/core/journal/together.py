"""All groups of a plan at once: what they cost a week, which promises they keep, and how near they come to their quotas."""

from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from jostle.core.costs.price import bills
from jostle.core.engine.mix import types_of
from jostle.core.journal.event import say_time
from jostle.core.plan.quantity import say_money
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.verdict import WEEK_DAYS, Verdict

HOUR = 3600.0


class Part(BaseModel):
    """A part of the cost of a week."""

    model_config = ConfigDict(frozen=True)

    name: str
    cost: str
    share: float = Field(description="Of the whole")


class QuotaUse(BaseModel):
    """Instances of a machine over all groups: the most that ran at once, on average over the hour of most."""

    model_config = ConfigDict(frozen=True)

    machine: str
    quota: int | None
    most: float
    at: str = Field(description="When that hour began")
    share: float | None = Field(description="Of the quota, where there is one")


class Together(BaseModel):
    model_config = ConfigDict(frozen=True)

    cost: str
    groups: list[Part] = Field(description="The dearest first")
    what: list[Part] = Field(description="What it is paid for, the dearest first")
    promises: int
    promises_kept: int
    machines: list[QuotaUse] = Field(description="The nearest to its quota first")


def together(played: Sequence[tuple[Rehearsal, Verdict]]) -> Together:
    """The groups of a plan, rehearsed and judged, as one. There is at least one of them."""
    currency = played[0][0].plan.currency
    by_group: dict[str, Decimal] = {}
    by_what: dict[str, Decimal] = defaultdict(Decimal)
    for rehearsal, judged in played:
        week = Decimal(WEEK_DAYS) / Decimal(str(rehearsal.plan.days))
        # What a guest's part of its host costs is told with the host.
        by_group[rehearsal.group_name] = (judged.figures.cost - rehearsal.host_share) * week
        for bill in bills(rehearsal.result, rehearsal.crew):
            by_what[bill.what] += bill.amount * week
    return Together(
        cost=say_money(round(sum(by_group.values(), Decimal()), 2), currency),
        groups=_parts(by_group, currency),
        what=_parts(by_what, currency),
        promises=sum(judged.figures.promises for _, judged in played),
        promises_kept=sum(judged.figures.promises_kept for _, judged in played),
        machines=_machines([rehearsal for rehearsal, _ in played]),
    )


def _parts(amounts: dict[str, Decimal], currency: str) -> list[Part]:
    whole = sum(amounts.values(), Decimal())
    dearest = sorted(amounts.items(), key=lambda one: one[1], reverse=True)
    return [
        Part(name=name, cost=say_money(round(amount, 2), currency), share=float(amount / whole) if whole else 0.0)
        for name, amount in dearest
        if amount
    ]


def _machines(rehearsals: list[Rehearsal]) -> list[QuotaUse]:
    running: dict[str, NDArray[np.float64]] = {}
    quotas: dict[str, int | None] = {}
    for rehearsal in (one for one in rehearsals if one.crew.group.host is None):
        for number, one in enumerate(rehearsal.crew.every_type):
            name, hourly = one.launch.machine, _hourly(rehearsal, number)
            running[name] = running[name] + hourly if name in running else hourly
            quotas[name] = one.machine.quota
    found = []
    for machine, hourly in running.items():
        worst, quota = int(hourly.argmax()), quotas[machine]
        most = float(hourly[worst])
        if not most and len(running) > 1:
            continue
        found.append(
            QuotaUse(
                machine=machine,
                quota=quota,
                most=round(most, 1),
                at=say_time(rehearsals[0].clock, worst * HOUR),
                share=None if not quota else round(most / quota, 3),
            )
        )
    return sorted(found, key=lambda one: (one.share or 0.0, one.most), reverse=True)


def _hourly(rehearsal: Rehearsal, machine_type: int) -> NDArray[np.float64]:
    """Instances on a type of machine that ran, on average over each hour of the span."""
    result, length = rehearsal.result, rehearsal.clock.seconds
    lives = result.lives
    lives = lives[types_of(result.instances["kind"][lives["instance"]]) == machine_type]
    ends = np.where(np.isnan(lives["end"]), length, lives["end"])
    edges = np.append(np.arange(0.0, length, HOUR), length)
    ran = _since(lives["begin"], edges) - _since(ends, edges)
    return np.asarray(np.diff(ran) / np.diff(edges))


def _since(times: NDArray[np.float64], edges: NDArray[np.float64]) -> NDArray[np.float64]:
    """How long it has been, at each edge, since all those times that lie before it, together."""
    ordered = np.sort(times)
    before = np.searchsorted(ordered, edges)
    summed = np.concatenate([[0.0], np.cumsum(ordered)])
    return np.asarray(before * edges - summed[before])
