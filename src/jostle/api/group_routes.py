"""Routes for the groups of a plan: listed, looked at and kept, compared, copied, renamed, retired and brought back."""

from typing import Any, get_args

from fastapi import APIRouter
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from jostle.api.axis import AxisMark, axis
from jostle.api.desk import Desk, DeskDep, PlanDep, Played
from jostle.api.problem import RESPONSES
from jostle.api.strips import Numbers, at_ms, numbers
from jostle.core.change.plan_change import renamed_group, without_group
from jostle.core.change.start import group_to_begin_with
from jostle.core.change.starts import STARTS, balancer_of, started
from jostle.core.checks.check import check
from jostle.core.checks.finding import Severity
from jostle.core.journal.sentence import group_line
from jostle.core.journal.together import Together, together
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem, validated
from jostle.core.plan.quantity import Count, Name, say_money, say_number
from jostle.core.plan.template import LaunchTemplate, TemplateVersion
from jostle.core.plan.work import KindOfWork
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.strip import Span, wanted
from jostle.core.rehearsal.verdict import Figures, PromiseVerdict
from jostle.records.store import KeptPlan, NameTaken, NotKept

router = APIRouter(prefix="/api", responses=RESPONSES)
ROW_BUCKETS = 280


class GroupRow(BaseModel):
    """A group as the overview shows it: its newest take."""

    name: str
    line: str
    host: str | None = Field(description="The group on whose instances its copies run")
    demand_name: str
    figures: Figures
    cost: str
    promises: list[PromiseVerdict]
    take: int
    unsaved: bool = Field(description="Whether its newest take differs from what is saved, which exports hold")
    findings: dict[Severity, int] = Field(description="How many there are of each severity")
    look: str | None = Field(description="The gravest of them that is not a note, in its words")
    demand: Numbers
    capacity: Numbers
    begin: float
    end: float
    days: list[AxisMark] = Field(description="Where days begin, ms since 1970 as `begin` and `end`")


class FirstVersion(BaseModel):
    """A launch template that is written with the group."""

    name: str
    machine: str
    image: str = ""
    boot_time: Any = Field(default="60 s", description="Mean time from the request to a machine that runs")
    warm_up: Any = "30 s"


class NewGroup(BaseModel):
    """A group in one sentence: so many to so many of a template, for work of a kind and size, against a demand."""

    name: str = Field(default="", description="May be left out while it is only looked at")
    template: str = Field(default="", description="Left out of a guest, which has a host")
    host: str | None = Field(default=None, description="The group on whose instances its copies run")
    vcpus: Any = Field(default=0.5, description="What a copy takes there")
    memory_gib: Any = Field(default=1.0, description="The same of memory")
    minimum: Count
    maximum: Count
    demand: str
    machine: str | None = Field(default=None, description="Where the template leaves it open")
    kind: KindOfWork = "requests"
    size: Any = Field(default="50 ms", description="CPU of a request, time of a job, or mean length of a session")
    seats: int = Field(default=100, description="Sessions that an instance has room for")
    start_count: Count | None = Field(default=None, description="Instances at the start; the minimum if left out")
    start: str | None = Field(default=None, description="A start whose settings it takes, in place of what its work begins with")
    with_policies: bool = Field(default=True, description="Whether it begins with policies that suit the work, or with none yet")
    load_balancer: bool = False
    subnets: list[str] | None = Field(default=None, description="Where the template leaves them open")
    firewall: list[str] | None = Field(default=None, description="The same for firewall rules")
    new_template: FirstVersion | None = Field(default=None, description="A template that is kept together with the group")


class Reason(BaseModel):
    about: str
    why: str


class StartRow(BaseModel):
    """A start as a new group would run it."""

    name: str
    title: str
    what: str
    minimum: int
    maximum: int
    load_balancer: bool
    cost: str
    kept: str
    short: str
    reasons: list[Reason]


class CopyName(BaseModel):
    name: str


@router.get("/plans/{plan_id}/groups")
def list_groups(kept: PlanDep, desk: DeskDep) -> list[GroupRow]:
    """The groups with their newest takes, by need: broken promises first, then errors, then warnings."""
    rows = [_row(kept, desk, name) for name in kept.plan.groups]
    ranked = sorted(rows, key=_need, reverse=True)
    return [one for row in ranked if row.host is None for one in (row, *(guest for guest in ranked if guest.host == row.name))]


def _need(row: GroupRow) -> tuple[int, int, int]:
    broken = sum(not promise.kept for promise in row.promises)
    return broken, row.findings.get("error", 0), row.findings.get("warning", 0)


def _row(kept: KeptPlan, desk: Desk, name: str) -> GroupRow:
    take = desk.take(kept, name, None)
    played, _ = desk.changed(kept, name, take, [], None)
    return _told(played, name, take.number, take.document != kept.plan.groups[name].model_dump(mode="json"))


def _told(played: Played, name: str, take: int, unsaved: bool) -> GroupRow:
    rehearsal, ticks = played.rehearsal, played.rehearsal.clock.ticks
    span = Span.of(ticks, 0, ticks, ROW_BUCKETS)
    findings = check(rehearsal, rehearsal.bounds)
    severities = [finding.severity for finding in findings]
    return GroupRow(
        name=name,
        line=group_line(rehearsal.crew),
        host=rehearsal.crew.group.host,
        demand_name=rehearsal.crew.group.demand,
        figures=played.verdict.figures,
        cost=say_money(played.verdict.figures.cost, rehearsal.plan.currency),
        promises=played.verdict.promises,
        take=take,
        unsaved=unsaved,
        findings={severity: number for severity in get_args(Severity) if (number := severities.count(severity))},
        look=next((finding.text for finding in findings if finding.severity != "note"), None),
        demand=numbers(span.buckets(wanted(rehearsal)).high),
        capacity=numbers(span.buckets(rehearsal.result.series["capacity"]).mean),
        begin=at_ms(rehearsal, 0),
        end=at_ms(rehearsal, rehearsal.clock.seconds),
        days=[mark for mark in axis(rehearsal.clock, span) if mark.day],
    )


@router.get("/plans/{plan_id}/together")
def show_together(kept: PlanDep, desk: DeskDep) -> Together | None:
    """All groups as one: what they cost, which promises they keep, how near they come to their quotas."""
    plays = [desk.changed(kept, name, desk.take(kept, name, None), [], None)[0] for name in kept.plan.groups]
    return together([(played.rehearsal, played.verdict) for played in plays]) if plays else None


@router.get("/plans/{plan_id}/retired")
def list_retired(kept: PlanDep, desk: DeskDep) -> list[str]:
    """Groups that were retired and can be brought back."""
    return desk.store.retired(kept)


@router.post("/plans/{plan_id}/groups", status_code=201)
def add_group(wanted: NewGroup, kept: PlanDep, desk: DeskDep) -> GroupRow:
    """Keep a new group, with policies that suit its work to start from, or with none."""
    free_name(wanted.name, kept, desk)
    desk.store.change_plan(kept, _with_new(kept.plan, wanted), new_group=wanted.name)
    return _row(desk.store.plan(kept.id), desk, wanted.name)


@router.post("/plans/{plan_id}/groups/look")
def look_at_group(wanted: NewGroup, kept: PlanDep, desk: DeskDep) -> GroupRow:
    """The week of a new group before anything is kept."""
    wanted = wanted.model_copy(update={"name": "new-group"})
    return _told(desk.look(_with_new(kept.plan, wanted), wanted.name, 1), wanted.name, 0, True)


def _with_new(plan: Plan, wanted: NewGroup) -> Plan:
    """The plan with a new group, and with its template where that is new. Raises PlanError."""
    own = {"machine": wanted.machine or None, "subnets": wanted.subnets, "firewall": wanted.firewall}
    document = {
        "template": wanted.template,
        "launch": {field: value for field, value in own.items() if value is not None},
        "minimum": wanted.minimum,
        "maximum": wanted.maximum,
        "demand": wanted.demand,
        "start_count": wanted.start_count,
        **group_to_begin_with(wanted.kind, wanted.size, wanted.seats),
        **({} if wanted.with_policies else {"policies": []}),
    }
    if wanted.host is not None:
        place = {"vcpus": wanted.vcpus, "memory_gib": wanted.memory_gib}
        document |= {"template": "", "launch": {}, "host": wanted.host, "place": place}
    if wanted.start is not None:
        if wanted.start not in STARTS or STARTS[wanted.start].kind != wanted.kind:
            fit = ", ".join(name for name, start in STARTS.items() if start.kind == wanted.kind)
            raise PlanError([Problem(("start",), wanted.start, f"is no start for {wanted.kind}; there is: {fit}")])
        document |= started(wanted.start, plan.start.astimezone(plan.zone), _sold(plan, wanted))
    if (first := wanted.new_template) is not None:
        checked_name(first.name)
        if first.name in plan.templates:
            raise NameTaken(f"there is a template called {first.name} already; choose another name")
        written = {"machine": first.machine, "image": first.image or None, "boot_time": first.boot_time, "warm_up": first.warm_up}
        version = validated(TemplateVersion, written)
        document["template"] = first.name
        plan = plan.model_copy(update={"templates": {**plan.templates, first.name: LaunchTemplate(versions=[version])}})
    if wanted.load_balancer and document["template"] in plan.templates:
        document["load_balancer"] = balancer_of(plan.templates[document["template"]].versions[-1])
    return with_group(plan, wanted.name, document)


def _sold(plan: Plan, wanted: NewGroup) -> bool:
    """Whether its machine is sold as spot."""
    template = plan.templates.get(wanted.template)
    own = wanted.new_template.machine if wanted.new_template else wanted.machine
    machine = plan.machines.get(own or (template.versions[-1].machine if template else None) or "")
    return machine is not None and machine.spot is not None


@router.post("/plans/{plan_id}/groups/starts")
def compare_starts(wanted: NewGroup, kept: PlanDep, desk: DeskDep) -> list[StartRow]:
    """The starts for a kind of work side by side, each rehearsed as this group, with the reason of each of its choices."""
    rows = []
    for name, start in STARTS.items():
        if start.kind != wanted.kind:
            continue
        each = wanted.model_copy(
            update={"name": "new-group", "start": name, "minimum": start.minimum, "maximum": start.maximum}
            | {"load_balancer": start.balancer, "start_count": None}
        )
        figures = desk.look(_with_new(kept.plan, each), each.name, 1).verdict.figures
        reasons = [Reason(about=about.split(".")[-1].replace("_", " "), why=why) for about, why in start.reasons.items()]
        rows.append(
            StartRow(
                name=name,
                title=start.title,
                what=start.what,
                minimum=start.minimum,
                maximum=start.maximum,
                load_balancer=start.balancer,
                cost=say_money(figures.cost, figures.currency),
                kept=f"{figures.promises_kept} of {figures.promises}",
                short=f"{say_number(figures.short_minutes)} min",
                reasons=reasons,
            )
        )
    return rows


@router.post("/plans/{plan_id}/groups/{group}/name")
def rename_group(group: str, wanted: CopyName, kept: PlanDep, desk: DeskDep) -> GroupRow:
    """Give a group another name. Its arrangements and takes go with it."""
    crew_of(kept.plan, group)
    free_name(wanted.name, kept, desk)
    desk.store.rename_group(kept, renamed_group(kept.plan, group, wanted.name), group, wanted.name)
    return _row(desk.store.plan(kept.id), desk, wanted.name)


@router.post("/plans/{plan_id}/groups/{group}/copies", status_code=201)
def copy_group(group: str, wanted: CopyName, kept: PlanDep, desk: DeskDep) -> GroupRow:
    """A new group like a group's newest take."""
    free_name(wanted.name, kept, desk)
    document = desk.take(kept, group, None).document
    desk.store.change_plan(kept, with_group(kept.plan, wanted.name, document), new_group=wanted.name)
    return _row(desk.store.plan(kept.id), desk, wanted.name)


@router.delete("/plans/{plan_id}/groups/{group}", status_code=204)
def retire_group(group: str, kept: PlanDep, desk: DeskDep) -> None:
    """Take a group out of the plan, with the budgets and watches that are about it alone. Its arrangements and takes stay, and it
    can be brought back."""
    crew_of(kept.plan, group)
    desk.store.change_plan(kept, without_group(kept.plan, group))


@router.post("/plans/{plan_id}/groups/{group}/return", status_code=201)
def bring_back_group(group: str, kept: PlanDep, desk: DeskDep) -> GroupRow:
    """Bring a retired group back, as its newest arrangement has it."""
    if group in kept.plan.groups:
        raise NameTaken(f"{group} is not retired")
    saved = desk.store.arrangements(kept.id, group)
    if not saved:
        raise NotKept(f"there never was a group called {group}")
    desk.store.change_plan(kept, with_group(kept.plan, group, saved[0].document))
    return _row(desk.store.plan(kept.id), desk, group)


def free_name(name: str, kept: KeptPlan, desk: Desk) -> None:
    """Refuse a name that is none, or that a group has or had, whose arrangements stand under it. Raises PlanError, NameTaken."""
    checked_name(name)
    if name in kept.plan.groups or desk.store.arrangements(kept.id, name):
        raise NameTaken(f"there is or was a group called {name} already; choose another name")


def checked_name(name: str) -> None:
    """Refuse a name that is none. Raises PlanError."""
    try:
        TypeAdapter(Name).validate_python(name)
    except ValidationError:
        message = "a name is lower-case letters, digits and hyphens, such as booking-web"
        raise PlanError([Problem(("name",), name, message)]) from None
