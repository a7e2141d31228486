"""Edits of which groups a plan has, with all that names them."""

from typing import Any

from jostle.core.plan.place import guests_of
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.word import listed


def renamed_group(plan: Plan, group: str, name: str) -> Plan:
    """The plan with a group under another name, in its place; budgets, watches and uses of parameters go with it. Raises
    PlanError where others run on it, whose arrangements name it."""
    _refuse_host(plan, group, "retire them first, or make a copy of it under that name")
    groups = {name if one == group else one: its for one, its in plan.groups.items()}
    old, new = f"groups.{group}.", f"groups.{name}."
    uses = {new + path.removeprefix(old) if path.startswith(old) else path: text for path, text in plan.uses.items()}
    named: dict[str, Any] = {
        part: [one.model_copy(update={"group": name}) if one.group == group else one for one in getattr(plan, part)]
        for part in ("budgets", "watches")
    }
    return plan.model_copy(update={"groups": groups, "uses": uses, **named})


def without_group(plan: Plan, group: str) -> Plan:
    """The plan without a group, and without the budgets and watches that were about it alone. Raises PlanError where others run
    on it."""
    _refuse_host(plan, group, "give them another host, or retire them first")
    groups = {name: one for name, one in plan.groups.items() if name != group}
    left = {part: [one for one in getattr(plan, part) if one.group != group] for part in ("budgets", "watches")}
    return plan.model_copy(update={"groups": groups, **left})


def _refuse_host(plan: Plan, group: str, instead: str) -> None:
    if guests := guests_of(plan, group):
        raise PlanError([Problem(("groups", group), group, f"carries {listed(guests)}; {instead}")])
