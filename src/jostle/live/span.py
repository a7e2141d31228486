"""A span lived through at full pace, with nobody reaching in."""

from jostle.core.plan.clock import DAY
from jostle.core.plan.place import all_aboard
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearsal import clock_of, crew_of
from jostle.core.rehearsal.rehearser import Rehearser, check_size
from jostle.live.life import Life, begun_together


def lived(plan: Plan, group: str, seed: int, days: float | None = None, until: str | None = None, dry: bool = False) -> Life:
    """A group that has lived so many days, or until a moment on the plan's wall clock; in a dry run the keeper only said what it
    would do. Raises PlanError."""
    crew_of(plan, group)
    if (seconds := seconds_of(plan, days, until)) is not None:
        days = seconds / DAY
    plan = plan if days is None else plan.model_copy(update={"days": days})
    check_size(plan, plan.groups[group])
    if plan.groups[group].hands:
        said = "hands act in a rehearsal only; leave them out to live through it"
        raise PlanError([Problem(("groups", group, "hands"), None, said)])
    lives = begun_together(plan, all_aboard(plan, group), {}, seed, Rehearser())
    life = next(one for one in lives if one.group == group)
    life.keeper.dry = dry
    life.go_on(life.clock.seconds)
    return life


def seconds_of(plan: Plan, days: float | None, until: str | None) -> float | None:
    """How long a span is that is told in days or by its end (s); None where neither is. Raises PlanError."""
    if until is None:
        return None if days is None else days * DAY
    try:
        seconds = clock_of(plan).epoch_of(until) - plan.start.timestamp()
    except ValueError:
        raise PlanError([Problem(("until",), until, "write a time such as 2025-07-10T12:20")]) from None
    if seconds <= 0:
        raise PlanError([Problem(("until",), until, f"lies before the plan begins, {plan.start.isoformat()}")])
    return seconds
