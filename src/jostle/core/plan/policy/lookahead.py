"""A Lookahead policy is the landlady who knows her Mondays: it acts on what is likely to come while a launch takes.

What is likely is what came at this time of the week before, weighted to the recent, as many times as today runs above or below
it. All of it lies before the instant at which it is asked.
"""

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from jostle.core.plan.editor import Act, Editor, choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.policy.base import MAY_REMOVE, Expected, Order, PolicyBase, Reach, Site, Start, Tone, removing
from jostle.core.plan.quantity import Duration, Name, Share, say_rate, say_share
from jostle.core.plan.word import Word, choice_word, say, share_word, time_word
from jostle.core.plan.work import Work

# A place in the week, s, and how many there are
SLOT, SLOTS = 300, 2016
# What the newest week weighs at the least, once there are several
NEWEST = 0.35
# What comes counts as so many times the usual at the most: one rush is no habit
RUSH = 2.0
# Today runs so many times above or below the usual at the most
MOST_ABOVE = 3.0
LONGEST_LEAD = 86400.0
ADVICE = {False: "acts on it", True: "only says so"}

USUAL = np.dtype(
    [
        ("rate", "f4"),  # arrivals that are usual, 1/s
        ("off", "f4"),  # how far weeks usually are from it, 1/s
        ("weeks", "i4"),  # behind it
    ],
    align=True,
)


class LookaheadPolicy(PolicyBase):
    starts: ClassVar = {
        "lookahead": Start("policy that looks ahead", "predictive forecast likely", "look-ahead", {"level": 0.6, "advice": True})
    }
    editors: ClassVar[dict[str, Editor]] = {
        "level": number("Filled to", "%", 100.0, 5.0, 99.0, 1.0),
        "lead": number("Ahead", "min", 1 / 60, 1.0, 120.0, 1.0),
        "window": number("By the last", "min", 1 / 60, 5.0, 480.0, 5.0),
        "advice": choices("What it does", list(ADVICE.items())),
        "may_remove": MAY_REMOVE,
    }

    blind: ClassVar[str] = "no week before this one is known at this time"

    kind: Literal["lookahead"]
    level: Share = Field(default=0.6, gt=0, lt=1, description="How full the instances are to be when what is expected has come")
    history: Name | None = Field(
        default=None, description="The demand whose days before the plan's start it knows; without one it learns as it goes"
    )
    lead: Duration | None = Field(
        default=None,
        gt=0,
        le=LONGEST_LEAD,
        description="How far it looks ahead; as long as a launch and a reading take if left out",
    )
    window: Duration = Field(default=3600.0, gt=0, le=86400, description="Over which it is told how today runs")
    advice: bool = Field(default=False, description="Whether it only says what it would do")
    may_remove: bool = Field(default=False, description="Whether it may also remove instances")

    @field_validator("fold")
    @classmethod
    def _average(cls, fold: str) -> str:
        if fold != "average":
            raise wrong("what is expected is folded by average; leave fold out")
        return fold

    @property
    def adds(self) -> bool:
        return not self.advice

    @property
    def removes(self) -> bool:
        return self.may_remove and not self.advice

    @property
    def tone(self) -> Tone:
        return "both" if self.removes else "add"

    @property
    def most(self) -> float:
        return 0.99

    @property
    def level_at(self) -> tuple[str, float]:
        return "level", self.level

    def order(self) -> Order:
        return Order({"level": self.level, "lead": self.lead or 0.0, "removes": self.removes, "advice": self.advice})

    def sentence(self, path: str, work: Work) -> list[Word]:
        ahead = [time_word(f"{path}.lead", self.lead), say(" ahead")] if self.lead else [say("as far ahead as a launch takes")]
        known = [say(", knowing "), choice_word(f"{path}.history", self.history)] if self.history else []
        return [
            say("Look "),
            *ahead,
            say(", by how the last "),
            time_word(f"{path}.window", self.window),
            say(" ran"),
            *known,
            say(", and have what is expected fill "),
            share_word(f"{path}.level", self.level),
            say(f" of {work.share_of}; it "),
            Word(text=ADVICE[self.advice], path=f"{path}.advice", value=self.advice),
            say(", "),
            removing(self.may_remove, path),
        ]

    def acts(self, site: Site) -> list[Act]:
        found = [Act("as a launch takes", {"lead": None}) if self.lead else Act("a set time ahead", {"lead": 600.0})]
        if self.history:
            found.append(Act("learn as it goes", {"history": None}))
        elif site.demands:
            found.append(Act("from history", {"history": site.demands[0]}))
        return found

    def editor(self, field: str, value: Any, site: Site) -> Editor | None:
        if field == "history":
            return choices("Knowing", [(name, name) for name in site.demands])
        return super().editor(field, value, site)

    def reaches(self, period: float) -> list[Reach]:
        return super().reaches(period)[:1]

    def in_short(self, work: Work) -> str:
        return f"looks ahead, to be {say_share(self.level)} full"

    def sight(self, value: float, work: Work, expected: Expected | None = None) -> str:
        if expected is None:
            return f"expects {say_rate(value)}"
        days = f"{expected.at:%A}" if expected.weeks == 1 else f"{expected.weeks} {expected.at:%A}s"
        above = round(expected.ratio - 1.0, 2)
        today = f", {say_share(abs(above))} {'more' if above > 0 else 'fewer'} than usual of late" if above else ""
        return f"expects {say_rate(value)} by {expected.at:%H:%M}, as on the last {days}{today}"

    def stays(self, low: float, high: float) -> str:
        return f"what it expects stays between {say_rate(low)} and {say_rate(high)}"

    def mark(self, level: float) -> str:
        return f"to be {say_share(level)} full"
