"""Demand as a user describes it: layers laid over one another like tracing paper.

The rate at an instant is (sum of levels and brought series) x daily shape x weekday factor x surges x noise.
"""

from datetime import datetime, time
from typing import Annotated, Any, Literal, Self

from pydantic import BeforeValidator, Field, WithJsonSchema, field_validator, model_validator

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Rate, Share, wrong

WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
Factor = Annotated[float, Field(ge=0, le=1000)]


def read_clock(value: Any) -> str:
    """`06:30`, checked to be a time of day."""
    try:
        return time.fromisoformat(str(value)).strftime("%H:%M:%S").removesuffix(":00")
    except ValueError:
        raise wrong("write a time of day such as 06:30") from None


def read_moment(value: Any) -> str:
    """`2025-07-10T12:00`: wall-clock time in the plan's zone, or with an offset of its own."""
    try:
        return datetime.fromisoformat(str(value)).isoformat()
    except ValueError:
        raise wrong("write a date and time such as 2025-07-10T12:00") from None


ClockTime = Annotated[str, BeforeValidator(read_clock), WithJsonSchema({"type": "string", "examples": ["06:30"]})]
Moment = Annotated[str, BeforeValidator(read_moment), WithJsonSchema({"type": "string", "examples": ["2025-07-10T12:00"]})]


class Level(Model):
    """A constant rate."""

    kind: Literal["level"]
    rate: Rate


class DailyPoint(Model):
    at: ClockTime
    factor: Factor


class Daily(Model):
    """A shape over the 24 hours of the wall clock: straight lines between its points, round past midnight."""

    kind: Literal["daily"]
    points: list[DailyPoint] = Field(min_length=1, max_length=288)

    @field_validator("points")
    @classmethod
    def _once_each(cls, points: list[DailyPoint]) -> list[DailyPoint]:
        times = [p.at for p in points]
        if len(set(times)) < len(times):
            raise wrong("two points stand at the same time of day; give each its own")
        return sorted(points, key=lambda p: p.at)


class Weekdays(Model):
    """A factor for each day of the week."""

    kind: Literal["weekdays"]
    monday: Factor = 1.0
    tuesday: Factor = 1.0
    wednesday: Factor = 1.0
    thursday: Factor = 1.0
    friday: Factor = 1.0
    saturday: Factor = 1.0
    sunday: Factor = 1.0


class Surge(Model):
    """A rush: ramps from 1 to `factor` times the demand, holds, and decays again."""

    kind: Literal["surge"]
    at: Moment
    factor: Factor
    ramp: Duration = 0.0
    hold: Duration = 0.0
    decay: Duration = 0.0


class Noise(Model):
    """Unevenness: each period the rate is multiplied by a draw of mean 1 and the given spread."""

    kind: Literal["noise"]
    spread: Share = Field(description="Standard deviation as a share of the rate")
    period: Duration = Field(default=60.0, ge=1, le=86400)


class Samples(Model):
    """A brought series on an even grid. `rates` are per second, each valid for one step from its time on."""

    first: datetime
    step: Duration = Field(gt=0)
    rates: list[Annotated[float, Field(ge=0, le=1e12)]] = Field(min_length=2)

    @field_validator("first")
    @classmethod
    def _aware(cls, first: datetime) -> datetime:
        if first.tzinfo is None:
            raise wrong("the first time needs an offset, such as 2025-07-07T00:00+01:00")
        return first


class Brought(Model):
    """A series from a CSV file: named by `file` in a plan file, held as `samples` once it has been read."""

    kind: Literal["brought"]
    file: str = Field(min_length=1, max_length=255)
    unit: Literal["requests_per_second", "requests_per_minute", "requests_per_hour", "requests"] | None = Field(
        default=None, description="Unit of the value column; left out if the column's heading names it"
    )
    gaps: Literal["line", "hold", "zero"] = Field(
        default="line", description="How missing rows are filled: a straight line, the last value held, or zero"
    )
    scale: Factor = 1.0
    samples: Samples | None = Field(default=None, description="The series itself, in place of the file")


Layer = Annotated[Level | Daily | Weekdays | Surge | Noise | Brought, Field(discriminator="kind")]


class Demand(Model):
    layers: list[Layer] = Field(min_length=1, max_length=40)
    note: str = Field(default="", max_length=2000)

    @model_validator(mode="after")
    def _has_base(self) -> Self:
        if not any(isinstance(layer, Level | Brought) for layer in self.layers):
            raise wrong("a demand needs a level or a brought series for its other layers to shape")
        return self
