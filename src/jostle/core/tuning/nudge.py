"""How close is trouble: what a group's promises still hold against, one change of the world at a time."""

from collections.abc import Iterator
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict

from jostle.core.journal.event import say_time
from jostle.core.plan.clock import DAY
from jostle.core.plan.incident import SlowBoots, ZoneLost
from jostle.core.plan.launch import NOWHERE
from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_share
from jostle.core.rehearsal.rehearsal import Rehearsal, crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import verdict
from jostle.core.tuning.goal import more_of

STEPS = tuple(round(0.05 * k, 2) for k in range(1, 9))
SEEDS, MORE_SEEDS = (1, 2, 3), tuple(range(2001, 2021))
SLOWER, LOST_FOR = 1.5, 3600.0
WEEK = 7 * DAY


class Nudge(BaseModel):
    """One change, whether every promise is still kept, and in words what breaks it and when."""

    model_config = ConfigDict(frozen=True)

    kind: str
    holds: bool
    text: str


def nudges(plan: Plan, group: str, rehearser: Rehearser) -> list[Nudge]:
    """More demand, more seeds, slower boots, a zone lost at the busiest time; a group without a promise holds against all."""
    return list(_nudges(plan, group, rehearser))


def _nudges(plan: Plan, group: str, rehearser: Rehearser) -> Iterator[Nudge]:
    broken = _broken(plan, group, rehearser, SEEDS)
    if broken is not None:
        yield Nudge(kind="as it is", holds=False, text=f"As it is, it {_said(broken)}.")
        return
    held = 0.0
    for more in STEPS:
        broken = _broken(_busier(plan, group, 1 + more), group, rehearser, SEEDS)
        if broken is not None:
            text = f"It holds to {say_share(held)} more demand; at {say_share(more)} it {_said(broken)}."
            yield Nudge(kind="demand", holds=False, text=text)
            break
        held = more
    else:
        yield Nudge(kind="demand", holds=True, text=f"It holds to {say_share(held)} more demand at the least.")
    missed = sum(_broken(plan, group, rehearser, (seed,)) is not None for seed in MORE_SEEDS)
    kept = f"kept in {len(MORE_SEEDS) - missed} of {len(MORE_SEEDS)} more seeds"
    yield Nudge(kind="seeds", holds=missed == 0, text=f"Its promises are {kept}.")
    start = plan.start.astimezone(plan.zone).replace(tzinfo=None).isoformat()
    slow = SlowBoots.model_validate({"kind": "slow_boots", "at": start, "factor": SLOWER, "for": min(WEEK, plan.days * DAY)})
    yield _told(plan, group, rehearser, slow, "boots", "boots half as slow again")
    busiest = _busiest(rehearser.rehearse(plan, group, SEEDS[0]))
    zones = crew_of(plan, group).launch.zones
    if zones != [NOWHERE]:
        lost = ZoneLost.model_validate({"kind": "zone_lost", "at": busiest, "zone": zones[0], "for": LOST_FOR})
        yield _told(plan, group, rehearser, lost, "zone", f"zone {zones[0]} lost for an hour at the busiest time")


def _told(plan: Plan, group: str, rehearser: Rehearser, incident: Any, kind: str, what: str) -> Nudge:
    broken = _broken(_with(plan, group, incident), group, rehearser, SEEDS)
    if broken is None:
        return Nudge(kind=kind, holds=True, text=f"It holds with {what}.")
    return Nudge(kind=kind, holds=False, text=f"With {what} it {_said(broken)}.")


def _broken(plan: Plan, group: str, rehearser: Rehearser, seeds: tuple[int, ...]) -> Rehearsal | None:
    """The first rehearsal in which a promise is broken."""
    for seed in seeds:
        rehearsal = rehearser.rehearse(plan, group, seed)
        if not all(promise.kept for promise in verdict(rehearsal, whole=False).promises):
            return rehearsal
    return None


def _said(rehearsal: Rehearsal) -> str:
    """What becomes of it: when it was short for longest, or else the promise that is broken."""
    short = rehearsal.result.series["short"]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], short, [False]]).astype(int)))
    if len(edges):
        begins, ends = edges[::2], edges[1::2]
        worst = int(begins[int((ends - begins).argmax())])
        return f"breaks {say_time(rehearsal.clock, worst * rehearsal.clock.tick)}"
    broken = [promise.text for promise in verdict(rehearsal, whole=False).promises if not promise.kept]
    return f"no longer keeps {broken[0]}"


def _busier(plan: Plan, group: str, factor: float) -> Plan:
    """The plan with the group's demand so many times as high."""
    name = plan.groups[group].demand
    return plan.model_copy(update={"demands": {**plan.demands, name: more_of(plan.demands[name], factor)}})


def _with(plan: Plan, group: str, incident: Any) -> Plan:
    name = plan.groups[group].demand
    demand = plan.demands[name]
    more = demand.model_copy(update={"incidents": [*demand.incidents, incident]})
    return plan.model_copy(update={"demands": {**plan.demands, name: more}})


def _busiest(rehearsal: Rehearsal) -> str:
    at = float(np.argmax(rehearsal.demand_rate)) * rehearsal.clock.tick
    return rehearsal.clock.at(rehearsal.clock.first + at).replace(tzinfo=None, second=0, microsecond=0).isoformat()
