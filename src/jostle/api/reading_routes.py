"""What is typed into a field, understood: asked for while somebody types."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from jostle.api.problem import RESPONSES
from jostle.core.plan.reading import MeasureName, read_typed

router = APIRouter(prefix="/api/readings", responses=RESPONSES)


class ReadingView(BaseModel):
    """The value in the base unit, as a change of a plan takes it, and how it was understood."""

    value: float | str
    text: str


@router.get("")
def read(
    measure: MeasureName,
    text: Annotated[str, Query(max_length=200)],
    unit: Annotated[str, Query(max_length=20)] = "",
    now: Annotated[str | None, Query(max_length=40)] = None,
) -> ReadingView:
    """`unit` is that of a number without one; `now` the moment that stands in the field, of which a part may be typed."""
    reading = read_typed(measure, text, unit, now)
    return ReadingView(value=reading.value, text=reading.text)
