"""Routes for the frame of a plan: its name, the span that is rehearsed, the clock and the currency; and its parameters."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jostle.api.desk import DeskDep
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.api.seen import Part, changed, read
from jostle.core.change.parameter_change import with_parameter
from jostle.core.journal.frame_line import frame_sentence, parameter_words
from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.parameter import read_scalar
from jostle.core.plan.plan import TICKS, Plan, read_plan, versions_lost
from jostle.core.plan.quantity import say_duration
from jostle.records.store import KeptPlan, NameTaken

router = APIRouter(prefix="/api/plans/{plan_id}/frame", responses=RESPONSES)

_EDITORS = {
    "name": Editor(kind="text", label="Name of the plan"),
    "days": number("Length", "d", 1, 1, 56, 1),
    "start": Editor(kind="moment", label="Start"),
    "time_zone": Editor(kind="zone", label="Time zone"),
    "tick": choices("Step", [(tick, say_duration(tick)) for tick in TICKS]),
    "currency": Editor(kind="currency", label="Currency"),
}


FRAME = ("name", "start", "days", "tick", "time_zone", "currency")


class FrameChange(BaseModel):
    field: Literal["name", "days", "start", "time_zone", "tick", "currency"]
    value: Any


@router.get("")
def show_frame(kept: Annotated[KeptPlan, read(*FRAME)]) -> list[EditableWord]:
    """The frame as the words of a sentence."""
    return _words(kept.plan)


@router.post("")
def change_frame(change: FrameChange, part: Annotated[Part, changed(*FRAME)]) -> list[EditableWord]:
    """Change the frame; all groups are rehearsed anew in it. In another time zone the start keeps the time on the wall."""
    document = part.plan.model_dump(mode="json")
    start = part.plan.start.astimezone(part.plan.zone).replace(tzinfo=None)
    return _words(part.keep(read_plan({**document, "start": start.isoformat(), change.field: change.value})))


class ParameterChange(BaseModel):
    """A parameter's value as it is typed: a number, yes or no, or a text such as 70 %."""

    name: str = Field(min_length=1, max_length=200)
    value: str = Field(max_length=2000)


@router.get("/parameters")
def show_parameters(kept: Annotated[KeptPlan, read("parameters")]) -> list[EditableWord]:
    """The plan's parameters as the words of a sentence; none where it has none."""
    return _parameters(kept.plan)


@router.post("/parameters")
def change_parameter(change: ParameterChange, part: Annotated[Part, changed("parameters")], desk: DeskDep) -> list[EditableWord]:
    """Change a parameter, and all that follows it. Each group that it changes gets a new arrangement."""
    plan = with_parameter(part.plan, change.name, read_scalar(change.value))
    for template in versions_lost(part.plan, plan):
        raise NameTaken(f"a saved version of {template} uses {change.name}, and saved versions never change; write a new version")
    groups = [name for name, group in plan.groups.items() if group != part.plan.groups[name]]
    desk.import_plan(part.kept, plan, groups, f"{change.name} is {change.value}")
    return _parameters(part.told(plan))


def _parameters(plan: Plan) -> list[EditableWord]:
    return [editable(word, Editor(kind="text", label="Value") if word.path else None) for word in parameter_words(plan)]


def _words(plan: Plan) -> list[EditableWord]:
    return [editable(word, _EDITORS.get(word.path or "")) for word in frame_sentence(plan).words]
