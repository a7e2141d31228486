"""The plan: the whole document, and the check that everything it names exists."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime
from itertools import pairwise
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

from pydantic import Field, ValidationError, ValidationInfo, field_validator

from jostle.core.plan.budget import Budget
from jostle.core.plan.demand import Demand
from jostle.core.plan.group import Group
from jostle.core.plan.layer import Level
from jostle.core.plan.machine import Machine, Prices
from jostle.core.plan.measure import wrong
from jostle.core.plan.misfit import misfits
from jostle.core.plan.model import Model
from jostle.core.plan.outside import Outside
from jostle.core.plan.parameter import Scalar, with_parameters
from jostle.core.plan.place import guests_of
from jostle.core.plan.problem import PlanError, Problem, problems_of
from jostle.core.plan.quantity import Duration, Name, Number, read_duration, say_duration
from jostle.core.plan.spot_prices import SpotPrices
from jostle.core.plan.template import Database, FirewallRule, LaunchTemplate, Subnet, TemplateRules, TemplateVersion
from jostle.core.plan.wall import known_zone, within_reach
from jostle.core.plan.watch import Watch

NOTHING = Demand(layers=[Level(kind="level", rate=0.0)])
TICKS = (1, 2, 5, 10, 15, 20, 30, 60)


class Plan(Model):
    """Version 1 of the plan document."""

    jostle: Literal[1] = Field(description="Version of the plan document")
    name: str = Field(min_length=1, max_length=200)
    currency: str = Field(default="EUR", pattern=r"^[A-Z]{3}$", description="ISO 4217 code")
    time_zone: str = Field(description="IANA name, such as Atlantic/Faroe")
    start: datetime = Field(description="First instant; wall-clock time in the plan's zone unless it has an offset")
    days: Number = Field(default=7.0, ge=0.001, le=400, description="Length of a rehearsal in days of 24 hours")
    tick: Duration = Field(default=10.0, description="Step of the engine: 1, 2, 5, 10, 15, 20, 30 or 60 s")
    parameters: dict[str, Scalar] = Field(default_factory=dict, max_length=500, description="Values used elsewhere as ${name}")
    uses: dict[str, Annotated[str, Field(max_length=20000)]] = Field(
        default_factory=dict,
        max_length=2000,
        description="Where parameters are used, by path, as it was written; a plan file writes ${name} in the place itself",
    )
    prices: Prices = Prices()
    machines: dict[Name, Machine] = Field(default_factory=dict, max_length=1000)
    subnets: dict[Name, Subnet] = Field(default_factory=dict, max_length=200)
    databases: dict[Name, Database] = Field(default_factory=dict, max_length=100)
    firewall: dict[Name, FirewallRule] = Field(default_factory=dict, max_length=500)
    budgets: list[Budget] = Field(default_factory=list, max_length=100, description="What it is to cost at the most")
    watches: list[Watch] = Field(default_factory=list, max_length=100, description="When somebody is to be told")
    template_rules: TemplateRules = TemplateRules()
    templates: dict[Name, LaunchTemplate] = Field(default_factory=dict, max_length=500)
    groups: dict[Name, Group] = Field(default_factory=dict, max_length=200)
    demands: dict[Name, Demand] = Field(default_factory=dict, max_length=500)
    market: SpotPrices | None = Field(default=None, description="Prices that spot really had, in place of courses by chance")
    outside: dict[Name, Outside] = Field(default_factory=dict, max_length=200, description="Metrics measured elsewhere")

    @field_validator("time_zone")
    @classmethod
    def _known_zone(cls, name: str) -> str:
        return known_zone(name)

    @field_validator("start", mode="before")
    @classmethod
    def _read_start(cls, value: Any, info: ValidationInfo) -> Any:
        try:
            start = value if isinstance(value, datetime) else datetime.fromisoformat(str(value))
        except ValueError:
            raise wrong("write a date and time such as 2025-07-07T00:00") from None
        within_reach(start)
        zone = info.data.get("time_zone")
        return start.replace(tzinfo=ZoneInfo(zone)) if start.tzinfo is None and zone else start

    @field_validator("tick")
    @classmethod
    def _known_tick(cls, tick: float) -> float:
        if tick not in TICKS:
            raise wrong("the tick is one of 1, 2, 5, 10, 15, 20, 30 or 60 s")
        return tick

    @property
    def zone(self) -> ZoneInfo:
        return ZoneInfo(self.time_zone)

    def demand_of(self, group: Group) -> Demand:
        """The demand of a group; one in which nothing comes where it has none of its own."""
        return self.demands[group.demand] if group.demand else NOTHING

    @property
    def zones(self) -> list[str]:
        """The zones in which subnets lie, each once, in the order of the subnets."""
        return list(dict.fromkeys(subnet.zone for subnet in self.subnets.values()))


def read_plan(data: Any) -> Plan:
    """A plan from plain data (what YAML or JSON holds). Raises PlanError with every problem at once."""
    if not isinstance(data, dict):
        raise PlanError([Problem((), data, "a plan is a mapping with jostle: 1, name, time_zone, start, ...")])
    data, uses, problems = with_parameters(data)
    if uses:
        data = {**data, "uses": {**(data.get("uses") or {}), **uses}}
    problems += _reference_problems(data)
    try:
        plan = Plan.model_validate(data)
    except ValidationError as error:
        raise PlanError(problems_of(error, Plan) + problems) from None
    problems = problems or [*market_problems(plan), *(problem for name in plan.groups for problem in misfits(plan, name))]
    if problems:
        raise PlanError(problems)
    return plan


def market_problems(plan: Plan) -> Iterator[Problem]:
    """What is wrong with the prices that a plan brings."""
    for number, one in enumerate(plan.market.courses or () if plan.market else ()):
        place: tuple[str | int, ...] = ("market", "courses", number)
        machine = plan.machines.get(one.machine)
        if machine is None or one.zone not in plan.zones:
            field, known = ("machine", list(plan.machines)) if machine is None else ("zone", plan.zones)
            yield Problem(
                (*place, field), getattr(one, field), f"no {field} has this name; there is: {', '.join(known) or 'none'}"
            )
        elif machine.spot is None:
            message = "is not sold as spot; say in the catalogue how often it is taken back, with spot"
            yield Problem((*place, "machine"), one.machine, message)
        elif len(one.times) != len(one.prices) or any(b <= a for a, b in pairwise(one.times)):
            yield Problem((*place, "times"), len(one.times), "each price has a time of its own, later than the one before")


def with_group(plan: Plan, name: str, data: Any) -> Plan:
    """The plan with one group replaced or added, from plain data. Raises PlanError with paths within the group."""
    around = {"templates": plan.templates, "demands": plan.demands, "tick": plan.tick, "groups": {name: data}}
    problems = [replace(p, path=p.path[2:]) for p in _reference_problems(around)]
    try:
        group = Group.model_validate(data)
    except ValidationError as error:
        raise PlanError(problems_of(error, Group) + problems) from None
    if problems:
        raise PlanError(problems)
    changed = plan.model_copy(update={"groups": {**plan.groups, name: group}})
    if unfit := [problem for one in (name, *guests_of(changed, name)) for problem in misfits(changed, one)]:
        raise PlanError([replace(p, path=p.path[2:]) if p.path[:2] == ("groups", name) else p for p in unfit])
    return changed


def versions_lost(before: Plan, after: Plan) -> list[str]:
    """Launch templates of which a saved version is changed or gone; versions may only be added."""
    lost = []
    for name, template in before.templates.items():
        later = after.templates.get(name)
        if later is None or later.versions[: len(template.versions)] != template.versions:
            lost.append(name)
    return lost


def with_version(plan: Plan, template: str, version: TemplateVersion) -> Plan:
    """The plan with one more version of a launch template. Raises PlanError where a group that follows it could not launch."""
    versions = [*plan.templates[template].versions, version]
    changed = plan.model_copy(update={"templates": {**plan.templates, template: LaunchTemplate(versions=versions)}})
    if unfit := [problem for name in plan.groups for problem in misfits(changed, name)]:
        raise PlanError(unfit)
    return changed


def _entries(data: dict[str, Any], section: str) -> dict[str, dict[str, Any]]:
    found = data.get(section)
    return {str(k): v for k, v in found.items() if isinstance(v, dict)} if isinstance(found, dict) else {}


def _missing(path: tuple[str | int, ...], value: Any, noun: str, known: dict[str, Any]) -> Problem | None:
    if not isinstance(value, str) or value in known:
        return None
    names = ", ".join(sorted(known)) or "none is defined yet"
    return Problem(path, value, f"no {noun} has this name; there is: {names}")


def _reference_problems(data: dict[str, Any]) -> list[Problem]:
    types, templates = data.get("machines") or {}, data.get("templates") or {}
    demands = data.get("demands") or {}
    tick = data.get("tick", 10)
    found: list[Problem | None] = []
    for name, template in _entries(data, "templates").items():
        versions = template.get("versions")
        cards = enumerate(versions) if isinstance(versions, list) else [(None, template)]
        for number, version in cards:
            path: tuple[str | int, ...] = ("templates", name, *(() if number is None else ("versions", number)), "machine")
            machine = version.get("machine") if isinstance(version, dict) else None
            found.append(_missing(path, machine, "machine", types if isinstance(types, dict) else {}))
    rules = data.get("template_rules")
    allowed = rules.get("machines") if isinstance(rules, dict) else None
    for number, machine in enumerate(allowed if isinstance(allowed, list) else []):
        found.append(
            _missing(("template_rules", "machines", number), machine, "machine", types if isinstance(types, dict) else {})
        )
    for name, group in _entries(data, "groups").items():
        found += _left_out(("groups", name), group)
        for field, noun, known in (("template", "launch template", templates), ("demand", "demand", demands)):
            known = known if isinstance(known, dict) else {}
            found.append(_missing(("groups", name, field), group.get(field) or None, noun, known))
        meters = group.get("meters") if isinstance(group.get("meters"), dict) else {}
        found.append(_uneven(("groups", name, "evaluate_every"), group.get("evaluate_every", 60), tick))
        found.append(_uneven(("groups", name, "meters", "period"), (meters or {}).get("period", 60), tick))
    groups = data.get("groups")
    for section in ("budgets", "watches"):
        listed = data.get(section)
        for place, one in enumerate(listed if isinstance(listed, list) else []):
            if isinstance(one, dict) and isinstance(groups, dict):
                found.append(_missing((section, place, "group"), one.get("group"), "group", groups))
    return [problem for problem in found if problem]


def _left_out(path: tuple[str | int, ...], group: dict[str, Any]) -> Iterator[Problem]:
    """What a group has to say of where it runs and what comes to it."""
    work = group.get("work")
    kind = work.get("kind") if isinstance(work, dict) else None
    if not group.get("template") and not group.get("host"):
        yield Problem((*path, "template"), None, "is missing: name a launch template, or the host on which its copies run")
    if group.get("template") and group.get("host"):
        message = "a guest runs on its host and launches nothing; leave out the template, or the host"
        yield Problem((*path, "template"), group["template"], message)
    if not group.get("demand") and kind != "hosting":
        yield Problem((*path, "demand"), None, "is missing: name the demand that it is rehearsed against")


def _uneven(path: tuple[str | int, ...], value: Any, tick: Any) -> Problem | None:
    try:
        seconds, step = read_duration(value), read_duration(tick)
    except ValueError:
        return None
    if step <= 0 or seconds <= 0 or abs(seconds / step - round(seconds / step)) < 1e-9:
        return None
    return Problem(path, value, f"must be a whole multiple of the tick of {say_duration(step)}")
