"""A plan that lives on the stand-in: its groups, one clock for all, what hands did, and how it comes to be again after a stop.

All that happens follows from the plan, the seed and the log of hands; so the log is what has to be kept.
"""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field, TypeAdapter

from jostle.core.plan.clock import DAY
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.hand import Hand
from jostle.live.life import Life
from jostle.provider.provider import NotThere

LONGEST = 31.0
_HAND: TypeAdapter[Hand] = TypeAdapter(Hand)


class Begun(BaseModel):
    """How a plan began to live. `left_alone` names the groups that the keeper does not keep."""

    at: datetime
    days: float = Field(gt=0, le=LONGEST)
    seed: int = 1
    arrangements: dict[str, int] = Field(default_factory=dict)
    left_alone: list[str] = Field(default_factory=list)


class Done(BaseModel):
    """One act of a hand, with when it was done (s since 1970)."""

    at: float
    group: str
    hand: dict[str, Any]

    @property
    def act(self) -> Hand:
        return _HAND.validate_python(self.hand)

    @property
    def text(self) -> str:
        return self.act.text()


@dataclass
class Live:
    """Groups side by side on one clock, which goes from instant to instant as it is told."""

    plan: Plan
    begun: Begun
    lives: dict[str, Life] = field(default_factory=dict)
    log: list[Done] = field(default_factory=list)
    now: float = 0.0

    @classmethod
    def begin(cls, plan: Plan, begun: Begun, rehearser: Rehearser) -> "Live":
        """All groups of a plan from an instant on. Raises PlanError where one cannot be."""
        zone = plan.zone
        start = begun.at if begun.at.tzinfo else begun.at.replace(tzinfo=zone)
        spanned = plan.model_copy(update={"start": start, "days": begun.days})
        if not spanned.groups:
            raise PlanError([Problem(("groups",), None, "there is no group to keep; write one first")])
        made = cls(spanned, begun, now=start.timestamp())
        for name, group in spanned.groups.items():
            bare = spanned.model_copy(update={"groups": {**spanned.groups, name: group.model_copy(update={"hands": []})}})
            made.lives[name] = Life(bare, name, begun.arrangements.get(name, 1), begun.seed, rehearser)
            made.lives[name].kept = name not in begun.left_alone
        return made

    @property
    def first(self) -> float:
        return next(iter(self.lives.values())).clock.first

    @property
    def ends(self) -> float:
        """s since 1970."""
        return self.first + self.begun.days * DAY

    def life(self, group: str) -> Life:
        if group not in self.lives:
            raise NotThere(f"no group {group} lives here; there is: {', '.join(self.lives)}")
        return self.lives[group]

    def go_on(self, until: float, quickly: bool = False) -> None:
        """Live on to an instant, s since 1970. `quickly` has the engine decide where no hand has it otherwise: the outcome is the
        same."""
        until = min(until, self.ends)
        for life in self.lives.values():
            life.go_on(until - self.first, decided=quickly)
        self.now = max(self.now, until)

    def lay(self, group: str, hand: dict[str, Any]) -> Done:
        """Do what a hand does, now. Raises Refused, PlanError, ValidationError."""
        read = _HAND.validate_python(hand)
        self.life(group).lay(read)
        done = Done(at=self.now, group=group, hand=read.model_dump(mode="json", by_alias=True))
        self.log.append(done)
        return done

    def replay(self, log: list[Done], until: float) -> None:
        """Come to where it stood: what was done, each at its time."""
        for done in log:
            self.go_on(done.at, quickly=True)
            self.life(done.group).lay(done.act)
            self.log.append(done)
        self.go_on(until, quickly=True)

    def next_change(self) -> float | None:
        """When a count changes next (s since 1970), found by living on in likeness; None where none does within a day."""
        found = []
        for life in self.lives.values():
            if life.steered:
                continue
            ahead = life.foreseen(DAY)
            if ahead is not None:
                found.append(self.first + ahead)
        return min(found, default=None)
