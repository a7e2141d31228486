"""The calendar: orders that come by the clock on the wall rather than by a metric.

Like the notices on a noticeboard, each says from when to when it holds, and on which days it comes again.
"""

from typing import Annotated, ClassVar, Literal, get_args

from pydantic import Field, ValidationInfo, field_validator

from jostle.core.plan.entry import Lasting, Readied, Setting
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import kind_of
from jostle.core.plan.quantity import Count
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.word import Word, count_word, say


class Floor(Lasting, Readied):
    """At least so many."""

    offer: ClassVar = "floor"
    trade: ClassVar = "schedule at least minimum hours"
    start: ClassVar = {"count": 4, "until": "12:00", "repeat": "FREQ=DAILY"}

    kind: Literal["floor"]
    count: Count

    def in_short(self) -> str:
        return f"at least {self.count}"

    def order(self, path: str) -> list[Word]:
        return [say("At least "), count_word(f"{path}.count", self.count)]

    @property
    def lifts(self) -> int:
        return self.count


class Limits(Lasting, Readied):
    """Between so many and so many."""

    offer: ClassVar = "minimum and maximum for hours"
    trade: ClassVar = "schedule bounds limits"
    start: ClassVar = {"minimum": 2, "maximum": 6, "until": "12:00", "repeat": "FREQ=DAILY"}

    kind: Literal["bounds"]
    minimum: Count
    maximum: Count

    @field_validator("maximum")
    @classmethod
    def _above(cls, maximum: int, info: ValidationInfo) -> int:
        if maximum < info.data.get("minimum", 0):
            raise wrong(f"the maximum cannot be below the minimum of {info.data['minimum']}")
        return maximum

    def in_short(self) -> str:
        return f"between {self.minimum} and {self.maximum}"

    def order(self, path: str) -> list[Word]:
        low, high = (count_word(f"{path}.{field}", getattr(self, field)) for field in ("minimum", "maximum"))
        return [say("Between "), low, say(" and "), high]

    @property
    def lifts(self) -> int:
        return self.minimum


class SetCount(Setting, Readied):
    """Sets the count once."""

    offer: ClassVar = "count at a time"
    trade: ClassVar = "schedule set desired count"
    start: ClassVar = {"count": 4, "repeat": "FREQ=DAILY"}

    kind: Literal["set"]
    count: Count

    def in_short(self) -> str:
        return f"set to {self.count}"

    def order(self, path: str) -> list[Word]:
        return [say("Set the count to "), count_word(f"{path}.count", self.count), *self._again(path)]

    @property
    def lifts(self) -> int:
        return self.count


class AddCount(Setting, Readied):
    """Adds so many once, or removes them."""

    offer: ClassVar = "instances added or removed at a time"
    trade: ClassVar = "schedule add remove change step"
    start: ClassVar = {"by": 2, "repeat": "FREQ=DAILY"}

    kind: Literal["add"]
    by: int = Field(ge=-1000, le=1000, description="Instances to add; below zero to remove")

    @field_validator("by")
    @classmethod
    def _some(cls, by: int) -> int:
        if by == 0:
            raise wrong("write how many to add, such as 2, or to remove, such as -2")
        return by

    def in_short(self) -> str:
        return f"{'add' if self.by > 0 else 'remove'} {abs(self.by)}"

    def order(self, path: str) -> list[Word]:
        word = Word(text=str(abs(self.by)), path=f"{path}.by", value=self.by)
        return [say("Add " if self.by > 0 else "Remove "), word, *self._again(path)]

    @property
    def lifts(self) -> int:
        return max(0, self.by)


class Sleep(Lasting, Readied):
    """The whole group stopped."""

    offer: ClassVar = "sleep"
    trade: ClassVar = "schedule stop night weekend off hours"
    start: ClassVar = {"at": "20:00", "until": "06:00", "repeat": "FREQ=DAILY"}

    kind: Literal["sleep"]

    def in_short(self) -> str:
        return "asleep"

    def order(self, path: str) -> list[Word]:
        return [say("Asleep, all instances stopped")]


class Removals(Lasting):
    """Instances are removed by policies only while this holds."""

    offer: ClassVar = "hours for removals"
    trade: ClassVar = "schedule scale in window"
    start: ClassVar = {"until": "20:00", "repeat": "FREQ=DAILY"}

    kind: Literal["removals"]

    def in_short(self) -> str:
        return "removals only then"

    def order(self, path: str) -> list[Word]:
        return [say("Policies remove only")]


class Freeze(Lasting):
    """No automatic change of the count."""

    offer: ClassVar = "freeze"
    trade: ClassVar = "schedule maintenance window change"
    start: ClassVar = {"until": "12:00", "repeat": "FREQ=DAILY"}

    kind: Literal["freeze"]

    def in_short(self) -> str:
        return "no automatic change"

    def order(self, path: str) -> list[Word]:
        return [say("No automatic change")]


Kinds = Floor | Limits | SetCount | AddCount | Sleep | Removals | Freeze | Rollout
CalendarEntry = Annotated[Kinds, Field(discriminator="kind")]
ENTRY_KINDS: dict[str, type[Kinds]] = {kind_of(kind): kind for kind in get_args(Kinds)}
