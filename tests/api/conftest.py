import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.records.store import Store
from tests.plans import ADD, REMOVE, data


@pytest.fixture
def client(tmp_path):
    app, anything = create_app(Store(tmp_path / "jostle.sqlite")), {"If-Match": "*"}
    with TestClient(app, base_url="http://127.0.0.1", headers=anything) as made:
        yield made


@pytest.fixture
def web(client):
    """The path of the group `web` of a plan that has just been kept."""
    document = data(groups__web__policies=[ADD, REMOVE], groups__web__promises=[{"kind": "answers", "share": 0.9, "within": 1}])
    made = client.post("/api/plans", json=document)
    assert made.status_code == 201, made.text
    return f"/api/plans/{made.json()['id']}/groups/web"
