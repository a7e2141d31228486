"""Routes for the frame of a plan: its name, the span that is rehearsed, the clock and the currency."""

from typing import Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel

from jostle.api.desk import DeskDep, PlanDep
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.core.journal.frame_line import frame_sentence
from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.plan import TICKS, Plan, read_plan
from jostle.core.plan.quantity import say_duration

router = APIRouter(prefix="/api/plans/{plan_id}/frame", responses=RESPONSES)

_EDITORS = {
    "name": Editor(kind="text", label="Name of the plan"),
    "days": number("Length", "d", 1, 1, 56, 1),
    "start": Editor(kind="moment", label="Start"),
    "time_zone": Editor(kind="zone", label="Time zone"),
    "tick": choices("Step", [(tick, say_duration(tick)) for tick in TICKS]),
    "currency": Editor(kind="currency", label="Currency"),
}


class FrameChange(BaseModel):
    field: Literal["name", "days", "start", "time_zone", "tick", "currency"]
    value: Any


@router.get("")
def show_frame(kept: PlanDep) -> list[EditableWord]:
    """The frame as the words of a sentence."""
    return _words(kept.plan)


@router.post("")
def change_frame(change: FrameChange, kept: PlanDep, desk: DeskDep) -> list[EditableWord]:
    """Change the frame; all groups are rehearsed anew in it. In another time zone the start keeps the time on the wall."""
    document = kept.plan.model_dump(mode="json")
    start = kept.plan.start.astimezone(kept.plan.zone).replace(tzinfo=None)
    plan = read_plan({**document, "start": start.isoformat(), change.field: change.value})
    desk.store.change_plan(kept, plan)
    return _words(plan)


def _words(plan: Plan) -> list[EditableWord]:
    return [editable(word, _EDITORS.get(word.path or "")) for word in frame_sentence(plan).words]
