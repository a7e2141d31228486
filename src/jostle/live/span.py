"""A span lived through at full pace, with nobody reaching in."""

from jostle.core.plan.clock import DAY
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearsal import Rehearsal, clock_of, crew_of
from jostle.core.rehearsal.rehearser import Rehearser, check_size
from jostle.live.life import Life


def lived(plan: Plan, group: str, seed: int, days: float | None = None, until: str | None = None) -> Rehearsal:
    """What came of so many days, or of the time until a moment on the plan's wall clock. Raises PlanError."""
    crew_of(plan, group)
    if until is not None:
        try:
            days = (clock_of(plan).epoch_of(until) - plan.start.timestamp()) / DAY
        except ValueError:
            raise PlanError([Problem(("until",), until, "write a time such as 2025-07-10T12:20")]) from None
        if days <= 0:
            raise PlanError([Problem(("until",), until, f"lies before the plan begins, {plan.start.isoformat()}")])
    plan = plan if days is None else plan.model_copy(update={"days": days})
    check_size(plan, plan.groups[group])
    if plan.groups[group].hands:
        said = "hands act in a rehearsal only; leave them out to live through it"
        raise PlanError([Problem(("groups", group, "hands"), None, said)])
    life = Life(plan, group, 1, seed, Rehearser())
    life.go_on(life.clock.seconds)
    return life.record()
