"""Demand as a user describes it: layers laid over one another like tracing paper.

The rate at an instant is (sum of levels and brought series) x daily shape x weekday factor x growth x surges x noise,
and what load tests send besides. Incidents change no rate; they strike the group while it works.
"""

from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.outside import Samples
from jostle.core.plan.quantity import Duration, Name, Rate, Share
from jostle.core.plan.wall import ClockTime, Moment

WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
Factor = Annotated[float, Field(ge=0, le=1000)]


class Sheet(Model):
    """One sheet of the tracing paper: a layer or an incident, which can be taken off for a while."""

    muted: bool = Field(default=False, description="Whether it is left out for now")


class Level(Sheet):
    """A constant rate."""

    kind: Literal["level"]
    rate: Rate


class DailyPoint(Model):
    at: ClockTime
    factor: Factor


class Daily(Sheet):
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


class Weekdays(Sheet):
    """A factor for each day of the week."""

    kind: Literal["weekdays"]
    monday: Factor = 1.0
    tuesday: Factor = 1.0
    wednesday: Factor = 1.0
    thursday: Factor = 1.0
    friday: Factor = 1.0
    saturday: Factor = 1.0
    sunday: Factor = 1.0


class Growth(Sheet):
    """Grows by a share every week, compounding evenly from the plan's start; below zero it shrinks."""

    kind: Literal["growth"]
    weekly: float = Field(gt=-1, le=10, description="Growth in a week as a fraction: 0.02 for 2 %")


class Scale(Sheet):
    """All of the demand so many times."""

    kind: Literal["scale"]
    factor: Factor


class Bursts(Sheet):
    """A pile that arrives at certain times every day: `amount` arrivals in all, over `over`, at each time."""

    kind: Literal["bursts"]
    at: list[ClockTime] = Field(min_length=1, max_length=96)
    amount: float = Field(ge=0, le=1e9)
    over: Duration = Field(gt=0, le=86400)


class LoadTest(Sheet):
    """So many clients, each sending at a rate of its own, ramped over so long, held, stopped."""

    kind: Literal["load_test"]
    at: Moment
    clients: float = Field(ge=0, le=1e7)
    each: Rate
    ramp: Duration = 0.0
    hold: Duration = Field(gt=0)


class Surge(Sheet):
    """A rush: ramps from 1 to `factor` times the demand, holds, and decays again."""

    kind: Literal["surge"]
    at: Moment
    factor: Factor
    ramp: Duration = 0.0
    hold: Duration = 0.0
    decay: Duration = 0.0


class Noise(Sheet):
    """Unevenness: each period the rate is multiplied by a draw of mean 1 and the given spread."""

    kind: Literal["noise"]
    spread: Share = Field(description="Standard deviation as a share of the rate")
    period: Duration = Field(default=60.0, ge=1, le=86400)


class Brought(Sheet):
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
    stretch: float = Field(default=1.0, ge=0.01, le=100, description="How many times as long it lasts")
    at: Moment | None = Field(default=None, description="When its first row is laid, in place of its own time")
    samples: Samples | None = Field(default=None, description="The series itself, in place of the file")


class IncidentBase(Sheet):
    at: Moment
    length: Duration = Field(alias="for", gt=0, le=31_622_400)


class ZoneLost(IncidentBase):
    """A zone with all its machines is gone for a time."""

    kind: Literal["zone_lost"]
    zone: Name


class NoCapacity(IncidentBase):
    """A zone, or every zone, refuses launches for a time."""

    kind: Literal["no_capacity"]
    zone: Name | None = None


class SlowBoots(IncidentBase):
    """Boots take so many times as long."""

    kind: Literal["slow_boots"]
    factor: Factor = Field(ge=1)


class SlowDependency(IncidentBase):
    """Something that every answer needs takes so much longer."""

    kind: Literal["slow_dependency"]
    extra: Duration = Field(gt=0)


class Breaking(Sheet):
    """A share of the serving instances breaks at one instant."""

    kind: Literal["breaking"]
    at: Moment
    share: Share = Field(gt=0)
    fault: Literal["stopped", "frozen", "hung"] = Field(
        default="stopped",
        description="The machine stopped; it runs but is frozen; or it is well and only its service hangs",
    )


Layer = Annotated[
    Level | Daily | Weekdays | Growth | Scale | Bursts | Surge | LoadTest | Noise | Brought, Field(discriminator="kind")
]
Incident = Annotated[ZoneLost | NoCapacity | SlowBoots | SlowDependency | Breaking, Field(discriminator="kind")]

BASES = (Level, Bursts, Brought)


class Demand(Model):
    layers: list[Layer] = Field(min_length=1, max_length=40)
    incidents: list[Incident] = Field(default_factory=list, max_length=40)
    note: str = Field(default="", max_length=2000)

    @model_validator(mode="after")
    def _has_base(self) -> Self:
        if not any(isinstance(layer, BASES) for layer in self.layers):
            raise wrong("a demand needs a level, bursts or a brought series for its other layers to shape")
        return self
