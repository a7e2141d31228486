"""Two plans side by side, group by group: what differs, what each costs and keeps, what is found of one and not of the other.

Both are rehearsed under the same seeds, so that luck is the same on both sides; what they differ by is told with its interval
over the seeds (Law, Simulation Modeling and Analysis, 10.2.1: paired t).
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import mean, stdev
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field
from scipy.special import stdtrit

from jostle.core.checks.check import check
from jostle.core.checks.finding import Finding
from jostle.core.journal.comparison import Pair, compared
from jostle.core.journal.sentence import group_page
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.spread import spread
from jostle.core.rehearsal.verdict import Verdict, verdict

# Of the interval
SURE = 0.95
State = Literal["same", "changed", "came", "went"]


class Told(BaseModel):
    model_config = ConfigDict(frozen=True)


class Between(Told):
    """A figure of both, means over the seeds, and what the one has more than the other; None where there is but one of them, or
    one seed."""

    before: float | None
    after: float | None
    more: float | None = Field(description="Mean of what it is more under each seed")
    low: float | None = Field(description="Where that lies with 95 %")
    high: float | None

    @property
    def share(self) -> float | None:
        """What it is more, of what it was."""
        return self.more / self.before if self.more is not None and self.before else None


class PromiseReview(Told):
    """Under how many of the seeds a promise is kept by each; None where it is not promised."""

    text: str
    before: int | None
    after: int | None
    of: int

    @property
    def newly_broken(self) -> bool:
        """Whether it is kept less often than it was, or is promised anew and not kept."""
        return self.after is not None and self.after < (self.of if self.before is None else self.before)


class GroupReview(Told):
    name: str
    state: State
    sentences: list[Pair] = Field(description="Those that differ")
    cost: Between
    short_minutes: Between
    changes: Between
    promises: list[PromiseReview]
    found: list[Finding] = Field(description="Found now, and not before")
    mended: list[Finding] = Field(description="Found before, and not now")


class Review(Told):
    currency: str
    seeds: int
    cost: Between = Field(description="Of all groups together")
    besides: list[str] = Field(description="What of the plan differs besides its groups")
    groups: list[GroupReview]

    @property
    def differing(self) -> list[GroupReview]:
        return [group for group in self.groups if group.state != "same"]

    @property
    def same(self) -> list[str]:
        """The groups that are as they were, by name."""
        return [group.name for group in self.groups if group.state == "same"]


@dataclass(frozen=True)
class Reviewed:
    """A review, and what it was made of: each group of each plan under the first seed."""

    told: Review
    before: dict[str, Rehearsal]
    after: dict[str, Rehearsal]


class _Lived:
    """A group under each seed."""

    def __init__(self, rehearser: Rehearser, plan: Plan, name: str, seeds: range) -> None:
        self.verdicts: dict[int, Verdict] = {}
        for one in rehearser.rehearse_each(plan, name, seeds):
            if not self.verdicts:
                self.first = one
            self.verdicts[one.seed] = verdict(one, whole=False)

    @cached_property
    def findings(self) -> list[Finding]:
        return check(self.first, None)

    def figure(self, name: str) -> list[float]:
        return [float(getattr(one.figures, name)) for one in self.verdicts.values()]

    def kept(self) -> dict[str, int]:
        """Under how many seeds each promise is kept, by its text."""
        return {one.text: one.kept for one in spread(self.verdicts).promises}


def review(before: Plan, after: Plan, seeds: range, names: Sequence[str] | None = None) -> Reviewed:
    """Two plans side by side, all groups or some. Raises PlanError where they count in other money, or neither has a group."""
    if before.currency != after.currency:
        raise PlanError([Problem(("currency",), after.currency, f"is not that of the other plan, which is {before.currency}")])
    every = list(dict.fromkeys([*after.groups, *before.groups]))
    if unknown := [name for name in names or () if name not in every]:
        raise PlanError([Problem(("group",), unknown[0], f"no group of either plan has this name; there is: {', '.join(every)}")])
    rehearser, besides = Rehearser(), _besides(before, after)
    lives: dict[str, tuple[_Lived | None, _Lived | None]] = {}
    for name in names or every:
        was = _Lived(rehearser, before, name, seeds) if name in before.groups else None
        alike = was is not None and not besides and _stands_alone(before, after, name)
        lives[name] = was, was if alike else _Lived(rehearser, after, name, seeds) if name in after.groups else None
    groups = [_group(name, *both, before.currency) for name, both in lives.items()]
    sums = [[one for one in side if one is not None] for side in zip(*lives.values(), strict=True)]
    cost = _between(*(_summed([one.figure("cost") for one in side]) for side in sums))
    told = Review(currency=before.currency, seeds=len(seeds), cost=cost, besides=besides, groups=groups)
    firsts = [{name: both[k] for name, both in lives.items()} for k in (0, 1)]
    before_lives, after_lives = ({name: one.first for name, one in side.items() if one is not None} for side in firsts)
    return Reviewed(told, before_lives, after_lives)


def refused(told: Review, dearer_by: float) -> list[str]:
    """Why a change does not pass: all of it costs more by more than a share, a promise is newly broken, a finding that is an
    error and was not there. Empty where it passes."""
    said = []
    if told.cost.share is not None and told.cost.share > dearer_by + 1e-12:
        said.append(f"all of it costs {100 * told.cost.share:.3g} % more, and {100 * dearer_by:g} % are allowed")
    for group in told.groups:
        said += [f"{group.name}: {one.text} is kept {kept_text(one)}" for one in group.promises if one.newly_broken]
        said += [f"{group.name}: {one.code}: {one.text}" for one in group.found if one.severity == "error"]
    return said


def kept_text(promise: PromiseReview) -> str:
    """`under 3 of 5 seeds, was 5`."""
    if promise.after is None:
        return "no longer promised"
    was = "promised anew" if promise.before is None else f"was {promise.before}"
    return f"under {promise.after} of {promise.of} seeds" + ("" if promise.after == promise.before else f", {was}")


def _group(name: str, was: _Lived | None, now: _Lived | None, currency: str) -> GroupReview:
    pages = [None if one is None else group_page(one.first.crew, currency) for one in (was, now)]
    pairs = compared(pages[0], pages[1]) if pages[0] is not None and pages[1] is not None and was is not now else []
    figures = {
        field: _between(*([] if one is None else one.figure(field) for one in (was, now)))
        for field in ("cost", "short_minutes", "changes")
    }
    same = was is now or (not pairs and all(one.before == one.after for one in figures.values()))
    old, new = ({} if one is None else one.kept() for one in (was, now))
    lived = now or was
    assert lived is not None
    texts = dict.fromkeys([*new, *old])
    found = [one.findings if one is not None and was is not now else [] for one in (was, now)]
    known = [{(one.code, one.path) for one in side} for side in found]
    return GroupReview(
        name=name,
        state="came" if was is None else "went" if now is None else "same" if same else "changed",
        sentences=pairs,
        promises=[PromiseReview(text=t, before=old.get(t), after=new.get(t), of=len(lived.verdicts)) for t in texts],
        found=[one for one in found[1] if (one.code, one.path) not in known[0]],
        mended=[one for one in found[0] if (one.code, one.path) not in known[1]],
        **figures,
    )


def _summed(rows: Iterable[list[float]]) -> list[float]:
    return [sum(column) for column in zip(*rows, strict=True)]


def _between(before: list[float], after: list[float]) -> Between:
    """What two figures come to over the same seeds."""
    was, now = (mean(values) if values else None for values in (before, after))
    if was is None or now is None:
        return Between(before=was, after=now, more=None, low=None, high=None)
    each = [b - a for a, b in zip(before, after, strict=True)]
    more = mean(each)
    if len(each) < 2:
        return Between(before=was, after=now, more=more, low=None, high=None)
    off = float(stdtrit(len(each) - 1, 0.5 + SURE / 2)) * stdev(each) / len(each) ** 0.5
    return Between(before=was, after=now, more=more, low=more - off, high=more + off)


def _stands_alone(before: Plan, after: Plan, name: str) -> bool:
    """Whether a group is the same in both, and no other has a say in what it comes to."""
    one = after.groups.get(name)
    if one is None or one != before.groups[name] or one.shares_hosts:
        return False
    return before.groups == after.groups or all(machine.quota is None for machine in after.machines.values())


def _besides(before: Plan, after: Plan) -> list[str]:
    """What of the plans differs besides their groups and names: `machines: otter-2`."""
    found = []
    for field in type(after).model_fields:
        was, now = getattr(before, field), getattr(after, field)
        if field in ("name", "groups") or was == now:
            continue
        keys = [key for key in dict.fromkeys([*was, *now]) if was.get(key) != now.get(key)] if isinstance(now, dict) else []
        found.append(f"{field.replace('_', ' ')}: {', '.join(map(str, keys))}" if keys else field.replace("_", " "))
    return found
