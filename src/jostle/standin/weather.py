"""What comes and what goes wrong from now on: changes of one group's demand while it lives."""

from typing import Any

import numpy as np

from jostle.core.decide.rules import rows
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import SENT, State
from jostle.core.plan.demand import Demand
from jostle.core.plan.incident import NoCapacity, SlowBoots, ZoneLost
from jostle.core.plan.plan import Plan

INCIDENTS: dict[str, type[ZoneLost | NoCapacity | SlowBoots]] = {
    "zone_lost": ZoneLost,
    "no_capacity": NoCapacity,
    "slow_boots": SlowBoots,
}


def incident_of(kind: str, at: str, length: float, zone: str | None, amount: float) -> ZoneLost | NoCapacity | SlowBoots:
    """An incident that begins at a moment. `amount` is so many times as slow boots take."""
    given: dict[str, Any] = {"at": at, "for": length}
    if kind == "slow_boots":
        given["factor"] = amount
    elif zone is not None:
        given["zone"] = zone
    return INCIDENTS[kind].model_validate({"kind": kind, **given})


def own_demand(plan: Plan, group: str) -> Demand:
    return plan.demand_of(plan.groups[group])


def with_demand(plan: Plan, group: str, demand: Demand) -> Plan:
    """The plan in which one group alone meets another demand."""
    own = f"{group}-now"
    groups = {**plan.groups, group: plan.groups[group].model_copy(update={"demand": own})}
    return plan.model_copy(update={"demands": {**plan.demands, own: demand}, "groups": groups})


def from_now_on(setup: Setup, old: Setup, state: State) -> tuple[Setup, State]:
    """A setup of another demand, to go on with where an old one stands: what came before stays what came."""
    played = int(state.now["tick"][0])
    arrivals, means = setup.arrivals.copy(), setup.means.copy()
    arrivals[:played], means[:played] = old.arrivals[:played], old.means[:played]
    known = state.incidents
    more = np.zeros(len(setup.incidents) - len(known), known.dtype)
    sent = state.sent if len(state.sent) or not len(setup.thinks) else rows(setup.ticks, SENT)
    state.now["next_due"] = 0.0
    going_on = setup._replace(arrivals=arrivals, means=means, line=old.line, rules=old.rules)
    return going_on, state._replace(incidents=np.concatenate([known, more]), sent=sent)
