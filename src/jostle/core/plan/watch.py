"""Rules of when somebody is to be told: like a lookout who is asked to call for some things and to keep quiet of others."""

from abc import abstractmethod
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, choices, editor_in, number
from jostle.core.plan.model import Model, kind_of
from jostle.core.plan.quantity import Duration, Name, Share, say_duration, say_number, say_share
from jostle.core.plan.wall import ClockTime
from jostle.core.plan.word import Word, choice_word, say, share_word, time_word

ANY = "any group"


class QuietHours(Model):
    """Hours of each day, on the plan's wall clock, in which nobody is told; what still lasts when they end is told then."""

    begin: ClockTime = Field(alias="from")
    until: ClockTime


class WatchBase(Model):
    """`offer` is what offers one, `trade` the trade's words for it, `start` what it is when it is added."""

    offer: ClassVar[str]
    trade: ClassVar[str]
    start: ClassVar[dict[str, Any]]
    editors: ClassVar[dict[str, Editor]] = {}

    group: Name | None = Field(default=None, description="Any group if left out")
    quiet: QuietHours | None = Field(default=None, description="When nobody is told")

    @abstractmethod
    def what(self, path: str) -> list[Word]:
        """What is told of, in words that follow the group's name."""

    @abstractmethod
    def began(self, group: str, seen: float) -> str:
        """What is told when it begins; `seen` is what was seen then, in the kind's own unit."""

    @abstractmethod
    def over(self, group: str, lasted: float) -> str:
        """What is told when it is over, after so many seconds."""

    def words(self, path: str) -> list[Word]:
        words = [say("Tell when "), Word(self.group or ANY, f"{path}.group", self.group), say(" "), *self.what(path)]
        if self.quiet is None:
            return [*words, say(".")]
        begin, until = (choice_word(f"{path}.quiet.{field}", getattr(self.quiet, name)) for field, name in _QUIET)
        return [*words, say(", but not from "), begin, say(" to "), until, say(".")]

    def editor(self, field: str, value: Any, groups: list[str]) -> Editor | None:
        if field == "group":
            return choices("Of which group", [(None, ANY), *((name, name) for name in groups)])
        if field in ("from", "until"):
            return Editor(kind="clock", label="Quiet from" if field == "from" else "Quiet until")
        return editor_in(self.editors, field, value)


_QUIET = (("from", "begin"), ("until", "until"))


class LastingWatch(WatchBase):
    """Something that has to last before it is told of."""

    editors: ClassVar[dict[str, Editor]] = {"for": number("For", "min", 1 / 60, 0.0, 240.0, 1.0)}

    length: Duration = Field(default=600.0, alias="for", ge=0, le=604_800, description="How long it lasts before it is told of")

    def lasts(self, path: str) -> list[Word]:
        return [say(" for "), time_word(f"{path}.for", self.length)]


class ShortWatch(LastingWatch):
    offer: ClassVar = "when short of capacity"
    trade: ClassVar = "promise broken alarm late failed"
    start: ClassVar = {"kind": "short", "for": 600}

    kind: Literal["short"]

    def what(self, path: str) -> list[Word]:
        return [say("is short of capacity"), *self.lasts(path)]

    def began(self, group: str, seen: float) -> str:
        return f"{group} has been short of capacity for {say_duration(self.length)}"

    def over(self, group: str, lasted: float) -> str:
        return f"{group} is short of capacity no more, after {say_duration(lasted)}"


class MaximumWatch(LastingWatch):
    offer: ClassVar = "when at its maximum"
    trade: ClassVar = "limit reached alarm"
    start: ClassVar = {"kind": "at_maximum", "for": 300}

    kind: Literal["at_maximum"]

    def what(self, path: str) -> list[Word]:
        return [say("is at its maximum"), *self.lasts(path)]

    def began(self, group: str, seen: float) -> str:
        return f"{group} has wanted its maximum of {say_number(seen)} for {say_duration(self.length)}"

    def over(self, group: str, lasted: float) -> str:
        return f"{group} is below its maximum again, after {say_duration(lasted)}"


class OverflowWatch(LastingWatch):
    offer: ClassVar = "when overflow lasts"
    trade: ClassVar = "temporary beyond owned alarm"
    start: ClassVar = {"kind": "overflow", "for": 7200}

    kind: Literal["overflow"]

    def what(self, path: str) -> list[Word]:
        return [say("has overflow"), *self.lasts(path)]

    def began(self, group: str, seen: float) -> str:
        return f"{group} has had overflow for {say_duration(self.length)}"

    def over(self, group: str, lasted: float) -> str:
        return f"{group} has no overflow any more, after {say_duration(lasted)}"


class BudgetWatch(WatchBase):
    """Of each budget of the group, or of all budgets, once in its week or month."""

    offer: ClassVar = "when a share of a budget is spent"
    trade: ClassVar = "cost money alarm"
    start: ClassVar = {"kind": "budget", "share": 0.8}
    editors: ClassVar[dict[str, Editor]] = {"share": number("Share", "%", 100.0, 5.0, 100.0, 5.0)}

    kind: Literal["budget"]
    share: Share = Field(default=0.8, gt=0)

    def what(self, path: str) -> list[Word]:
        return [say("has spent "), share_word(f"{path}.share", self.share), say(" of a budget")]

    def began(self, group: str, seen: float) -> str:
        return f"{say_share(seen)} of the budget of {group} is spent"

    def over(self, group: str, lasted: float) -> str:
        return f"a new budget of {group} begins, after {say_duration(lasted)}"


class DiffersWatch(WatchBase):
    """Hour by hour: the capacity that was there against what was rehearsed beforehand."""

    offer: ClassVar = "when it differs from what was rehearsed"
    trade: ClassVar = "anomaly drift alarm"
    start: ClassVar = {"kind": "differs", "by": 0.15}
    editors: ClassVar[dict[str, Editor]] = {"by": number("By", "%", 100.0, 5.0, 100.0, 5.0)}

    kind: Literal["differs"]
    by: Share = Field(default=0.15, gt=0)

    def what(self, path: str) -> list[Word]:
        return [say("differs from what was rehearsed by "), share_word(f"{path}.by", self.by), say(" over an hour")]

    def began(self, group: str, seen: float) -> str:
        more = "more" if seen > 0 else "less"
        return f"{group} had {say_share(abs(seen))} {more} capacity in an hour than was rehearsed"

    def over(self, group: str, lasted: float) -> str:
        return f"{group} is as rehearsed again, after {say_duration(lasted)}"


Watch = Annotated[
    ShortWatch | MaximumWatch | OverflowWatch | BudgetWatch | DiffersWatch,
    Field(discriminator="kind"),
]
WATCH_KINDS: dict[str, type[WatchBase]] = {
    kind_of(kind): kind for kind in (ShortWatch, MaximumWatch, OverflowWatch, BudgetWatch, DiffersWatch)
}
