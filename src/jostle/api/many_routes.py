"""Routes to change many groups at once: those of a tag, each listed with what comes of it before anything is kept."""

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jostle.api.desk import Desk, DeskDep, PlanDep
from jostle.api.editor import editor_of, site_of
from jostle.api.problem import RESPONSES
from jostle.api.turns import LongRoute
from jostle.core.change.change import Change
from jostle.core.change.group_change import changed_group
from jostle.core.journal.change import say_change
from jostle.core.plan.editor import Editor
from jostle.core.plan.launch import launch_of
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_money
from jostle.core.plan.setting import setting
from jostle.core.plan.word import Word
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.records.store import KeptPlan

router = APIRouter(prefix="/api/plans/{plan_id}/many", responses=RESPONSES, route_class=LongRoute)
ALL = "all"
# What groups of unlike work have in common
SETTINGS = {
    "policies_paused": "policies",
    "mode": "what policies may do",
    "minimum": "the minimum",
    "maximum": "the maximum",
    "drain": "the drain",
    "cooldown": "the wait after any change",
    "evaluate_every": "how often policies are asked",
    "health.basis": "what is asked whether they are broken",
    "health.grace": "the grace of the checks",
    "mending.restarts": "restarts before a replacement",
    "leaving.balance_zones": "from which zone one leaves",
}


class Tagged(BaseModel):
    tag: str = Field(description="`team=bookings`, or `all`")
    groups: list[str]


class Setting(BaseModel):
    path: str
    text: str
    editor: Editor


class Many(BaseModel):
    tags: list[Tagged]
    settings: list[Setting]


class ManyChange(BaseModel):
    tag: str = Field(max_length=300)
    path: str = Field(max_length=100)
    value: Any = None


class ManyLine(BaseModel):
    """One of the groups: what changes, and what its week costs and keeps before and after; or why it cannot be."""

    group: str
    change: str
    cost: str = ""
    cost_before: str = ""
    kept: str = ""
    kept_before: str = ""
    worse: bool = Field(default=False, description="Whether a promise breaks that was kept")
    refused: str | None = None


@router.get("")
def list_many(kept: PlanDep) -> Many:
    """The tags that groups' instances bear, with the groups, and what can be changed in several at once."""
    first = next(iter(kept.plan.groups), None)
    return Many(
        tags=[Tagged(tag=tag, groups=groups) for tag, groups in _tags(kept.plan).items()],
        settings=[] if first is None else _settings(kept.plan, first),
    )


@router.post("/look")
def look_at_many(wanted: ManyChange, kept: PlanDep, desk: DeskDep) -> list[ManyLine]:
    """What a change would come to in each of the groups, under seed 1."""
    return [_line(desk, kept, group, wanted) for group in _groups(kept.plan, wanted)]


@router.post("", status_code=201)
def change_many(wanted: ManyChange, kept: PlanDep, desk: DeskDep) -> list[ManyLine]:
    """Save the change as the next arrangement of each group that it changes: of all or, where one refuses, of none."""
    lines, plan, changed = look_at_many(wanted, kept, desk), kept.plan, []
    if refused := [line for line in lines if line.refused]:
        said = "; ".join(f"{line.group}: {line.refused}" for line in refused)
        raise PlanError([Problem((wanted.path,), wanted.value, f"nothing was changed, since not all can: {said}")])
    for group in _groups(plan, wanted):
        document = _changed(plan, group, wanted)
        if document != plan.groups[group].model_dump(mode="json"):
            plan = with_group(plan, group, document)
            changed.append(group)
    if changed:
        desk.import_plan(
            kept, plan, changed, f"{SETTINGS[wanted.path]} of {'all groups' if wanted.tag == ALL else f'all with {wanted.tag}'}"
        )
    return [line for line in lines if line.group in changed]


def _tags(plan: Plan) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {ALL: list(plan.groups)}
    for group in plan.groups:
        for key, value in (launch_of(plan, group).fields.tags or {}).items():
            found.setdefault(f"{key}={value}", []).append(group)
    return found


def _settings(plan: Plan, group: str) -> list[Setting]:
    crew = crew_of(plan, group)
    document = crew.group.model_dump(mode="python")
    found = []
    for path, text in SETTINGS.items():
        editor = editor_of(Word(text="", path=path, value=setting(document, path)), plan, crew, site_of(plan, crew))
        if editor is not None:
            found.append(Setting(path=path, text=text, editor=editor.model_copy(update={"hint": ""})))
    return found


def _groups(plan: Plan, wanted: ManyChange) -> list[str]:
    if wanted.path not in SETTINGS:
        raise PlanError([Problem(("path",), wanted.path, f"is not changed in many at once; there is: {', '.join(SETTINGS)}")])
    tags = _tags(plan)
    if not tags.get(wanted.tag):
        raise PlanError([Problem(("tag",), wanted.tag, f"no group has this tag; there is: {', '.join(tags)}")])
    return tags[wanted.tag]


def _changed(plan: Plan, group: str, wanted: ManyChange) -> dict[str, Any]:
    document = plan.groups[group].model_dump(mode="json")
    made = changed_group(document, [Change(path=wanted.path, value=wanted.value)], plan.start.astimezone(plan.zone))
    return with_group(plan, group, made).groups[group].model_dump(mode="json")


def _line(desk: Desk, kept: KeptPlan, group: str, wanted: ManyChange) -> ManyLine:
    before = desk.play(kept, group, kept.plan.groups[group].model_dump(mode="json"), 1)
    try:
        after = desk.play(kept, group, _changed(kept.plan, group, wanted), 1)
    except PlanError as error:
        return ManyLine(group=group, change="cannot be", refused=error.problems[0].message)
    was, now = before.verdict.figures, after.verdict.figures
    return ManyLine(
        group=group,
        change=say_change(before.page, after.page),
        cost=say_money(now.cost, now.currency),
        cost_before=say_money(was.cost, was.currency),
        kept=f"{now.promises_kept} of {now.promises}",
        kept_before=f"{was.promises_kept} of {was.promises}",
        worse=any(one.kept and not two.kept for one, two in zip(before.verdict.promises, after.verdict.promises, strict=True)),
    )
