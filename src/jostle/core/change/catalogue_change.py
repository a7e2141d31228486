"""Edits of the catalogue of a plan: its machines and prices, its subnets, firewall rules and databases, its outside metrics."""

from typing import Any, Literal

from jostle.core.change.start import FIREWALL_RULE, subnet_to_begin_with
from jostle.core.plan.launch import launch_of
from jostle.core.plan.machine_type import types_of
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.policy import MetricPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import with_setting

NAMED = ("machines", "subnets", "firewall", "databases", "outside")


def changed_catalogue(plan: Plan, op: Literal["set", "add", "remove"], path: str, value: Any) -> Plan:
    """A plan with a value of its catalogue set, one more in it (`value` is its name), or one removed that nothing names.

    It is added like the one at the path, or, at the path of subnets or firewall rules, as these begin. Raises PlanError.
    """
    document, (part, _, name) = plan.model_dump(mode="json", by_alias=True), path.partition(".")
    name = name.split(".")[0]
    if op == "set":
        return read_plan(with_setting(document, path, value))
    known = document[part] if part in NAMED else {}
    begun = {
        "subnets": subnet_to_begin_with(plan.zones),
        "firewall": FIREWALL_RULE,
        "databases": {"subnets": list(plan.subnets)[:1]},
    }.get(part)
    if name not in known and not (op == "add" and name == "" and begun):
        raise PlanError([Problem((path,), None, f"is not there; there is: {', '.join(known) or 'nothing yet'}")])
    if op == "add":
        if value in known:
            raise PlanError([Problem((part,), value, "is there already; give it another name")])
        return read_plan({**document, part: {**known, str(value): known[name] if name else begun}})
    if users := users_of(plan, part)[name]:
        raise PlanError([Problem((path,), None, f"is used by {', '.join(users)}")])
    return read_plan({**document, part: {one: its for one, its in known.items() if one != name}})


def users_of(plan: Plan, part: str) -> dict[str, list[str]]:
    """Groups, launch templates and databases that name each of a part of the catalogue, each once."""
    found: dict[str, list[str]] = {name: [] for name in getattr(plan, part)}

    def note(names: list[str] | None, user: str) -> None:
        for name in names or ():
            if user not in found[name]:
                found[name].append(user)

    for group, one in plan.groups.items():
        launch = launch_of(plan, group)
        match part:
            case "machines":
                note([each.launch.machine for each in types_of(plan, group, launch)], group)
            case "outside":
                note([p.series for p in one.policies if isinstance(p, MetricPolicy) and p.series], group)
            case "databases":
                note([one.database] if one.database else None, group)
            case "subnets":
                note([*(launch.fields.subnets or ()), *((one.load_balancer and one.load_balancer.subnets) or ())], group)
            case _:
                note(getattr(launch.fields, part), group)
    if part == "subnets":
        for name, database in plan.databases.items():
            note(database.subnets, name)
    for template, kept in plan.templates.items() if part in ("machines", "subnets", "firewall") else ():
        for version in kept.versions:
            named = ([version.machine] if version.machine else None) if part == "machines" else getattr(version, part)
            note([name for name in named or () if name in found], template)
    return found
