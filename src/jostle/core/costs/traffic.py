"""What traffic costs: what a load balancer carries, and what is sent to the world, in whole bytes."""

from collections.abc import Sequence
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from jostle.core.engine.compile import Crew
from jostle.core.engine.result import Result
from jostle.core.engine.setup import Setup
from jostle.core.plan.work import Sessions, WorkKind


def pieces_until(result: Result, ticks: Sequence[int]) -> NDArray[np.float64]:
    """Requests or jobs done, or seconds of sessions, before each of these ticks."""
    series, played = result.series, int(result.state.now["tick"][0])
    by_time = result.setup.of("work") == WorkKind.SESSIONS
    each = series["seated"][:played] * np.float64(result.setup.tick) if by_time else series["served"][:played]
    whole = np.concatenate([[0.0], np.cumsum(each, dtype=np.float64)])
    return np.asarray(whole[np.minimum(np.asarray(ticks, dtype=np.int64), played)])


def traffic_cost(result: Result, crew: Crew) -> dict[str, Decimal]:
    """What each kind of traffic cost so far."""
    kinds = crew.traffics
    if not kinds:
        return {}
    return {kind.what: kind.cost(kind.moved(result.tally("pieces"))) for kind in kinds}


def traffic_of_all(setup: Setup, crew: Crew) -> Decimal:
    """What traffic costs where everything that comes is done."""
    work = crew.group.work
    pieces = float(setup.offered.sum()) * setup.tick * (work.length if isinstance(work, Sessions) else 1.0)
    return sum((kind.cost(kind.moved(pieces)) for kind in crew.traffics), Decimal())
