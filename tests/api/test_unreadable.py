"""A plan that is kept but cannot be read: saved as it stands, mended as a file, taken out."""

import json
import sqlite3

import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.records.store import Store
from tests.plans import data

TAKE, PLANS = "/api/plans/1/groups/web/takes", "/api/plans"


@pytest.fixture
def path(tmp_path):
    return tmp_path / "jostle.sqlite"


@pytest.fixture
def served(path):
    """Serves records of two plans, the first with a take, a life and its ledger; `spoil` alters the first as it is stored. Gives
    how it can be asked, the document before, and the text that is stored."""

    def serve(spoil):
        store = Store(path)
        with TestClient(create_app(store), base_url="http://127.0.0.1") as client:
            assert [client.post(PLANS, json=data(name=name)).status_code for name in ("Harbour", "Quay")] == [201, 201]
            assert client.get(TAKE).status_code == 200
            assert client.post(f"{PLANS}/1/live", json={"at": "2025-07-08T00:00", "days": 2}).status_code == 201
            assert client.post(f"{PLANS}/1/live/steps", json={"by": 3 * 3600}).status_code == 200
            before = client.get(f"{PLANS}/1/document").json()
        with sqlite3.connect(path) as raw:
            text = raw.execute("SELECT document FROM plan WHERE id = 1").fetchone()[0]
            raw.execute("UPDATE plan SET document = ?, seal = NULL WHERE id = 1", (spoil(text),))
        return TestClient(create_app(Store(path)), base_url="http://127.0.0.1"), before, spoil(text)

    return serve


SPOILT = [
    pytest.param(lambda text: json.dumps({**json.loads(text), "days": 1e-308}), 422, id="a value that is refused by now"),
    pytest.param(lambda text: text[: len(text) // 2], 503, id="half of it is missing"),
]


@pytest.mark.parametrize(("spoil", "status"), SPOILT)
def test_it_is_told_saved_mended_and_all_else_of_it_stays(served, spoil, status):
    client, before, stored = served(spoil)
    assert client.get(f"{PLANS}/1").status_code == status
    assert client.get(f"{PLANS}/2").status_code == 200
    assert [one["name"] for one in client.get(PLANS).json()] == ["Quay", "Harbour"]

    assert client.get(f"{PLANS}/1/stored").text == stored
    assert client.put(f"{PLANS}/1/stored", content=stored).status_code == 422
    mended = client.put(f"{PLANS}/1/stored", json=before)
    assert mended.status_code == 200, mended.text

    assert client.get(f"{PLANS}/1/document").json() == before
    assert len(client.get(TAKE).json()) == 1
    assert client.get(f"{PLANS}/1/live").status_code == 200
    assert [one["note"] for one in client.get(f"{PLANS}/1/groups/web/arrangements").json()] == ["mended as a file", "as imported"]


@pytest.mark.parametrize(("spoil", "status"), SPOILT)
def test_it_is_taken_out_with_all_that_was_kept_of_it(served, path, spoil, status):
    client, _, _ = served(spoil)
    assert client.delete(f"{PLANS}/1").status_code == status
    assert client.delete(f"{PLANS}/1", params={"whole": True}).status_code == 204
    assert client.get(f"{PLANS}/1").status_code == client.get(f"{PLANS}/1/stored").status_code == 404
    assert client.get(f"{PLANS}/2").status_code == 200
    with sqlite3.connect(path) as raw:
        assert raw.execute("PRAGMA foreign_key_check").fetchall() == []
        assert raw.execute("SELECT COUNT(*) FROM arrangement WHERE plan_id = 2").fetchone()[0] > 0
        tables = [name for (name,) in raw.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        of_plans = [one for one in tables if any(row[2] == "plan" for row in raw.execute(f"PRAGMA foreign_key_list({one})"))]
        assert len(of_plans) > 10
        left = {one: raw.execute(f"SELECT COUNT(*) FROM {one} WHERE plan_id = 1").fetchone()[0] for one in of_plans}
        assert not any(left.values()), left


def test_a_sound_plan_is_not_written_over_as_if_it_were_broken(client):
    made = client.post(PLANS, json=data()).json()["id"]
    refused = client.put(f"{PLANS}/{made}/stored", json=data(name="Pier"))
    assert refused.status_code == 409
    assert "can be read" in refused.json()["detail"]
    assert client.get(f"{PLANS}/{made}").json()["name"] == "Quay"
    assert client.put(f"{PLANS}/99/stored", json=data()).status_code == 404
