"""The search: sets are drawn, judged, and drawn better; what is chosen keeps its promises under other seeds too."""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

from jostle.core.plan.plan import Plan
from jostle.core.plan.setting import setting
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.tuning.goal import Goal, Judged
from jostle.core.tuning.space import Varied, applied, steps_of, typed

# Sets drawn before the search leans on what it has seen, and candidates for the choice
FIRST_DRAWN, CANDIDATES = 24, 12
THREADS = 2


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
) -> Found:
    """Look at so many sets, or for so long. `tell` is told after each and says whether to go on; one rehearser for each thread.

    A tree-structured Parzen estimator draws the sets, several at once (Bergstra et al., Algorithms for Hyper-Parameter
    Optimization, 2011).
    """
    import optuna

    optuna.logging.set_verbosity(optuna.logging.ERROR)
    began = time.monotonic()
    rehearsers = [Rehearser() for _ in range(THREADS)]
    start = _start(goal, space)
    found = Found(as_is=goal.judge(0, start, rehearsers[0], goal.seeds, float("inf")))
    sampler = optuna.samplers.TPESampler(seed=seed, n_startup_trials=FIRST_DRAWN, multivariate=True, constant_liar=True)
    study = optuna.create_study(sampler=sampler)
    study.enqueue_trial({one.path: start[one.path] for one in space if one.low <= start[one.path] <= one.high})
    known: dict[tuple[float, ...], Judged] = {}
    with ThreadPoolExecutor(THREADS) as pool:
        while len(found.sets) < most and (seconds is None or time.monotonic() - began < seconds):
            trials = [study.ask() for _ in range(min(THREADS, most - len(found.sets)))]
            values = [typed(space, {one.path: _suggest(trial, one) for one in space}) for trial in trials]
            best = found.best.cost if found.best else float("inf")
            first = len(found.sets) + 1

            def look(place: int, values: list[dict[str, float]] = values, best: float = best, first: int = first) -> Judged:
                key = tuple(values[place].values())
                if key in known:
                    return known[key].model_copy(update={"number": first + place})
                return goal.judge(first + place, values[place], rehearsers[place], goal.seeds, best)

            for trial, judged in zip(trials, pool.map(look, range(len(trials))), strict=True):
                known[tuple(judged.values.values())] = judged
                found.sets.append(judged)
                worst = 10 * found.as_is.cost
                study.tell(trial, worst if judged.value is None else judged.value)
            found.seconds = time.monotonic() - began
            if tell is not None and not tell(found):
                break
    _choose(goal, found, rehearsers)
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


def _choose(goal: Goal, found: Found, rehearsers: list[Rehearser]) -> None:
    """The cheapest whose promises are kept under the confirming seeds too; where none does, the one that keeps most."""
    distinct = {tuple(one.values.values()): one for one in found.sets if one.keeps}
    ranked = sorted(distinct.values(), key=lambda one: (one.cost, one.changes))[:CANDIDATES]
    confirmed: list[tuple[Judged, Judged]] = []
    for one in ranked:
        again = goal.judge(one.number, one.values, rehearsers[0], goal.confirming, float("inf"))
        confirmed.append((one, again))
        if again.keeps:
            break
    if confirmed:
        found.chosen, found.confirmed = max(confirmed, key=lambda pair: (pair[1].kept, -pair[0].cost))


def chosen_group(plan: Plan, group: str, judged: Judged) -> dict[str, object]:
    """The group's plain data with the settings of a set."""
    return applied(plan.groups[group].model_dump(mode="json"), judged.values)
