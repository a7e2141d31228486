"""What takes long has its turn, and what is answered at once does not wait for it."""

import time
from threading import Event, Thread

import httpx2
import pytest

from jostle.api import turns
from jostle.api.app import create_app
from jostle.api.desk import Desk
from jostle.records.store import Store
from tests.patience import PATIENCE
from tests.plans import plan
from tests.provider.serving import serving

REHEARSALS = "/api/plans/1/groups/web/rehearsals"


@pytest.fixture
def held(monkeypatch):
    """Rehearsals that last until they are let go, and how many have begun."""
    goes_on, begun, changed = Event(), [], Desk.changed

    def waiting(*given, **named):
        begun.append(None)
        assert goes_on.wait(PATIENCE)
        return changed(*given, **named)

    monkeypatch.setattr(Desk, "changed", waiting)
    return goes_on, begun


def test_what_is_answered_at_once_does_not_wait_for_what_takes_long(tmp_path, held, monkeypatch):
    monkeypatch.setattr(turns, "MOST_WAITING", 4)
    goes_on, begun = held
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(plan())
    answers = []
    with serving(create_app(store)) as url:

        def rehearse(seed):
            answers.append(httpx2.post(f"{url}{REHEARSALS}", json={"seed": seed}, timeout=PATIENCE))

        asking = [Thread(target=rehearse, args=(seed,)) for seed in range(turns.AT_ONCE + 6)]
        for one in asking:
            one.start()
        until = time.monotonic() + PATIENCE
        while len(answers) < 2 or len(begun) < turns.AT_ONCE:
            assert time.monotonic() < until
            time.sleep(0.01)
        assert [one.status_code for one in answers] == [503, 503]
        assert "4 rehearsals wait already" in answers[0].text
        assert answers[0].headers["retry-after"] == "5"
        assert httpx2.get(f"{url}/api/plans/1", timeout=PATIENCE).status_code == 200
        assert len(begun) == turns.AT_ONCE
        goes_on.set()
        for one in asking:
            one.join(PATIENCE)
    assert sorted(one.status_code for one in answers) == [200] * (turns.AT_ONCE + 4) + [503] * 2
