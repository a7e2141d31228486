"""A Spare policy is the innkeeper who always keeps a few rooms free."""

import math
from typing import Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from jostle.core.plan.editor import Act, Editor, choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.policy.base import FOLD_WORDS, MAY_REMOVE, Expected, Order, PolicyBase, Site, Start, removing
from jostle.core.plan.quantity import Number, Share, say_duration, say_number, say_share
from jostle.core.plan.word import Word, choice_word, say, share_word, time_word
from jostle.core.plan.work import Work


class SparePolicy(PolicyBase):
    starts: ClassVar = {
        "spare": Start("policy that keeps spare capacity", "headroom buffer reserve free", "keep-spare", {"share": 0.18})
    }
    editors: ClassVar[dict[str, Editor]] = {
        "share": number("Kept free", "%", 100.0, 1.0, 95.0, 1.0),
        "number": number("Kept free", "", 1.0, 0.0, 100.0, 1.0),
        "of": choices("Kept free", [("memory", "of memory"), ("cpu", "of CPU")]),
        "slack": number("To spare", "%", 100.0, 0.0, 100.0, 5.0),
        "may_remove": MAY_REMOVE,
    }

    kind: Literal["spare"]
    share: Share | None = Field(default=None, gt=0, lt=1, description="Share of the capacity kept free")
    number: Number | None = Field(
        default=None, gt=0, le=1e9, description="Kept free: seats, requests per second, or jobs side by side"
    )
    of: Literal["memory", "cpu"] | None = Field(default=None, description="Of a host: which of the two is kept free")
    slack: Share = Field(default=0.1, description="How much more than that, as a share of it, must stay free after a removal")
    may_remove: bool = Field(default=True, description="Whether it may also remove instances")

    @field_validator("fold")
    @classmethod
    def _an_amount(cls, fold: str) -> str:
        if fold in ("sum", "count"):
            raise wrong("what is in use is folded by average, minimum, maximum, latest or p90")
        return fold

    @model_validator(mode="before")
    @classmethod
    def _one_of_both(cls, value: Any) -> Any:
        if isinstance(value, dict) and (value.get("share") is None) == (value.get("number") is None):
            raise wrong("give either share, such as 18 %, or number, such as 60: how much is to stay free")
        return value

    @property
    def adds(self) -> bool:
        return True

    @property
    def removes(self) -> bool:
        return self.may_remove

    @property
    def most(self) -> float:
        return math.inf if self.share is None else 0.8

    @property
    def level_at(self) -> tuple[str, float]:
        return ("share", self.share) if self.share is not None else ("number", self.number or 0.0)

    def order(self) -> Order:
        level, by_share = self.level_at[1], self.share is not None
        return Order({"level": level, "percent": by_share, "tolerance": self.slack, "removes": self.may_remove})

    def free(self, work: Work) -> str:
        """`18 % of seats`, `60 seats`."""
        if self.share is not None:
            return f"{say_share(self.share)} of {self._whole(work)}"
        return f"{say_number(self.number or 0)} {self._each(work)}"

    def _whole(self, work: Work) -> str:
        return "CPU" if self.of == "cpu" else work.share_of

    def _each(self, work: Work) -> str:
        return "vCPUs" if self.of == "cpu" else work.places

    def sentence(self, path: str, work: Work) -> list[Word]:
        field, value = self.level_at
        amount, _, unit = self.free(work).partition(" of " if self.share is not None else " ")
        return [
            say("Keep "),
            Word(text=amount, path=f"{path}.{field}", value=value),
            say(" of " if self.share is not None else " "),
            say(unit) if self.of is None else choice_word(f"{path}.of", self.of, unit),
            say(" free, by the "),
            choice_word(f"{path}.fold", self.fold, FOLD_WORDS[self.fold]),
            say(" over "),
            time_word(f"{path}.window", self.window),
            say(", "),
            removing(self.may_remove, path),
            say(" with "),
            share_word(f"{path}.slack", self.slack),
            say(" to spare"),
        ]

    def acts(self, site: Site) -> list[Act]:
        if self.share is None:
            return [Act("as a share", {"number": None, "share": 0.18})]
        return [Act("as a number", {"share": None, "number": site.work.several})]

    def in_short(self, work: Work) -> str:
        return f"keeps {self.free(work)} free"

    def sight(self, value: float, work: Work, expected: Expected | None = None) -> str:
        used = f"{FOLD_WORDS[self.fold]} {say_number(value)} {'vCPUs' if self.of == 'cpu' else work.in_use} in use"
        return f"{used} over {say_duration(self.window)}, {self.free(work)} to be kept free"

    def stays(self, low: float, high: float) -> str:
        return f"what is in use stays between {say_number(low)} and {say_number(high)}"

    def mark(self, level: float) -> str:
        return f"keep {say_share(level)}"
