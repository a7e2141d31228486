"""Routes for plans: what there is, new groups, brought demands, files in."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.problem import RESPONSES
from jostle.api.turns import in_turn
from jostle.core.journal.machine_line import free_text
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.today import this_monday
from jostle.formats.plan_file import read_plan_text, write_plan
from jostle.formats.shipped import demo_plan, starter_plan
from jostle.records.stored_plans import StoredPlans

router = APIRouter(prefix="/api", responses=RESPONSES)


class PlanLine(BaseModel):
    id: int
    name: str


class PlanView(BaseModel):
    """What a plan offers to choose from."""

    id: int
    revision: int = Field(description="Grows with every change of the plan")
    name: str
    time_zone: str
    days: float
    currency: str
    groups: list[str]
    hosts: list[str] = Field(description="Groups on whose instances others can run")
    templates: list[str]
    left_open: dict[str, list[str]] = Field(
        description="Of each template, what its newest version leaves to the group: machine, subnets, firewall"
    )
    subnets: dict[str, str] = Field(description="Subnets with their zones")
    firewall: list[str]
    free: dict[str, str] = Field(description="What of a machine is not charged for, of those that have such an allowance")
    machines: list[str]
    demands: list[str]


class NewPlan(BaseModel):
    name: str = Field(min_length=1, max_length=200)
    time_zone: str = "UTC"


@router.get("/health")
def health() -> dict[Literal["status"], Literal["ready"]]:
    return {"status": "ready"}


@router.get("/schema")
def plan_schema() -> dict[str, Any]:
    """JSON Schema of the plan document."""
    return Plan.model_json_schema()


@router.get("/plans")
def list_plans(desk: DeskDep) -> list[PlanLine]:
    """All plans, newest first."""
    return [PlanLine(id=number, name=name) for number, name in desk.store.plans()]


@router.post("/plans", status_code=201)
async def add_plan(request: Request, desk: DeskDep) -> PlanLine:
    """Keep a plan from a body of YAML or JSON."""
    body = await request.body()
    return await in_turn(lambda: _keep(desk, plan_text(body)))


def plan_text(body: bytes) -> Plan:
    """A plan from a body of YAML or JSON. Raises PlanError."""
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PlanError([Problem((), None, "the body is not UTF-8 text; send YAML or JSON")]) from None
    return read_plan_text(text)


@router.post("/demo", status_code=201)
def add_demo(desk: DeskDep) -> PlanLine:
    """Keep the demo plan."""
    return _keep(desk, demo_plan())


@router.post("/starter", status_code=201)
def start_plan(wanted: NewPlan, desk: DeskDep) -> PlanLine:
    """Keep a new plan without groups: a catalogue, a network, a template and a demand to begin with; it begins this week."""
    document = starter_plan().model_dump(mode="json") | {"name": wanted.name, "time_zone": wanted.time_zone}
    return _keep(desk, read_plan(document | {"start": f"{this_monday(read_plan(document).zone)}T00:00"}))


def _keep(desk: DeskDep, plan: Plan) -> PlanLine:
    return PlanLine(id=desk.store.add_plan(plan), name=plan.name)


@router.get("/plans/{plan_id}")
def show_plan(kept: PlanDep) -> PlanView:
    plan = kept.plan
    return PlanView(
        id=kept.id,
        revision=kept.revision,
        name=plan.name,
        time_zone=plan.time_zone,
        days=plan.days,
        currency=plan.currency,
        groups=list(plan.groups),
        hosts=[name for name, group in plan.groups.items() if group.hosts],
        templates=list(plan.templates),
        left_open={
            name: [field for field in ("machine", "subnets", "firewall") if getattr(one.versions[-1], field) is None]
            for name, one in plan.templates.items()
        },
        subnets={name: one.zone for name, one in plan.subnets.items()},
        firewall=list(plan.firewall),
        free={name: said for name in plan.machines if (said := free_text(plan.machines[name]))},
        machines=list(plan.machines),
        demands=list(plan.demands),
    )


@router.delete("/plans/{plan_id}", status_code=204)
def drop_plan(
    plan_id: Ordinal,
    desk: DeskDep,
    request: Request,
    whole: Annotated[bool, Query(description="With all that was ever kept of it, whether or not it can be read")] = False,
) -> None:
    """Take a plan out in which nothing was ever kept, or, as a whole, with its groups, takes, what lives of it and its ledger."""
    if not whole:
        desk.store.drop_plan(desk.store.plan(plan_id))
        return
    stored = StoredPlans(desk.store)
    stored.text(plan_id)
    request.app.state.live_desk.forget(plan_id)
    request.app.state.elsewhere_desk.forget(plan_id)
    stored.drop(plan_id)


@router.get("/plans/{plan_id}/stored", response_class=Response)
def show_stored(plan_id: Ordinal, desk: DeskDep) -> Response:
    """A plan's document as it stands in the records, whether or not it can be read, to be mended as a file."""
    headers = {"Content-Disposition": 'attachment; filename="plan.json"'}
    text = StoredPlans(desk.store).text(plan_id).encode(errors="surrogateescape")
    return Response(text, media_type="application/json", headers=headers)


@router.put("/plans/{plan_id}/stored")
async def mend_stored(plan_id: Ordinal, request: Request, desk: DeskDep) -> PlanLine:
    """Put a plan file (YAML or JSON) in the place of a plan that cannot be read; its arrangements, takes and ledger stay."""
    body = await request.body()
    return await in_turn(lambda: _mended(desk, plan_id, plan_text(body)))


def _mended(desk: DeskDep, plan_id: int, plan: Plan) -> PlanLine:
    StoredPlans(desk.store).mend(plan_id, plan)
    return PlanLine(id=plan_id, name=plan.name)


@router.get("/plans/{plan_id}/document")
def show_document(kept: PlanDep) -> dict[str, Any]:
    """The plan document itself, with brought series in place of their files."""
    document: dict[str, Any] = kept.plan.model_dump(mode="json", exclude_none=True)
    return document


@router.get("/plans/{plan_id}/plan.yaml", response_class=Response)
def plan_yaml(kept: PlanDep) -> Response:
    """The plan as a plan file."""
    headers = {"Content-Disposition": 'attachment; filename="plan.yaml"'}
    return Response(write_plan(kept.plan), media_type="application/yaml", headers=headers)
