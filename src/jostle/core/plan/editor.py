"""What an editor of a word is told: a range, choices, or that a time is wanted."""

from collections.abc import Mapping, Sequence
from typing import Any, Literal, NamedTuple, Self

from pydantic import BaseModel, Field

from jostle.core.plan.reading import MeasureName

Value = str | bool | int | list[str] | None


class Choice(BaseModel):
    value: Value
    text: str
    hint: str = ""


class Editor(BaseModel):
    """A slider over `minimum` to `maximum` in shown units (the value times `scale`), a choice, an order of choices, days of the
    week, a time on the wall, the name of a time zone or of a currency, or a text."""

    kind: Literal["number", "choice", "order", "days", "moment", "clock", "zone", "currency", "text"]
    label: str
    hint: str = Field(default="", description="What it means or costs")
    also: str = Field(default="", description="Words of the trade by which it is found")
    blank: bool = Field(default=False, description="Whether a text may be emptied")
    measure: MeasureName = Field(default="number", description="How what is typed is read")
    unit: str = Field(default="", description="Of a number that is typed without one")
    scale: float = 1.0
    minimum: float = 0.0
    maximum: float = 0.0
    step: float = 1.0
    choices: list[Choice] = Field(default_factory=list)
    varies: bool = Field(default=False, description="Whether a search may go through its choices")
    chosen: list[str] = Field(default_factory=list, description="Of days, those that are taken")
    last: str | None = Field(default=None, description="Of days, the last date")
    now: str | None = Field(default=None, description="Of days, the moment that a last date without a year comes after")

    def found_by(self, also: str) -> Self:
        """The same, found by these words too."""
        return self.model_copy(update={"also": also})

    def around(self, value: Any) -> Self:
        """The same with a range that has room above a value, where it is a range."""
        if self.kind != "number" or isinstance(value, bool) or not isinstance(value, int | float):
            return self
        if 1.5 * value * self.scale <= self.maximum:
            return self
        return self.model_copy(update={"maximum": 1.5 * value * self.scale})


def editor_in(editors: Mapping[str, Editor], field: str, value: Any) -> Editor | None:
    """The editor of a field, with room above its value; None where it has none."""
    known = editors.get(field)
    return known and known.around(value)


class Act(NamedTuple):
    """Something that can be done with a sentence: what it is called, and the fields that it sets; or lists that it adds one more
    to, or takes the last from."""

    text: str
    values: dict[str, Any]
    op: Literal["set", "add", "remove"] = "set"


def choices(label: str, pairs: Sequence[tuple[Value, str]]) -> Editor:
    return Editor(kind="choice", label=label, choices=[Choice(value=value, text=text) for value, text in pairs])


_MEASURES: dict[str, MeasureName] = {
    **dict.fromkeys(("ms", "s", "min", "h", "d"), "duration"),
    "/s": "rate",
    "MB/s": "throughput",
}


def number(label: str, unit: str, scale: float, minimum: float, maximum: float, step: float) -> Editor:
    measure = _MEASURES.get(unit, "number")
    if unit == "%":
        measure = "percent" if scale == 1 else "change" if minimum < 0 else "share"
    return Editor(
        kind="number", label=label, measure=measure, unit=unit, scale=scale, minimum=minimum, maximum=maximum, step=step
    )


def amount(label: str, currency: str, minimum: float, maximum: float, step: float) -> Editor:
    return Editor(kind="number", label=label, measure="money", unit=currency, minimum=minimum, maximum=maximum, step=step)
