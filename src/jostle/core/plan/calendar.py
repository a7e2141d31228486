"""The calendar: orders that come by the clock on the wall rather than by a metric.

Like the notices on a noticeboard, each says from when to when it holds, and on which days it comes again. Times are
wall-clock times of a named zone; the rule of repetition is that of RFC 5545.
"""

from datetime import date, datetime, time
from typing import Annotated, Any, Literal, Self
from zoneinfo import ZoneInfo

from pydantic import BeforeValidator, Field, ValidationInfo, WithJsonSchema, field_validator, model_validator

from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Count, Duration, Name
from jostle.core.plan.repeat import comes_so_often, ever_comes, read_rule
from jostle.core.plan.wall import ClockTime, Wall, known_zone, within_reach


def _read_day(value: Any) -> str:
    try:
        day = date.fromisoformat(str(value)[:10])
    except ValueError:
        raise wrong("write a date such as 2025-07-10") from None
    return within_reach(datetime.combine(day, time())).date().isoformat()


Day = Annotated[str, BeforeValidator(_read_day), WithJsonSchema({"type": "string", "examples": ["2025-07-10"]})]
Rule = Annotated[str, BeforeValidator(read_rule), WithJsonSchema({"type": "string", "examples": ["FREQ=WEEKLY;BYDAY=MO"]})]


class Entry(Model):
    """When it comes. It ends after `for`, which is elapsed time, or at the next wall-clock time `until`."""

    name: Name
    begin: Wall = Field(alias="from", description="The first time, on the wall clock")
    length: Duration | None = Field(default=None, alias="for", gt=0, le=31_622_400, description="How long it holds")
    until: ClockTime | None = Field(default=None, description="Or until this time of day, the same day or the next")
    repeat: Rule | None = Field(default=None, description="RFC 5545 rule; once only if left out")
    excepted: list[Day] = Field(
        default_factory=list, alias="except", max_length=400, description="Days on which it does not come"
    )
    also: list[Wall] = Field(default_factory=list, max_length=400, description="Single times at which it comes besides")
    zone: str | None = Field(default=None, description="IANA time zone; the plan's if left out")
    paused: bool = False

    @field_validator("zone")
    @classmethod
    def _known(cls, zone: str | None) -> str | None:
        return None if zone is None else known_zone(zone)

    @model_validator(mode="after")
    def _comes(self) -> Self:
        if self.repeat is not None and not ever_comes(self.repeat, datetime.fromisoformat(self.begin)):
            raise wrong(f"{self.name} never comes: no day fits {self.repeat} from {self.begin} on")
        if self.repeat is not None and not comes_so_often(self.repeat, datetime.fromisoformat(self.begin)):
            raise wrong(f"{self.name} does not come as often as its COUNT says in all the years that are looked at; write UNTIL")
        return self

    def zone_in(self, plans: ZoneInfo) -> ZoneInfo:
        return ZoneInfo(self.zone) if self.zone else plans


class Lasting(Entry):
    @model_validator(mode="after")
    def _ends(self) -> Self:
        if (self.length is None) == (self.until is None):
            raise wrong(f"{self.name} needs either for, such as 3 h, or until, such as 07:00")
        return self


class Floor(Lasting):
    """At least so many."""

    kind: Literal["floor"]
    count: Count


class Limits(Lasting):
    """Between so many and so many."""

    kind: Literal["bounds"]
    minimum: Count
    maximum: Count

    @field_validator("maximum")
    @classmethod
    def _above(cls, maximum: int, info: ValidationInfo) -> int:
        if maximum < info.data.get("minimum", 0):
            raise wrong(f"the maximum cannot be below the minimum of {info.data['minimum']}")
        return maximum


class SetCount(Entry):
    """Sets the count once, and tries for a while if something stands in the way."""

    kind: Literal["set"]
    count: Count
    retry: Duration = Field(default=0.0, le=86400, description="How long it tries again where it could not be done at once")

    @model_validator(mode="after")
    def _an_instant(self) -> Self:
        if self.length is not None or self.until is not None:
            raise wrong(f"{self.name} sets the count once; leave for and until out")
        return self


class Sleep(Lasting):
    """The whole group stopped."""

    kind: Literal["sleep"]


class Removals(Lasting):
    """Instances are removed by policies only while this holds."""

    kind: Literal["removals"]


class Freeze(Lasting):
    """No automatic change of the count."""

    kind: Literal["freeze"]


CalendarEntry = Annotated[Floor | Limits | SetCount | Sleep | Removals | Freeze, Field(discriminator="kind")]
