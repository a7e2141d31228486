"""What is good: promises kept under all seeds, at the least cost. Each set of settings is judged by rehearsals of it."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import fmean
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from jostle.core.checks.check import errors_of
from jostle.core.plan.demand import Demand
from jostle.core.plan.layer import Scale
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import Judgement, judge
from jostle.core.tuning.space import applied

# A set that is so much dearer than the best that kept all, under the same seeds, is looked at no further: at once, and after a
# few seeds, as is one that has kept all its promises under none of these
DEARER, SURELY_DEARER, FEW = 1.25, 1.02, 3
# What promises weigh that are broken by all that they allow, as a share of the cost for each rehearsal; and by next to nothing,
# so that a search finds the edge and stays within it
BROKEN, EDGE = 0.5, 0.1
# Plays a plan under seeds, and tells of each what came of it, under one demand after the other
Weeks = Callable[[Plan, Rehearser, Sequence[int]], Iterator[list[Judgement]]]
# Seeds that no search looks with, of which the first choose among what it found, and the others choose nothing
CHOOSING, CONFIRMING = tuple(range(1001, 1011)), tuple(range(2001, 2021))
# How sure the span of a share is
SURE = 0.95


class Judged(BaseModel):
    """One set of settings: its figures on average over the seeds that it was rehearsed under, and how many kept every promise.
    The cost of one that was given up is the best's, times how much dearer it was under the same seeds. `refused` says why it was
    not rehearsed at all; `value` is what the search makes small, none for what was refused; `costs` are its costs by seed."""

    model_config = ConfigDict(frozen=True)

    number: int
    values: dict[str, float]
    cost: float = 0.0
    short_minutes: float = 0.0
    changes: float = 0.0
    kept: int = 0
    seeds: int = 0
    refused: str | None = None
    value: float | None = None
    beyond: float = Field(default=0.0, description="How far its promises were missed, as a share of what they allow")
    costs: tuple[float, ...] = Field(default=(), exclude=True)

    def costs_under(self, seeds: Sequence[int]) -> tuple[float, ...]:
        """Its cost under each of these; the same under all where that is no longer known."""
        return self.costs or (self.cost,) * len(seeds)

    @property
    def keeps(self) -> bool:
        return self.refused is None and self.seeds > 0 and self.kept == self.seeds

    @property
    def share(self) -> tuple[float, float]:
        """The least and the most that the share of all weeks in which it keeps its promises may be, by the weeks that were played
        (Clopper and Pearson 1934)."""
        from scipy.special import betaincinv

        beside, lost = (1.0 - SURE) / 2, self.seeds - self.kept
        low = betaincinv(self.kept, lost + 1, beside) if self.kept else 0.0
        high = betaincinv(self.kept + 1, lost, 1.0 - beside) if lost else 1.0
        return float(low), float(high)

    def said_of_others(self) -> str:
        """Of one that was rehearsed under seeds that chose nothing."""
        low, high = self.share
        return f"{self.kept} of {self.seeds} that chose nothing: {100 * low:.0f} to {100 * high:.0f} % of all weeks"


class Under(BaseModel):
    """A demand of the plan, so many times as high, that a set has to keep its promises under."""

    model_config = ConfigDict(frozen=True)

    demand: str = Field(max_length=200)
    times: float = Field(default=1.0, gt=0, le=100)


@dataclass(frozen=True)
class Goal:
    """Where and how sets are judged: seeds to search with, others to choose with, and others again to confirm with; demands, the
    group's own where none is named; `margin` says by how much of it a threshold to add has to lie above one to remove on the same
    metric."""

    plan: Plan
    group: str
    seeds: tuple[int, ...]
    choosing: tuple[int, ...]
    confirming: tuple[int, ...]
    margin: float = 0.1
    demands: tuple[str, ...] = ()

    @classmethod
    def over(cls, plan: Plan, group: str, seeds: int, margin: float, under: Sequence[Under] = ()) -> "Goal":
        """The goal over the first so many seeds. Raises PlanError where there is no such demand."""
        demands, names = dict(plan.demands), []
        for number, one in enumerate(under):
            if one.demand not in plan.demands:
                told = f"no demand has this name; there is: {', '.join(plan.demands)}"
                raise PlanError([Problem(("demand",), one.demand, told)])
            names.append(one.demand if one.times == 1 else f"{one.demand}-{number}")
            demands[names[-1]] = more_of(plan.demands[one.demand], one.times)
        changed = plan.model_copy(update={"demands": demands})
        return cls(changed, group, tuple(range(1, seeds + 1)), CHOOSING, CONFIRMING, margin, tuple(names))

    def refusal(self, document: dict[str, Any]) -> tuple[Plan | None, str | None]:
        """The plan with the group as given, or why it cannot be, before anything is rehearsed."""
        try:
            plan = with_group(self.plan, self.group, document)
        except PlanError as error:
            return None, f"{error.problems[0].place}: {error.problems[0].message}"
        crew = crew_of(plan, self.group)
        if (close := _too_close(crew.group.policies, self.margin)) is not None:
            return None, close
        errors = [one for one in errors_of(plan, crew) if (one.code, one.path) not in self._known_errors]
        return (None, errors[0].text) if errors else (plan, None)

    @cached_property
    def _known_errors(self) -> set[tuple[str, str]]:
        """What is wrong with the group as it is does not speak against a setting."""
        return {(one.code, one.path) for one in errors_of(self.plan, crew_of(self.plan, self.group))}

    def _met(self, plan: Plan) -> list[Plan]:
        """The plan under each of the demands."""
        group = plan.groups[self.group]
        names = self.demands or (group.demand,)
        met = [group.model_copy(update={"demand": name}) for name in names]
        return [plan.model_copy(update={"groups": {**plan.groups, self.group: one}}) for one in met]

    def weeks(self, plan: Plan, rehearser: Rehearser, seeds: Sequence[int]) -> Iterator[list[Judgement]]:
        """What comes of a group under each seed, under one demand after the other."""
        played = (rehearser.rehearse_each(one, self.group, seeds, bare=True) for one in self._met(plan))
        for at_once in zip(*played, strict=True):
            yield [judge(one) for one in at_once]

    def judge(
        self,
        number: int,
        values: dict[str, float],
        rehearser: Rehearser,
        seeds: tuple[int, ...],
        best: Sequence[float] | None = None,
        weeks: Weeks | None = None,
    ) -> Judged:
        """Rehearse a set under each of the seeds. Where there is a `best` that kept all, of which the cost under each of them is
        given, or none yet (empty), it is given up as soon as it cannot come near, or keeps its promises under none of a few.
        `weeks` plays them in the place of its own."""
        plan, refused = self.refusal(applied(self.plan.groups[self.group].model_dump(mode="json"), values))
        if plan is None:
            return Judged(number=number, values=values, refused=refused)
        short = changes = missed = beyond = usual = 0.0
        kept = looked = 0
        costs: list[float] = []
        for at_once in (weeks or self.weeks)(plan, rehearser, seeds):
            costs.append(fmean(float(told.cost) for told in at_once))
            for told in at_once:
                looked += 1
                short += told.short_minutes
                changes += told.changes
                kept += told.broken == 0
                beyond += told.beyond
                missed += min(1.0, EDGE + told.beyond) if told.broken else 0.0
            if best is None:
                continue
            usual, few = sum(best[: len(costs)]), len(costs) >= FEW
            if (best and sum(costs) > usual * (SURELY_DEARER if few else DEARER)) or (few and kept == 0):
                break
        mean = fmean(costs)
        if best and usual and len(costs) < len(seeds):
            mean = fmean(best) * sum(costs) / usual
        value = mean * (1.0 + BROKEN * missed / looked)
        return Judged(
            number=number,
            values=values,
            cost=mean,
            short_minutes=short / looked,
            changes=changes / looked,
            kept=kept,
            seeds=looked,
            value=value,
            beyond=beyond / looked,
            costs=tuple(costs),
        )


def more_of(demand: Demand, times: float) -> Demand:
    """A demand so many times as high."""
    if times == 1:
        return demand
    return demand.model_copy(update={"layers": [*demand.layers, Scale(kind="scale", factor=times)]})


def _too_close(policies: list[Any], margin: float) -> str | None:
    triggers = [policy for policy in policies if isinstance(policy, TriggerPolicy) and not policy.paused]
    for up in triggers:
        for down in triggers:
            if not (up.adds and down.removes and up.metric == down.metric and up.side == "above" and down.side == "below"):
                continue
            if up.threshold < down.threshold * (1 + margin):
                return (
                    f"{up.name} adds at {up.say_level(up.threshold)}, too near to {down.name} at {down.say_level(down.threshold)}"
                )
    return None
