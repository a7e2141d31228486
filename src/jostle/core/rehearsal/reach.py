"""How far figures of answers may be off where the model does not reach, as measured against models that go request by request.

docs/model.md has the measurements; tests/core/rehearsal/test_reach.py makes them again."""

import math

from jostle.core.plan.quantity import say_share
from jostle.core.plan.work import Requests
from jostle.core.rehearsal.rehearsal import Rehearsal

# By how much of itself p95 may be too high, up to an unevenness
UNEVEN = ((1.0, 0.0), (2.0, 0.1), (4.0, 0.25), (6.0, 0.4), (9.0, 0.55), (math.inf, 0.75))
# The same with clients that wait for their answer, below full load; and where they fill the group, when half of the answers
# take so much longer than told
WAITED, FULL, HALF_LONGER = 0.2, 1.2, 0.7


def reach(rehearsal: Rehearsal) -> str:
    """How far p95 of the answers may be from what is told, in a few words; empty where it is within 5 %."""
    work, setup = rehearsal.crew.group.work, rehearsal.result.setup
    if not isinstance(work, Requests):
        return ""
    if len(setup.thinks):
        if rehearsal.result.series["short"].any():
            slower = f"half of answers up to {say_share(HALF_LONGER)} slower"
            return f"p95 up to {say_share(FULL)} too high, {slower}: clients that wait fill the group"
        return f"p95 up to {say_share(WAITED)} too high: clients wait for their answer"
    over = next(most for unevenness, most in UNEVEN if work.unevenness <= unevenness)
    return f"up to {say_share(over)} too high: requests are very uneven" if over else ""
