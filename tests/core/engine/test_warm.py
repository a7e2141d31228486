from pathlib import Path

import pytest

from jostle.core.engine import warm
from jostle.core.engine.carry_out import evaluate
from jostle.core.engine.instance import settle
from jostle.core.engine.jobs import do_jobs
from jostle.core.engine.requests import serve_requests
from jostle.core.engine.sessions import hold_sessions
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import HOLD, plan


@pytest.mark.parametrize("part", [evaluate, serve_requests, do_jobs, hold_sessions, settle], ids=lambda part: part.__name__)
def test_what_is_compiled_beside_is_what_the_engine_calls(part):
    """One form of each function in the cache of this copy of the sources, whoever came first to it."""
    warm.main()
    assert rehearse(plan(groups__web__policies=[HOLD]), "web").result.arrived > 0
    module = part.__module__.rpartition(".")[2]
    assert len(list(Path(part.stats.cache_path).glob(f"{module}.{part.__name__}-*.nbc"))) == 1
