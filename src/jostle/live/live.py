"""A plan that lives on the stand-in: its groups, one clock for all, what hands did, and how it comes to be again after a stop.

All that happens follows from the plan, the seed and the log of hands; so the log is what has to be kept.
"""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field, TypeAdapter

from jostle.core.plan.clock import DAY
from jostle.core.plan.place import companies
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_duration
from jostle.core.rehearsal.rehearser import Rehearser, size_of
from jostle.live.hand import Hand, LaunchSingles
from jostle.live.life import Life, begun_together
from jostle.live.single import plan_of_singles
from jostle.provider.provider import NotThere, Refused

# A leap year of days, where the groups are few or the steps long: MOST_BYTES for what is kept of every step of all groups
LONGEST, MOST_BYTES = 366.0, 2**30
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
    # Single instances outside any group, by the name of their launch
    singles: dict[str, Life] = field(default_factory=dict)
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
        _check_length(spanned)
        made = cls(spanned, begun, now=start.timestamp())
        bare = spanned.model_copy(
            update={"groups": {name: group.model_copy(update={"hands": []}) for name, group in spanned.groups.items()}}
        )
        found: dict[str, Life] = {}
        for names in companies(bare):
            found |= {life.group: life for life in begun_together(bare, names, begun.arrangements, begun.seed, rehearser)}
        made.lives = {name: found[name] for name in bare.groups}
        for name, life in made.lives.items():
            life.kept = name not in begun.left_alone
        return made

    @property
    def first(self) -> float:
        return next(iter(self.lives.values())).clock.first

    @property
    def ends(self) -> float:
        """s since 1970."""
        return self.first + self.begun.days * DAY

    @property
    def everyone(self) -> dict[str, Life]:
        """The groups, and the single instances beside them."""
        return self.lives | self.singles

    @property
    def nbytes(self) -> int:
        """Bytes of memory that its records hold."""
        return sum(life.result.nbytes for life in self.everyone.values())

    def life(self, group: str) -> Life:
        if (found := self.everyone.get(group)) is None:
            raise NotThere(f"no group {group} lives here; there is: {', '.join(self.everyone)}")
        return found

    def go_on(self, until: float, quickly: bool = False) -> None:
        """Live on to an instant, s since 1970. `quickly` has the engine decide where no hand has it otherwise: the outcome is the
        same."""
        until = min(until, self.ends)
        for life in self.everyone.values():
            life.go_on(until - life.clock.first, decided=quickly)
        self.now = max(self.now, until)

    def lay(self, group: str, hand: dict[str, Any]) -> Done:
        """Do what a hand does, now; a launch of single instances is named as a group is. Raises Refused, PlanError,
        ValidationError."""
        read = _HAND.validate_python(hand)
        self._do(group, read)
        done = Done(at=self.now, group=group, hand=read.model_dump(mode="json", by_alias=True))
        self.log.append(done)
        return done

    def _do(self, group: str, hand: Hand) -> None:
        if isinstance(hand, LaunchSingles):
            if group in self.everyone:
                raise Refused(f"{group} is there already; choose another name")
            self.singles[group] = self._launched(group, hand)
        else:
            self.life(group).lay(hand)

    def _launched(self, name: str, hand: LaunchSingles) -> Life:
        someone = next(iter(self.lives.values()))
        life = Life(plan_of_singles(self.plan, name, hand, self.now, self.ends), name, 1, self.begun.seed, someone.rehearser)
        life.kept, life.single = False, hand
        # They are asked for within the first step.
        life.go_on(self.plan.tick)
        return life

    def replay(self, log: list[Done], until: float) -> None:
        """Come to where it stood: what was done, each at its time."""
        for done in log:
            self.go_on(done.at, quickly=True)
            self._do(done.group, done.act)
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


def _check_length(plan: Plan) -> None:
    """Refuse a life that would not fit into memory. Raises PlanError, which says how many days would do."""
    size = sum(size_of(plan, group) for group in plan.groups.values())
    if size > MOST_BYTES:
        days = int(plan.days * MOST_BYTES / size)
        said = f"would take {size / 2**20:,.0f} MiB at steps of {say_duration(plan.tick)}, more than {MOST_BYTES // 2**20:,} MiB"
        raise PlanError([Problem(("days",), plan.days, f"{said}; {days} days would do, or longer steps")])
