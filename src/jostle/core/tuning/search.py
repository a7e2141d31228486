"""The search: sets are drawn, judged, and drawn better; what is chosen keeps its promises under other seeds too."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field

from jostle.core.plan.plan import Plan
from jostle.core.plan.setting import setting
from jostle.core.tuning.goal import Goal, Judged
from jostle.core.tuning.judges import Judges, Task, Threads
from jostle.core.tuning.space import Varied, applied, steps_of, typed

# Sets drawn before the search leans on what it has seen, and candidates for the choice
FIRST_DRAWN, CANDIDATES = 24, 12
# More at once are drawn knowing less
AT_ONCE = 2


@dataclass
class Found:
    """What a search has found so far."""

    as_is: Judged
    sets: list[Judged] = field(default_factory=list)
    chosen: Judged | None = None
    confirmed: Judged | None = None
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
) -> Found:
    """Look at so many sets, or for so long, so many at once. `tell` is told after each and says whether to go on. The same sets
    are looked at whoever the judges are; they are threads of this process if left out.

    A tree-structured Parzen estimator draws the sets, several at once (Bergstra et al., Algorithms for Hyper-Parameter
    Optimization, 2011).
    """
    import optuna

    optuna.logging.set_verbosity(optuna.logging.ERROR)
    began = time.monotonic()
    judges = judges or Threads()
    start = _start(goal, space)
    found = Found(as_is=judges.judge(goal, [Task(0, start, goal.seeds, float("inf"))])[0])
    sampler = optuna.samplers.TPESampler(seed=seed, n_startup_trials=FIRST_DRAWN, multivariate=True, constant_liar=True)
    study = optuna.create_study(sampler=sampler)
    study.enqueue_trial({one.path: start[one.path] for one in space if one.low <= start[one.path] <= one.high})
    known: dict[tuple[float, ...], Judged] = {}
    while len(found.sets) < most and (seconds is None or time.monotonic() - began < seconds):
        trials = [study.ask() for _ in range(min(at_once, most - len(found.sets)))]
        values = [typed(space, {one.path: _suggest(trial, one) for one in space}) for trial in trials]
        best = found.best.cost if found.best else float("inf")
        numbered = list(enumerate(values, len(found.sets) + 1))
        new = [Task(number, one, goal.seeds, best) for number, one in numbered if tuple(one.values()) not in known]
        fresh = {judged.number: judged for judged in judges.judge(goal, new)}
        for trial, (number, one) in zip(trials, numbered, strict=True):
            judged = fresh.get(number) or known[tuple(one.values())].model_copy(update={"number": number})
            known[tuple(judged.values.values())] = judged
            found.sets.append(judged)
            worst = 10 * found.as_is.cost
            study.tell(trial, worst if judged.value is None else judged.value)
        found.seconds = time.monotonic() - began
        if tell is not None and not tell(found):
            break
    _choose(goal, found, judges)
    found.seconds, found.ended = time.monotonic() - began, True
    if tell is not None:
        tell(found)
    return found


def _start(goal: Goal, space: list[Varied]) -> dict[str, float]:
    document = goal.plan.groups[goal.group].model_dump(mode="json")
    return {one.path: setting(document, one.path) for one in space}


def _suggest(trial: "object", one: Varied) -> float:
    suggest = trial.suggest_float  # type: ignore[attr-defined]
    if steps_of(one):
        whole = one.low + (steps_of(one) - 1) * one.step
        return float(suggest(one.path, one.low, whole, step=one.step))
    return float(suggest(one.path, one.low, one.high))


def _choose(goal: Goal, found: Found, judges: Judges) -> None:
    """The cheapest whose promises are kept under the confirming seeds too; where none does, the one that keeps most."""
    distinct = {tuple(one.values.values()): one for one in found.sets if one.keeps}
    ranked = sorted(distinct.values(), key=lambda one: (one.cost, one.changes))[:CANDIDATES]
    confirmed: list[tuple[Judged, Judged]] = []
    for one in ranked:
        again = judges.judge(goal, [Task(one.number, one.values, goal.confirming, float("inf"))])[0]
        confirmed.append((one, again))
        if again.keeps:
            break
    if confirmed:
        found.chosen, found.confirmed = max(confirmed, key=lambda pair: (pair[1].kept, -pair[0].cost))


def chosen_group(plan: Plan, group: str, judged: Judged) -> dict[str, object]:
    """The group's plain data with the settings of a set."""
    return applied(plan.groups[group].model_dump(mode="json"), judged.values)
