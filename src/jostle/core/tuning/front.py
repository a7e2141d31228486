"""The front: the sets that no other beats in both cost and shortfall; and what matters: how much each setting explains."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from jostle.core.tuning.goal import Judged
from jostle.core.tuning.space import Varied

# Parts into which a setting's range is cut to see how much of the variance lies between them
PARTS = 8


def front(sets: list[Judged]) -> list[Judged]:
    """Cheapest first; each that follows is dearer and short for less time."""
    found: list[Judged] = []
    for one in sorted((one for one in sets if one.refused is None), key=lambda one: (one.cost, one.short_minutes)):
        if not found or one.short_minutes < found[-1].short_minutes - 1e-9:
            found.append(one)
    return found


class Matters(BaseModel):
    """How much of the variance of cost and of the shortfall over the sets that were looked at a setting alone explains."""

    path: str
    on_cost: float
    on_short: float


def matters(sets: list[Judged], space: list[Varied]) -> list[Matters]:
    """The correlation ratio (Pearson 1905) of each setting, what explains most first."""
    seen = [one for one in sets if one.refused is None]
    if len(seen) < 2 * PARTS:
        return []
    cost, short = (np.array([getattr(one, figure) for one in seen]) for figure in ("cost", "short_minutes"))
    found = []
    for one in space:
        values = np.array([judged.values[one.path] for judged in seen])
        edges = np.quantile(values, np.linspace(0, 1, PARTS + 1)[1:-1])
        part = np.searchsorted(edges, values)
        found.append(Matters(path=one.path, on_cost=_between(cost, part), on_short=_between(np.log1p(short), part)))
    return sorted(found, key=lambda one: -max(one.on_cost, one.on_short))


def _between(figure: NDArray[np.float64], part: NDArray[np.int64]) -> float:
    whole = float(figure.var())
    if whole <= 0:
        return 0.0
    inside = sum(float(figure[part == one].var()) * int((part == one).sum()) for one in np.unique(part)) / len(figure)
    return max(0.0, 1.0 - inside / whole)
