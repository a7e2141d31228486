"""Routes for launch templates: their versions, which never change, where each is used, how they differ."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import Desk, DeskDep, PlanDep
from jostle.api.group_routes import checked_name
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.api.seen import Part, changed, read
from jostle.core.checks.draft import FieldFinding, check_draft
from jostle.core.journal.template_line import rules_words, users
from jostle.core.plan.editor import Editor
from jostle.core.plan.launch import version_number
from jostle.core.plan.plan import Plan, read_plan, with_group, with_version
from jostle.core.plan.problem import PlanError, validated
from jostle.core.plan.quantity import each_typed, say_money
from jostle.core.plan.template import LaunchTemplate, TemplateVersion, version_differences
from jostle.core.plan.template_field import FIELDS, TemplateField, read_fields, template_fields, written_field
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.verdict import verdict
from jostle.core.today import today
from jostle.records.store import KeptPlan, NameTaken, NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/templates", responses=RESPONSES)
_RULES = {
    "template_rules.required_tags": Editor(kind="text", label="Tags, with commas", blank=True),
    "template_rules.machines": Editor(kind="text", label="Machines, with commas", blank=True),
    "template_rules.shut_ports": Editor(kind="text", label="Ports, with commas", blank=True),
}


class VersionView(BaseModel):
    number: int
    version: TemplateVersion
    written: dict[str, str] = Field(description="Each field as it stands in the sheet")
    differs: list[str] = Field(description="Fields that differ from the version before")
    used_by: list[str] = Field(description="Groups that follow it")
    still_open: list[str] = Field(description="Fields that a group has to fill in")


class TemplateView(BaseModel):
    name: str
    versions: list[VersionView] = Field(description="Newest first")


class Draft(BaseModel):
    """A version as it is written, field by field; an empty field is left open."""

    fields: dict[str, str] = Field(max_length=30)


class Effect(BaseModel):
    """What a group's span costs, and would cost with a draft; or why it could not be."""

    group: str
    now: str
    then: str
    refused: str | None = None


class DraftView(BaseModel):
    """What is noticed about a draft, and what the groups that follow the template would become."""

    findings: list[FieldFinding]
    effects: list[Effect]


class NewTemplate(BaseModel):
    name: str
    like: str | None = Field(default=None, description="The template to start from")
    like_group: str | None = Field(default=None, description="Or the group whose launches to start from")


class VersionDifference(BaseModel):
    field: str
    before: Any
    after: Any


@router.get("")
def list_templates(kept: PlanDep) -> list[TemplateView]:
    return [_view(kept.plan, name) for name in kept.plan.templates]


@router.post("", status_code=201)
def add_template(wanted: NewTemplate, kept: PlanDep, desk: DeskDep) -> TemplateView:
    """A new template whose first version is the newest of another, or what a group launches with its blanks filled in."""
    checked_name(wanted.name)
    if wanted.name in kept.plan.templates:
        raise NameTaken(f"there is a launch template called {wanted.name} already; choose another name")
    if wanted.like_group:
        launch = crew_of(kept.plan, wanted.like_group).launch
        version = TemplateVersion(**launch.fields.model_dump(), note=f"As {wanted.like_group} launches")
    else:
        version = template_of(kept.plan, wanted.like or "").versions[-1].model_copy(update={"note": f"As {wanted.like}"})
    return _add(wanted.name, version, kept, desk)


def _add(name: str, first: TemplateVersion, kept: KeptPlan, desk: Desk) -> TemplateView:
    """Keep a new template of one version."""
    templates = {**kept.plan.templates, name: LaunchTemplate(versions=[first])}
    changed = kept.plan.model_copy(update={"templates": templates})
    desk.store.change_plan(kept, changed)
    return _view(changed, name)


def keep_version(name: str, version: TemplateVersion, kept: KeptPlan, desk: Desk) -> TemplateView:
    """Keep a version as that of a new template, or as the newest of one that is there."""
    checked_name(name)
    return (add_version if name in kept.plan.templates else _add)(name, _dated(version, kept.plan), kept, desk)


def _dated(version: TemplateVersion, plan: Plan) -> TemplateVersion:
    """A version that says when it was made: today, on the plan's clock, unless it does already."""
    return version.model_copy(update={"made": version.made or today(plan.zone)})


@router.post("/findings")
def check_version(version: dict[str, Any], kept: PlanDep) -> list[FieldFinding]:
    """What is noticed about a version before it is saved, field by field."""
    return check_draft(kept.plan, version)


@router.get("/fields")
def list_fields(kept: PlanDep) -> list[TemplateField]:
    """The fields of a template, and what may stand in each."""
    return template_fields(kept.plan)


class RulesChange(BaseModel):
    """One of the rules, as it is typed: names or ports with commas; nothing for none."""

    field: Literal["required_tags", "machines", "shut_ports"]
    value: str = Field(max_length=5000)


@router.get("/rules")
def show_rules(kept: Annotated[KeptPlan, read("template_rules")]) -> list[EditableWord]:
    """What every version has to keep to, as the words of a sentence."""
    return _rules(kept.plan)


def _rules(plan: Plan) -> list[EditableWord]:
    return [editable(word, _RULES.get(word.path or "")) for word in rules_words(plan.template_rules)]


@router.post("/rules")
def change_rules(change: RulesChange, part: Annotated[Part, changed("template_rules")]) -> list[EditableWord]:
    """Change what every version has to keep to. Versions that are there stay; what they break is found."""
    none: list[str] | None = None if change.field == "machines" else []
    document = part.plan.model_dump(mode="json")
    rules = {**document["template_rules"], change.field: each_typed(change.value) or none}
    return _rules(part.keep(read_plan({**document, "template_rules": rules})))


@router.post("/{name}/drafts")
def look_at_draft(name: str, draft: Draft, kept: PlanDep, desk: DeskDep) -> DraftView:
    """What a version would be, while it is written."""
    template_of(kept.plan, name)
    data = read_fields(draft.fields)
    findings = check_draft(kept.plan, data)
    if any(finding.severity == "error" for finding in findings):
        return DraftView(findings=findings, effects=[])
    changed = with_version(kept.plan, name, validated(TemplateVersion, data))
    following = [one for one, group in kept.plan.groups.items() if group.template == name and group.version == "newest"]
    return DraftView(findings=findings, effects=[_effect(desk, kept, changed, group) for group in following])


@router.post("/{name}/written", status_code=201)
def add_written(name: str, draft: Draft, kept: PlanDep, desk: DeskDep) -> TemplateView:
    """Save a new version as it was written. Groups that follow the newest follow it from now on."""
    return add_version(name, validated(TemplateVersion, read_fields(draft.fields)), kept, desk)


def _effect(desk: Desk, kept: KeptPlan, changed: Plan, group: str) -> Effect:
    take = desk.take(kept, group, None)
    costs: list[str] = []
    for plan in (kept.plan, changed):
        try:
            rehearsal = desk.rehearser.rehearse(with_group(plan, group, take.document), group, take.seed)
        except PlanError as error:
            return Effect(group=group, now=costs[0] if costs else "", then="", refused=error.problems[0].message)
        costs.append(say_money(verdict(rehearsal, whole=False).figures.cost, plan.currency))
    return Effect(group=group, now=costs[0], then=costs[1])


@router.post("/{name}/versions", status_code=201)
def add_version(name: str, version: TemplateVersion, kept: PlanDep, desk: DeskDep) -> TemplateView:
    """Save a new version. Groups that follow the newest follow it from now on."""
    template_of(kept.plan, name)
    changed = with_version(kept.plan, name, _dated(version, kept.plan))
    desk.store.change_plan(kept, changed)
    return _view(changed, name)


@router.delete("/{name}", status_code=204)
def delete_template(name: str, kept: PlanDep, desk: DeskDep) -> None:
    """Take a template out that no group uses."""
    template_of(kept.plan, name)
    if used := [one for one, group in kept.plan.groups.items() if group.template == name]:
        raise NameTaken(f"{name} is used by {', '.join(used)}; give those another template first")
    rest = {one: its for one, its in kept.plan.templates.items() if one != name}
    desk.store.change_plan(kept, kept.plan.model_copy(update={"templates": rest}), lost=name)


@router.get("/{name}/differences")
def list_differences(name: str, before: Ordinal, after: Ordinal, kept: PlanDep) -> list[VersionDifference]:
    """The fields in which two versions differ."""
    old, new = (version_of(kept.plan, name, number)[1] for number in (before, after))
    pairs = version_differences(old, new)
    return [VersionDifference(field=field, before=old, after=new) for field, old, new in pairs]


def template_of(plan: Plan, name: str) -> LaunchTemplate:
    """Raises NotKept where there is none of that name."""
    if name not in plan.templates:
        raise NotKept(f"there is no launch template {name}; there is: {', '.join(plan.templates)}")
    return plan.templates[name]


def version_of(plan: Plan, name: str, wanted: int | str) -> tuple[int, TemplateVersion]:
    """The number of a version, `newest` being the last, and the version. Raises NotKept where there is none."""
    template = template_of(plan, name)
    number = version_number(template, wanted)
    if number is None:
        raise NotKept(f"{name} has versions 1 to {len(template.versions)}, not {wanted}")
    return number, template.versions[number - 1]


def _view(plan: Plan, name: str) -> TemplateView:
    versions = plan.templates[name].versions
    views = [
        VersionView(
            number=number,
            version=version,
            written={field.name: written_field(field.name, getattr(version, field.name)) for field in FIELDS},
            differs=[field for field, _, _ in version_differences(versions[number - 2], version)] if number > 1 else [],
            used_by=users(plan, name, number),
            still_open=version.still_open,
        )
        for number, version in enumerate(versions, 1)
    ]
    return TemplateView(name=name, versions=views[::-1])
