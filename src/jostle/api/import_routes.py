"""Routes for a plan file that comes into a plan: what it would change, and the change."""

from collections.abc import Mapping
from functools import partial
from typing import Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from jostle.api.desk import Desk, DeskDep, PlanDep
from jostle.api.plan_routes import plan_text
from jostle.api.problem import RESPONSES
from jostle.api.turns import in_turn
from jostle.core.journal.change import NO_CHANGE, say_change
from jostle.core.journal.sentence import group_page
from jostle.core.plan.plan import Plan, versions_lost
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.records.store import KeptPlan, NameTaken

router = APIRouter(prefix="/api/plans/{plan_id}", responses=RESPONSES)


class PlanDifference(BaseModel):
    """What would come, change or go, and how."""

    noun: Literal["group", "template", "demand", "machine", "plan"]
    name: str
    what: Literal["new", "changed", "gone"]
    text: str


class Imported(BaseModel):
    """What a plan file changes of the plan, and whether that was kept."""

    name: str
    differences: list[PlanDifference]
    unchanged: int = Field(description="Groups that stay as they are")
    kept: bool


@router.post("/import")
async def import_plan(request: Request, kept: PlanDep, desk: DeskDep, keep: bool = False) -> Imported:
    """Read a plan file (YAML or JSON) as the plan's next state; say what it changes, and keep it if so asked.

    Each changed group gets a new arrangement; a group that the file lacks is retired and can be brought back.
    """
    return await in_turn(partial(_imported, desk, kept, await request.body(), keep))


def _imported(desk: Desk, kept: KeptPlan, body: bytes, keep: bool) -> Imported:
    came = plan_text(body)
    now = kept.plan
    found = [*_groups(now, came), *_parts(now, came)]
    for name in versions_lost(now, came):
        raise NameTaken(f"the file lacks or changes a saved version of {name}, which never change; give it a version more")
    if keep and found:
        changed = [one.name for one in found if one.noun == "group" and one.what != "gone"]
        desk.import_plan(kept, came, changed, "as imported")
    same = len(came.groups) - sum(one.noun == "group" and one.what != "gone" for one in found)
    return Imported(name=came.name, differences=found, unchanged=same, kept=keep and bool(found))


def _groups(now: Plan, came: Plan) -> list[PlanDifference]:
    found = []
    for name in came.groups:
        if name not in now.groups:
            found.append(PlanDifference(noun="group", name=name, what="new", text="comes"))
        elif (text := say_change(*(group_page(crew_of(one, name), came.currency) for one in (now, came)))) != NO_CHANGE:
            found.append(PlanDifference(noun="group", name=name, what="changed", text=text))
    gone = [name for name in now.groups if name not in came.groups]
    return found + [PlanDifference(noun="group", name=name, what="gone", text="is retired") for name in gone]


def _parts(now: Plan, came: Plan) -> list[PlanDifference]:
    found: list[PlanDifference] = []
    parts: list[tuple[Literal["template", "demand", "machine"], Mapping[str, BaseModel], Mapping[str, BaseModel]]] = [
        ("template", now.templates, came.templates),
        ("demand", now.demands, came.demands),
        ("machine", now.machines, came.machines),
    ]
    for noun, old, new in parts:
        for name in new:
            if name not in old:
                found.append(PlanDifference(noun=noun, name=name, what="new", text="comes"))
            elif old[name].model_dump(mode="json") != new[name].model_dump(mode="json"):
                found.append(PlanDifference(noun=noun, name=name, what="changed", text="changes"))
        found += [PlanDifference(noun=noun, name=name, what="gone", text="goes") for name in old if name not in new]
    settings = [
        field for field in ("name", "time_zone", "currency", "days", "tick") if getattr(now, field) != getattr(came, field)
    ]
    if now.start.astimezone(now.zone) != came.start.astimezone(came.zone):
        settings.append("start")
    for name in came.parameters:
        if came.parameters[name] != now.parameters.get(name):
            found.append(PlanDifference(noun="plan", name=name, what="changed", text=f"is {came.parameters[name]}"))
    return found + [
        PlanDifference(noun="plan", name=field, what="changed", text=f"is {getattr(came, field)}") for field in settings
    ]
