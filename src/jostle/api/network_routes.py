"""Routes for the network of a plan, its subnets, firewall rules and databases, and for metrics that come from outside."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, File, Form, UploadFile
from pydantic import BaseModel, Field

from jostle.api.bounded import content_of
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.group_routes import checked_name
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.api.seen import Part, changed, read
from jostle.core.change.catalogue_change import changed_catalogue, users_of
from jostle.core.journal.network_line import database_words, outside_words, rule_words, subnet_words
from jostle.core.plan.editor import Editor, number
from jostle.core.plan.outside import Outside
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.word import Word
from jostle.formats.series_file import read_series_file
from jostle.records.store import KeptPlan

router = APIRouter(prefix="/api/plans/{plan_id}/network", responses=RESPONSES)
_EDITORS = {
    "zone": Editor(kind="text", label="Zone"),
    "region": Editor(kind="text", label="Region", blank=True),
    "subnets": Editor(kind="text", label="Subnets"),
    "port": number("Port", "", 1.0, 1.0, 10000.0, 1.0),
    "ports": Editor(kind="text", label="Ports, such as 443, 8000-8100 or all"),
    "source": Editor(kind="text", label="Address range"),
}


NAMED = ("subnets", "firewall", "databases", "outside")


class NetworkLine(BaseModel):
    """One of them, as a sentence after its name."""

    name: str
    words: list[EditableWord]
    used_by: list[str]


class Network(BaseModel):
    subnets: list[NetworkLine]
    firewall: list[NetworkLine]
    databases: list[NetworkLine]
    outside: list[NetworkLine]


class NetworkChange(BaseModel):
    """`set` a value at a path, `add` one to a part (value: its name), or `remove` one that nothing uses."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(pattern=r"^(subnets|firewall|databases|outside)(\.[a-z0-9_.-]+)?$", max_length=200)
    value: Any = None


@router.get("")
def show_network(kept: Annotated[KeptPlan, read(*NAMED)]) -> Network:
    """Subnets, firewall rules, databases and outside metrics, each as a sentence with who uses it."""
    return _network(kept.plan)


def _network(plan: Plan) -> Network:
    return Network(
        subnets=_lines(plan, "subnets", {name: subnet_words(name, one) for name, one in plan.subnets.items()}),
        firewall=_lines(plan, "firewall", {name: rule_words(name, one) for name, one in plan.firewall.items()}),
        databases=_lines(plan, "databases", {name: database_words(name, one) for name, one in plan.databases.items()}),
        outside=_lines(plan, "outside", {name: outside_words(one) for name, one in plan.outside.items()}),
    )


@router.post("/changes")
def change_network(change: NetworkChange, part: Annotated[Part, changed(*NAMED)]) -> Network:
    """Change the network; all groups are rehearsed anew with it."""
    if change.op == "add":
        checked_name(str(change.value))
    return _network(part.keep(changed_catalogue(part.plan, change.op, change.path, change.value)))


@router.post("/outside", status_code=201)
def bring_outside(
    kept: PlanDep,
    desk: DeskDep,
    file: Annotated[UploadFile, File(description="CSV with a time and a value in each row, or OpenMetrics text")],
    name: Annotated[str, Form()],
    gaps: Annotated[Literal["hold", "line", "zero"], Form(description="How missing rows are filled")] = "hold",
) -> Network:
    """Bring a metric from outside, which policies may then watch; its values are taken as they stand."""
    content = content_of(file)
    checked_name(name)
    if name in kept.plan.outside:
        raise PlanError([Problem(("name",), name, "is there already; give it another name")])
    series = read_series_file(content, kept.plan.zone, "requests_per_second", gaps, None, None, guess=True)
    brought = Outside(file=(file.filename or "pasted.csv")[-255:], gaps=gaps, samples=series.samples)
    plan = kept.plan.model_copy(update={"outside": {**kept.plan.outside, name: brought}})
    return _network(desk.store.change_plan(kept, plan).plan)


def _lines(plan: Plan, part: str, said: dict[str, list[Word]]) -> list[NetworkLine]:
    users = users_of(plan, part)
    return [
        NetworkLine(
            name=name,
            words=[editable(word, _EDITORS.get((word.path or "").split(".")[-1])) for word in words],
            used_by=users[name],
        )
        for name, words in said.items()
    ]
