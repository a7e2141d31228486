"""The search: sets are drawn, judged, and drawn better; what is chosen keeps its promises under other seeds too."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from jostle.core.plan.plan import Plan
from jostle.core.tuning.goal import Goal, Judged
from jostle.core.tuning.judges import Judges, Task, Threads
from jostle.core.tuning.space import Varied, applied, as_it_is, steps_of, typed

if TYPE_CHECKING:
    from optuna.distributions import BaseDistribution

# Sets drawn before the search leans on what it has seen, and candidates for the choice
FIRST_DRAWN, CANDIDATES = 24, 40
# More at once are drawn knowing less
AT_ONCE = 2


@dataclass
class Found:
    """What a search has found so far. What was chosen, and the group as it is, are rehearsed again under the same seeds, which
    chose nothing."""

    as_is: Judged
    sets: list[Judged] = field(default_factory=list)
    chosen: Judged | None = None
    confirmed: Judged | None = None
    as_is_confirmed: Judged | None = None
    seconds: float = 0.0
    ended: bool = False

    @property
    def best(self) -> Judged | None:
        """The cheapest that kept all under the seeds that were searched with."""
        kept = [one for one in self.sets if one.keeps]
        return min(kept, key=lambda one: (one.cost, one.changes), default=None)

    @property
    def nearest(self) -> Judged | None:
        """What comes nearest to keeping all, where none does."""
        return min((one for one in self.sets if one.value is not None), key=lambda one: one.value or 0.0, default=None)


def search(
    goal: Goal,
    space: list[Varied],
    most: int,
    seconds: float | None = None,
    seed: int = 1,
    tell: Callable[[Found], bool] | None = None,
    judges: Judges | None = None,
    at_once: int = AT_ONCE,
    known: Found | None = None,
) -> Found:
    """Look at so many sets, or for so long, so many at once. `tell` is told after each and says whether to go on. The same sets
    are looked at whoever the judges are; they are threads of this process if left out. What is `known` of a search that was
    stopped is gone on from: `most` counts its sets too.

    A tree-structured Parzen estimator draws the sets, several at once (Bergstra et al., Algorithms for Hyper-Parameter
    Optimization, 2011).
    """
    import optuna

    optuna.logging.set_verbosity(optuna.logging.ERROR)
    began = time.monotonic()
    judges = judges or Threads()
    start = _start(goal, space)
    found = known or Found(as_is=judges.judge(goal, [Task(0, start, goal.seeds)])[0])
    found.chosen = found.confirmed = found.as_is_confirmed = None
    found.ended, before = False, found.seconds
    worst = 10 * found.as_is.cost
    drawn_with = seed + len(found.sets)
    sampler = optuna.samplers.TPESampler(seed=drawn_with, n_startup_trials=FIRST_DRAWN, multivariate=True, constant_liar=True)
    study = optuna.create_study(sampler=sampler)
    looked_at = {tuple(one.values.values()): one for one in found.sets}
    ranges = {one.path: _range(one) for one in space}
    for judged in found.sets:
        value = worst if judged.value is None else judged.value
        study.add_trial(optuna.trial.create_trial(params=dict(judged.values), distributions=ranges, value=value))
    if not found.sets:
        study.enqueue_trial({one.path: start[one.path] for one in space if one.low <= start[one.path] <= one.high})
    while len(found.sets) < most and (seconds is None or time.monotonic() - began < seconds):
        trials = [study.ask(ranges) for _ in range(min(at_once, most - len(found.sets)))]
        values = [typed(space, trial.params) for trial in trials]
        best = found.best.costs_under(goal.seeds) if found.best else ()
        numbered = list(enumerate(values, len(found.sets) + 1))
        new = [Task(number, one, goal.seeds, best) for number, one in numbered if tuple(one.values()) not in looked_at]
        fresh = {judged.number: judged for judged in judges.judge(goal, new)}
        for trial, (number, one) in zip(trials, numbered, strict=True):
            judged = fresh.get(number) or looked_at[tuple(one.values())].model_copy(update={"number": number})
            looked_at[tuple(judged.values.values())] = judged
            found.sets.append(judged)
            study.tell(trial, worst if judged.value is None else judged.value)
        found.seconds = before + time.monotonic() - began
        if tell is not None and not tell(found):
            break
    _choose(goal, found, judges)
    found.seconds, found.ended = before + time.monotonic() - began, True
    if tell is not None:
        tell(found)
    return found


def _start(goal: Goal, space: list[Varied]) -> dict[str, float]:
    document = goal.plan.groups[goal.group].model_dump(mode="json")
    return {one.path: as_it_is(document, one.path) for one in space}


def _range(one: Varied) -> "BaseDistribution":
    """Where a setting may lie, as the sampler has it."""
    from optuna.distributions import FloatDistribution

    if steps_of(one):
        return FloatDistribution(one.low, one.low + (steps_of(one) - 1) * one.step, step=one.step)
    return FloatDistribution(one.low, one.high)


def _choose(goal: Goal, found: Found, judges: Judges) -> None:
    """The cheapest whose promises are kept under the choosing seeds too; where none does, the one that keeps most. Whoever is the
    best of many under some seeds was lucky in them too: how often it keeps its promises is told from others."""
    distinct = {tuple(one.values.values()): one for one in found.sets if one.keeps}
    ranked = sorted(distinct.values(), key=lambda one: (one.cost, one.changes))[:CANDIDATES]
    tried: list[tuple[Judged, Judged]] = []
    for first in range(0, len(ranked), AT_ONCE):
        some = ranked[first : first + AT_ONCE]
        again = judges.judge(goal, [Task(one.number, one.values, goal.choosing, ()) for one in some])
        tried += zip(some, again, strict=True)
        if any(one.keeps for one in again):
            break
    if tried:
        found.chosen, _ = max(tried, key=lambda pair: (pair[1].kept, -pair[0].cost))
        both = (found.chosen.number, found.chosen.values), (0, found.as_is.values)
        found.confirmed, found.as_is_confirmed = judges.judge(goal, [Task(*one, goal.confirming) for one in both])


def chosen_group(plan: Plan, group: str, judged: Judged) -> dict[str, object]:
    """The group's plain data with the settings of a set."""
    return applied(plan.groups[group].model_dump(mode="json"), judged.values)
