"""A promise: what the group owes its users, or its owner's purse."""

from abc import abstractmethod
from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, amount, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Money, Share, say_duration, say_money, say_share
from jostle.core.plan.word import Word, say, share_word, time_word


class PromiseBase(Model):
    """`work` is the kind of work that it is for, of any kind if left out; `verb` ends what was measured."""

    work: ClassVar[str | None] = None
    verb: ClassVar[str] = ""

    @abstractmethod
    def sentence(self, path: str, currency: str) -> list[Word]:
        """Its sentence."""

    @abstractmethod
    def text(self, currency: str) -> str:
        """`95 % of answers within 400 ms`."""

    def editor(self, field: str, value: Any, currency: str) -> Editor | None:
        """The editor of one of its fields, at a value."""
        return number("Share", "%", 100.0, 0.1, 99.9, 0.1) if field == "share" else None


class AnswersPromise(PromiseBase):
    """So many of all requests answered within a time; a failed request counts as not answered."""

    work: ClassVar = "requests"
    verb: ClassVar = "were"

    kind: Literal["answers"]
    share: Share = Field(gt=0, lt=1)
    within: Duration = Field(gt=0)

    def sentence(self, path: str, currency: str) -> list[Word]:
        share = share_word(f"{path}.share", self.share)
        return [share, say(" of answers within "), time_word(f"{path}.within", self.within), say(".")]

    def text(self, currency: str) -> str:
        return f"{say_share(self.share, 4)} of answers within {say_duration(self.within)}"

    def editor(self, field: str, value: Any, currency: str) -> Editor | None:
        if field == "within":
            return number("Within", "ms", 1000.0, 5.0, 3000.0, 5.0).around(value)
        return super().editor(field, value, currency)


class AgePromise(PromiseBase):
    """So many of all jobs taken up within a time; one that still waits at the end counts by the age it has then."""

    work: ClassVar = "jobs"
    verb: ClassVar = "were"

    kind: Literal["age"]
    share: Share = Field(default=1.0, gt=0, le=1)
    within: Duration = Field(gt=0)

    def sentence(self, path: str, currency: str) -> list[Word]:
        share = share_word(f"{path}.share", self.share)
        return [share, say(" of jobs taken up within "), time_word(f"{path}.within", self.within), say(".")]

    def text(self, currency: str) -> str:
        who = "every job" if self.share == 1 else f"{say_share(self.share, 4)} of jobs"
        return f"{who} taken up within {say_duration(self.within)}"

    def editor(self, field: str, value: Any, currency: str) -> Editor | None:
        if field == "within":
            return number("Within", "min", 1 / 60, 0.5, 60.0, 0.5).around(value)
        return super().editor(field, value, currency)


class SeatsPromise(PromiseBase):
    """So many of all sessions find a seat."""

    work: ClassVar = "sessions"
    verb: ClassVar = "did"

    kind: Literal["seats"]
    share: Share = Field(gt=0, le=1)

    def sentence(self, path: str, currency: str) -> list[Word]:
        return [share_word(f"{path}.share", self.share), say(" of sessions find a seat.")]

    def text(self, currency: str) -> str:
        who = "every session finds" if self.share == 1 else f"{say_share(self.share, 4)} of sessions find"
        return f"{who} a seat"


class RoomPromise(PromiseBase):
    """For so much of the time each host can be lost, and its copies find places on the others."""

    work: ClassVar = "hosting"
    verb: ClassVar = "of the time there was"

    kind: Literal["room"]
    share: Share = Field(gt=0, le=1)

    def sentence(self, path: str, currency: str) -> list[Word]:
        share = share_word(f"{path}.share", self.share)
        return [share, say(" of the time any one host can be lost, and its copies find room on the others.")]

    def text(self, currency: str) -> str:
        return f"room for the loss of any one host {say_share(self.share, 4)} of the time"


class CostPromise(PromiseBase):
    """At most this amount a week."""

    start: ClassVar[dict[str, Any]] = {"kind": "cost", "at_most": "300"}

    kind: Literal["cost"]
    at_most: Money

    def sentence(self, path: str, currency: str) -> list[Word]:
        most = Word(text=say_money(self.at_most, currency), path=f"{path}.at_most", value=float(self.at_most))
        return [say("At most "), most, say(" a week.")]

    def text(self, currency: str) -> str:
        return f"at most {say_money(self.at_most, currency)} a week"

    def editor(self, field: str, value: Any, currency: str) -> Editor | None:
        return amount("Cost a week", currency, 0.0, max(1000.0, 2 * float(value)), 5.0)


class ServingPromise(PromiseBase):
    """Fewer instances serve than the minimum, the group's or the calendar's, for at most so long a week."""

    start: ClassVar[dict[str, Any]] = {"kind": "serving", "at_most": 600.0}

    kind: Literal["serving"]
    at_most: Duration = Field(le=604_800)

    def sentence(self, path: str, currency: str) -> list[Word]:
        return [say("Fewer serve than the minimum for at most "), time_word(f"{path}.at_most", self.at_most), say(" a week.")]

    def text(self, currency: str) -> str:
        return f"fewer serve than the minimum for at most {say_duration(self.at_most)} a week"

    def editor(self, field: str, value: Any, currency: str) -> Editor | None:
        return number("At most", "min", 1 / 60, 0.0, 120.0, 1.0).around(value)


ServicePromise = AnswersPromise | AgePromise | SeatsPromise | RoomPromise
Promise = Annotated[ServicePromise | ServingPromise | CostPromise, Field(discriminator="kind")]


def strictest(promises: Sequence[Promise]) -> AnswersPromise | AgePromise | None:
    """The promise of the shortest time; None where no time is promised."""
    timed = [one for one in promises if isinstance(one, AnswersPromise | AgePromise)]
    return min(timed, key=lambda one: one.within, default=None)
