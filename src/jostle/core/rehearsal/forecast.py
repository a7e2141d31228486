"""How well a policy that looks ahead foresaw what came."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.decide.code import Dial
from jostle.core.plan.clock import DAY
from jostle.core.plan.policy import LookaheadPolicy
from jostle.core.plan.policy.lookahead import SLOT
from jostle.core.rehearsal.rehearsal import Rehearsal

Floats = NDArray[np.float64]


class Foreseen(NamedTuple):
    """Mean distance between what was expected and what came, as shares of the mean of what came; `as_yesterday` is that of
    expecting what came a day before, over the same evaluations. None where there are none."""

    off: float | None
    as_yesterday: float | None


def looking_ahead(rehearsal: Rehearsal) -> list[tuple[int, LookaheadPolicy]]:
    """The policies that look ahead, with their numbers."""
    policies = enumerate(rehearsal.crew.group.policies)
    return [(number, one) for number, one in policies if isinstance(one, LookaheadPolicy) and not one.paused]


def expected_rates(rehearsal: Rehearsal, number: int) -> Floats:
    """What a policy expected at the most within its lead, at each evaluation, 1/s; nan where it knew of no week."""
    return np.asarray(rehearsal.result.views["value"][:, number], dtype=np.float64)


def foreseen(rehearsal: Rehearsal, number: int) -> Foreseen:
    """What a policy expected against the highest mean of five minutes that came within its lead."""
    result = rehearsal.result
    expected, times = expected_rates(rehearsal, number), np.asarray(result.decisions["time"], dtype=np.float64)
    lead = float(result.setup.rules.policies.view(np.ndarray)["lead"][number])
    means = _means(rehearsal)
    came, yesterday = (_highest(means, times - back, lead) for back in (0.0, float(DAY)))
    told = ~np.isnan(expected) & ~np.isnan(came)
    both = told & ~np.isnan(yesterday)
    if not both.any():
        return Foreseen(_off(expected[told], came[told]), None)
    return Foreseen(_off(expected[both], came[both]), _off(yesterday[both], came[both]))


def _off(expected: Floats, came: Floats) -> float | None:
    mean = float(came.mean()) if len(came) else 0.0
    return float(np.abs(expected - came).mean()) / mean if mean > 0 else None


def _means(rehearsal: Rehearsal) -> Floats:
    """Arrivals per second as metered, in means over each place in the week."""
    setup = rehearsal.result.setup
    metered = rehearsal.result.state.sight.samples[0, Dial.ARRIVALS].astype(np.float64)
    places = ((np.arange(len(metered)) + 0.5) * setup.of("period") / SLOT).astype(np.int64)
    known = ~np.isnan(metered)
    sums, counts = np.bincount(places[known], metered[known]), np.bincount(places[known])
    return np.asarray(np.divide(sums, counts, out=np.full(len(sums), np.nan), where=counts > 0))


def _highest(means: Floats, times: Floats, lead: float) -> Floats:
    """The highest of the means from each time to `lead` after it; nan where not all of them are there."""
    first, last = np.floor(times / SLOT).astype(np.int64), np.floor((times + lead) / SLOT).astype(np.int64)
    there = (first >= 0) & (last < len(means))
    found = np.full(len(times), -np.inf)
    for ahead in range(int(lead // SLOT) + 2):
        place = np.clip(first + ahead, 0, max(0, len(means) - 1))
        found = np.where(first + ahead <= last, np.maximum(found, means[place]), found)
    return np.where(there, found, np.nan)
