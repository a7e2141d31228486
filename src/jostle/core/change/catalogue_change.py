"""Edits of the catalogue of a plan: its machines and its prices."""

from typing import Any, Literal

from jostle.core.plan.launch import launch_of
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import with_setting


def changed_catalogue(plan: Plan, op: Literal["set", "add", "remove"], path: str, value: Any) -> Plan:
    """A plan with a value of its catalogue set, a machine like another added, or one that nothing names removed.

    Raises PlanError.
    """
    document, name = plan.model_dump(mode="json"), path.partition(".")[2].split(".")[0]
    machines = document["machines"]
    if op != "set" and (not path.startswith("machines.") or name not in machines):
        raise PlanError([Problem((path,), None, f"is no machine; there is: {', '.join(machines)}")])
    match op:
        case "set":
            return read_plan(with_setting(document, path, value))
        case "add":
            if value in machines:
                raise PlanError([Problem(("machines",), value, "is there already; give it another name")])
            return read_plan({**document, "machines": {**machines, str(value): machines[name]}})
        case "remove":
            users = [group for group in plan.groups if launch_of(plan, group).machine == name]
            named = [one for one, t in plan.templates.items() if any(version.machine == name for version in t.versions)]
            if users or named:
                raise PlanError([Problem((path,), None, f"is used by {', '.join([*users, *named])}")])
            return read_plan({**document, "machines": {one: its for one, its in machines.items() if one != name}})
