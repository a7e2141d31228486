import pytest

from jostle.core.compiled import CACHE
from jostle.core.engine import warm
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import HOLD, plan


@pytest.mark.parametrize(
    "part", ["carry_out.evaluate", "requests.serve_requests", "jobs.do_jobs", "sessions.hold_sessions", "instance.settle"]
)
def test_what_is_compiled_beside_is_what_the_engine_calls(part):
    """One form of each function in the cache, whoever came first to it."""
    warm.main()
    assert rehearse(plan(groups__web__policies=[HOLD]), "web").result.arrived > 0
    assert len(list(CACHE.glob(f"**/{part}-*.nbc"))) == 1
