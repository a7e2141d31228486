"""An entry of the calendar: when it comes, on the clock on the wall, and what is common to all of them.

Times are wall-clock times of a named zone; the rule of repetition is that of RFC 5545.
"""

from abc import abstractmethod
from datetime import date, datetime, time, timedelta
from typing import Annotated, Any, ClassVar, Self
from zoneinfo import ZoneInfo

from pydantic import BeforeValidator, Field, WithJsonSchema, field_validator, model_validator

from jostle.core.plan.clock import DAY
from jostle.core.plan.editor import Act, Editor, choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name, each_typed
from jostle.core.plan.repeat import WEEK, comes_so_often, ever_comes, read_rule, rule_of_days
from jostle.core.plan.wall import ClockTime, Wall, known_zone, within_reach
from jostle.core.plan.word import Word, say, time_word


def _read_day(value: Any) -> str:
    try:
        day = date.fromisoformat(str(value)[:10])
    except ValueError:
        raise wrong("write a date such as 2025-07-10") from None
    return within_reach(datetime.combine(day, time())).date().isoformat()


Day = Annotated[str, BeforeValidator(_read_day), WithJsonSchema({"type": "string", "examples": ["2025-07-10"]})]
Rule = Annotated[str, BeforeValidator(read_rule), WithJsonSchema({"type": "string", "examples": ["FREQ=WEEKLY;BYDAY=MO"]})]


class Entry(Model):
    """When it comes. It ends after `for`, which is elapsed time, or at the next wall-clock time `until`.

    `offer` is what offers it, `trade` what the trade says for that, `start` its values then; it begins at eight unless they say
    `at`.
    """

    offer: ClassVar[str]
    trade: ClassVar[str]
    start: ClassVar[dict[str, Any]]

    name: Name
    begin: Wall = Field(alias="from", description="The first time, on the wall clock")
    length: Duration | None = Field(default=None, alias="for", gt=0, le=31_622_400, description="How long it holds")
    until: ClockTime | None = Field(default=None, description="Or until this time of day, the same day or the next")
    repeat: Rule | None = Field(default=None, description="RFC 5545 rule; once only if left out")
    excepted: list[Day] = Field(
        default_factory=list, alias="except", max_length=400, description="Days on which it does not come"
    )
    also: Annotated[list[Wall], BeforeValidator(each_typed)] = Field(
        default_factory=list, max_length=400, description="Single times at which it comes besides"
    )
    zone: str | None = Field(default=None, description="IANA time zone; the plan's if left out")
    paused: bool = False

    @field_validator("repeat", mode="before")
    @classmethod
    def _of_days(cls, repeat: Any) -> Any:
        """A rule may be given as the days of the week on which it comes, with a last date."""
        if not isinstance(repeat, dict):
            return repeat
        days, last = repeat.get("days"), repeat.get("last")
        if not isinstance(days, list) or any(day not in WEEK for day in days):
            raise wrong(f"days is a list of {', '.join(WEEK)}")
        return rule_of_days(days, None if last is None else _read_day(last))

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

    @abstractmethod
    def in_short(self) -> str:
        """The order alone: `at least 12`, `asleep`."""

    @abstractmethod
    def order(self, path: str) -> list[Word]:
        """The order as the beginning of a sentence."""

    @property
    def lifts(self) -> int:
        """The count that it brings the group to at the least, 0 for none."""
        return 0

    def acts(self) -> list[Act]:
        """What can be done with it besides pausing it and taking it out."""
        if self.also:
            return []
        once = datetime.fromisoformat(self.begin) + timedelta(days=1)
        return [Act("once more besides", {"also": [f"{once:%Y-%m-%dT%H:%M}"]})]

    def editor(self, field: str, value: Any) -> Editor | None:
        """The editor of one of its fields, at a value."""
        known = _EDITORS.get(field)
        return known and known.around(value)


class Lasting(Entry):
    @model_validator(mode="after")
    def _ends(self) -> Self:
        if (self.length is None) == (self.until is None):
            raise wrong(f"{self.name} needs either for, such as 3 h, or until, such as 07:00")
        return self

    def acts(self) -> list[Act]:
        begin = datetime.fromisoformat(self.begin)
        if self.until is None:
            end = begin + timedelta(seconds=self.length or 0.0)
            return [*super().acts(), Act("until a time of day", {"for": None, "until": f"{end:%H:%M}"})]
        apart = datetime.combine(begin.date(), time.fromisoformat(self.until)) - begin
        length = apart.total_seconds() % DAY or DAY
        return [*super().acts(), Act("for so long", {"until": None, "for": length})]


class Readied(Entry):
    """An entry that calls for instances, which may be launched before it so that they serve in time."""

    ready_by: bool = Field(default=False, description="Launched early enough to serve at its time, rather than launched at it")


class Setting(Entry):
    """Changes the count once, and tries for a while if something stands in the way."""

    retry: Duration = Field(default=0.0, le=86400, description="How long it tries again where it could not be done at once")

    @model_validator(mode="after")
    def _an_instant(self) -> Self:
        if self.length is not None or self.until is not None:
            raise wrong(f"{self.name} changes the count once; leave for and until out")
        return self

    def acts(self) -> list[Act]:
        return super().acts() if self.retry else [*super().acts(), Act("try again for a while", {"retry": 1800.0})]

    def _again(self, path: str) -> list[Word]:
        return [say(", tried for "), time_word(f"{path}.retry", self.retry)] if self.retry else []


_EDITORS = {
    **{
        field: number(label, "instances", 1.0, least, 100.0, 1.0)
        for field, label, least in (("count", "How many", 0.0), ("minimum", "Minimum", 0.0), ("maximum", "Maximum", 1.0))
    },
    "name": Editor(kind="text", label="Name"),
    "also": Editor(kind="text", label="Besides, each as 2025-07-10 12:00, with commas", blank=True),
    "by": number("How many", "instances", 1.0, -20.0, 20.0, 1.0),
    "ready_by": choices("Its time", [(False, "when instances are launched"), (True, "when they are ready to serve")]),
    "for": number("For", "h", 1 / 3600, 0.25, 48.0, 0.25),
    "retry": number("Tried for", "min", 1 / 60, 0.0, 120.0, 5.0),
}
