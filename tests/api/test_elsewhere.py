"""Groups kept at a provider in another process, over the API: kept, told, steered, waited for, and there again after a stop."""

import threading
import time
from threading import Event, Thread
from typing import NamedTuple

import httpx2
import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.api.outside import AT_ONCE
from jostle.provider.client import HttpProvider
from jostle.provider.provider import Refused
from jostle.records.store import Store
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests import hostile as servers
from tests.hostile import hostile
from tests.patience import PATIENCE
from tests.plans import ADD, REMOVE, plan
from tests.provider.serving import free_port, serving

HOUR = 3600.0
PATH = "/api/plans/1/live/elsewhere"
RUSH = {"kind": "surge", "at": "2025-07-07T00:10", "factor": 4, "hold": "2 h"}
OF_IT = {
    "days": 3 / 24,
    "demands__even__layers": [{"kind": "level", "rate": 30}, RUSH],
    "groups__web__policies": [ADD, REMOVE],
    "groups__web__owned": None,
}
MADE, LATER = plan(**OF_IT), {**OF_IT, "start": "2025-07-08T00:00"}
PACE = 3600.0


@pytest.fixture
def records(tmp_path):
    made = Store(tmp_path / "jostle.sqlite")
    made.add_plan(MADE)
    return made


@pytest.fixture
def world(tmp_path):
    return World(MADE, 1, tmp_path / "world")


def service_over(records):
    return TestClient(create_app(records), base_url="http://127.0.0.1")


def soon(ask, what=lambda found: found):
    """What is asked for, once it is so."""
    until = time.monotonic() + PATIENCE
    while not what(found := ask()):
        assert time.monotonic() < until, f"never came: {found}"
        Event().wait(0.05)
    return found


def only(service):
    found = service.get(PATH)
    assert found.status_code == 200, found.text
    return found.json()[0]


def keep(service, url):
    return service.post(PATH, json={"group": "web", "url": url})


def test_a_group_is_kept_and_told_at_a_provider(records, world):
    with serving(create_standin(world)) as url, service_over(records) as service:
        assert service.get(PATH).json() == []
        assert keep(service, url).status_code == 201
        world.set_clock(HOUR, None)
        one = soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
        assert one["url"] == url
        assert one["away"] is one["trouble"] is None
        assert [policy["name"] for policy in one["policies"]] == ["add", "remove"]
        assert any(": add" in line["text"] for line in one["lines"])
        assert one["summary"].startswith(f"{world.places['web'].ground.counts().present} wanted")
        again = keep(service, url)
        assert again.status_code == 409
        assert "let it go first" in again.json()["detail"]
        assert service.delete(f"{PATH}/web").json() == []
        assert service.delete(f"{PATH}/web").status_code == 404


def test_what_is_no_provider_is_refused_by_its_address(records, world):
    with service_over(records) as service:
        nobody = keep(service, f"http://127.0.0.1:{free_port()}")
        assert nobody.status_code == 422
        assert nobody.json()["errors"][0]["path"] == "url"
        assert "cannot be reached" in nobody.json()["detail"]
        for wrong in ("ftp://somewhere", "http://[", ""):
            assert keep(service, wrong).status_code == 422
        with serving(create_standin(World(plan(groups__web__evaluate_every=30)))) as other:
            refused = keep(service, other)
            assert refused.status_code == 409
            assert "its evaluations, every 30 s, the plan's 1 min" in refused.json()["detail"]
            assert service.post(PATH, json={"group": "nobody", "url": other}).status_code == 404
        assert service.get(PATH).json() == []


def test_a_held_group_and_a_dry_run_order_nothing(records, world):
    with serving(create_standin(world)) as url, service_over(records) as service:
        keep(service, url)
        held = service.put(f"{PATH}/web", json={"held": True}).json()[0]
        assert held["held"]
        world.set_clock(HOUR, None)
        soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
        assert world.places["web"].ground.counts().present == MADE.groups["web"].first_count
        service.put(f"{PATH}/web", json={"held": False, "dry": True})
        world.set_clock(2 * HOUR, None)
        one = soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 02:00")
        assert any("would go" in line["text"] for line in one["lines"])
        assert world.places["web"].ground.counts().present == MADE.groups["web"].first_count
        service.delete(f"{PATH}/web")


def test_a_provider_that_is_away_is_told_since_when_and_waited_for(records, tmp_path):
    port = free_port()
    with service_over(records) as service:
        with serving(create_standin(World(MADE, 1, tmp_path / "world")), port) as url:
            keep(service, url)
        away = soon(lambda: only(service), lambda one: one["away"])
        assert away["away"].startswith("Since ")
        assert "cannot be reached" in away["away"]
        back = World(MADE, 1, tmp_path / "world")
        with serving(create_standin(back), port):
            soon(lambda: only(service), lambda one: not one["away"])
            back.set_clock(HOUR, None)
            soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
            service.delete(f"{PATH}/web")


def test_it_is_kept_on_after_a_stop_with_what_was_remembered(records, world):
    with serving(create_standin(world)) as url:
        with service_over(records) as service:
            keep(service, url)
            service.put(f"{PATH}/web", json={"dry": False})
            world.set_clock(HOUR, None)
            soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
        with service_over(Store(records.path)) as service:
            world.set_clock(3 * HOUR, None)
            soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 03:00")
            service.delete(f"{PATH}/web")
    untouched = World(MADE)
    with serving(create_standin(untouched)) as url, service_over(records) as service:
        keep(service, url)
        untouched.set_clock(3 * HOUR, None)
        soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 03:00")
        service.delete(f"{PATH}/web")
    both = (one.places["web"].record().result.series["desired"].tolist() for one in (world, untouched))
    assert next(both) == next(both)


def test_a_refusal_is_told_and_the_keeper_goes_on_by_itself(records, world, monkeypatch):
    with serving(create_standin(world)) as url, service_over(records) as service:
        keep(service, url)
        soon(lambda: only(service)["lines"] is not None)
        monkeypatch.setattr("jostle.provider.client.HttpProvider.answer", _refuses)
        world.set_clock(HOUR, None)
        one = soon(lambda: only(service), lambda one: one["away"])
        assert "there is no such instant" in one["away"]
        monkeypatch.undo()
        one = soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
        assert one["away"] is one["trouble"] is None
        assert service.post(f"{PATH}/web/again").status_code == 409
        service.delete(f"{PATH}/web")


def test_a_provider_that_begins_anew_is_noticed_and_kept_on_from_what_is_there(records, tmp_path):
    port = free_port()
    later = plan(**LATER)
    with service_over(records) as service:
        with serving(create_standin(first := World(MADE, 1, tmp_path / "world")), port) as url:
            keep(service, url)
            first.set_clock(HOUR, None)
            soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
        with serving(create_standin(anew := World(later, 1, tmp_path / "other")), port):
            anew.set_clock(HOUR, None)
            one = soon(lambda: only(service), lambda one: one["clock"] == "Tue 8 Jul 01:00")
        assert any("has begun anew: its first instant was Mon Jul  7 " in line["text"] for line in one["lines"])
        assert one["trouble"] is None
        service.delete(f"{PATH}/web")


def test_a_full_disk_is_told_and_got_over(records, world, monkeypatch):
    with serving(create_standin(world)) as url, service_over(records) as service:
        keep(service, url)
        monkeypatch.setattr("jostle.records.elsewhere_store.ElsewhereStore.answer", _fails)
        world.set_clock(HOUR, None)
        one = soon(lambda: only(service), lambda one: one["away"])
        assert "what its keeper remembers cannot be kept: no room" in one["away"]
        monkeypatch.undo()
        one = soon(lambda: only(service), lambda one: one["clock"] == "Mon 7 Jul 01:00")
        assert one["away"] is one["trouble"] is None
        service.delete(f"{PATH}/web")


def _fails(*args):
    raise OSError("no room")


def _refuses(*args):
    raise Refused("there is no such instant")


@pytest.mark.parametrize("server", servers.SLOW)
def test_slow_providers_hold_up_no_page_and_too_many_are_refused(records, server):
    with hostile(server) as url, serving(create_app(records)) as address:
        refused = []

        def keep_there():
            refused.append(httpx2.post(f"{address}{PATH}", json={"group": "web", "url": url}, timeout=PATIENCE))

        asking = [Thread(target=keep_there) for _ in range(AT_ONCE + 2)]
        for one in asking:
            one.start()
        busy = soon(lambda: [one.status_code for one in refused], lambda found: found.count(503) >= 2)
        for _ in range(5):
            assert httpx2.get(f"{address}/api/plans", timeout=PATIENCE).json()
        assert busy == [503, 503]
        for one in asking:
            one.join(PATIENCE)
        assert sorted(one.status_code for one in refused) == [422] * AT_ONCE + [503] * 2
        assert any("no whole answer within 5 s" in one.text for one in refused)
        assert any("try again in a few seconds" in one.text for one in refused)


@pytest.mark.parametrize(
    ("server", "said"),
    [(servers.endless, "is longer than 8 MiB"), (servers.deep, "depth limit"), (servers.bad_gzip, "is no gzip")],
)
def test_an_answer_that_cannot_be_read_is_refused_by_name(records, server, said):
    with hostile(server) as url, service_over(records) as service:
        refused = keep(service, url)
        assert refused.status_code == 422
        assert said in refused.json()["errors"][0]["message"]
        assert f"what {url} answers to GET / " in refused.json()["errors"][0]["message"]


@pytest.mark.parametrize("server", servers.SLOW)
def test_letting_go_ends_a_keeper_whatever_its_provider_does(records, world, server):
    with serving(create_standin(world), port := free_port()) as url, service_over(records) as service:
        keep(service, url)
    with hostile(server, port), service_over(records) as service:
        keeping = [one for one in threading.enumerate() if one.name == "elsewhere"]
        assert keeping
        assert service.delete(f"{PATH}/web").json() == []
        for one in keeping:
            one.join(PATIENCE)
            assert not one.is_alive()


def test_letting_go_ends_a_keeper_whose_provider_finds_faults_for_ever(records, world, monkeypatch):
    with serving(create_standin(world)) as url, service_over(records) as service:
        keep(service, url)
        soon(lambda: only(service)["summary"])
        monkeypatch.setattr("jostle.keeper.keeper.Keeper.mend", lambda self, time: None)
        counts = HttpProvider.counts
        monkeypatch.setattr(HttpProvider, "counts", lambda self, group: counts(self, group)._replace(found=1))
        monkeypatch.setattr(HttpProvider, "answer", lambda self, *given, **named: Stuck(0.0, True))
        world.set_clock(HOUR, None)
        (keeping,) = [one for one in threading.enumerate() if one.name == "elsewhere"]
        assert service.delete(f"{PATH}/web").json() == []
        keeping.join(PATIENCE)
        assert not keeping.is_alive()


class Stuck(NamedTuple):
    time: float
    due: bool
