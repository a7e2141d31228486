"""What was lived of a group, as its meters told it: the same quantities that are brought from elsewhere in files."""

import numpy as np

from jostle.core.decide.code import Dial
from jostle.core.fitting.observed import Observed, Quantity
from jostle.core.plan.work import Jobs, Sessions
from jostle.live.life import Life


def observed_of(life: Life) -> Observed:
    """Reading by reading, from the beginning to now. The meters tell no mean of latencies."""
    result, work = life.record().result, life.leg.crew.group.work
    period, number = float(result.setup.of("period")), int(life.state.now["samples"][0])
    samples = result.state.sight.samples[0, :, :number].astype(np.float64)
    there = result.state.sight.metered[:number].astype(np.float64)
    values: dict[Quantity, np.ndarray] = {
        "arrivals": samples[Dial.ARRIVALS],
        # As many as they would be on the machine of the template
        "instances": there / life.leg.crew.weight_of(0),
        "cpu": samples[Dial.CPU],
        "memory": samples[Dial.MEMORY],
    }
    decisions = result.decisions
    at = np.searchsorted(decisions["time"], period * np.arange(1.0, 1.0 + number) + 1e-6, side="right") - 1
    if len(decisions):
        values["wanted"] = np.where(at < 0, np.nan, decisions["decided"][np.maximum(at, 0)]).astype(np.float64)
    if isinstance(work, Jobs):
        values["waiting"] = samples[Dial.BACKLOG]
        values["done"] = samples[Dial.REQUESTS_PER_INSTANCE] * there
    if isinstance(work, Sessions):
        values["sessions"] = samples[Dial.SESSIONS_PER_INSTANCE] * there
    return Observed(life.clock.first, period, values)
