"""Whatever kind of group lives, each page of it answers: with what is there, or with why there is none."""

import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.formats.shipped import demo_plan
from jostle.records.store import Store
from tests.plans import only

DEMO = demo_plan()
# What a query that has to be there may be
GIVEN = {"path": "maximum", "at": "3600"}


@pytest.mark.parametrize("names", [["deck"], ["deck", "chat"], ["tide-model"]], ids=" and ".join)
def test_no_page_of_it_breaks(tmp_path, names):
    store = Store(tmp_path / "jostle.sqlite")
    number = store.add_plan(only(DEMO.model_copy(update={"days": 2.0}), *names))
    app = create_app(store)
    with TestClient(app, base_url="http://127.0.0.1") as client:
        begun = client.post(f"/api/plans/{number}/live", json={"at": "2025-07-07T00:00:00+01:00", "days": 1, "seed": 1})
        assert begun.status_code == 201, begun.text
        assert client.post(f"/api/plans/{number}/live/steps", json={"by": 3600}).status_code == 200
        answered = 0
        for path, acts in app.openapi()["paths"].items():
            filled = path.format_map(Left(plan_id=number, group=names[-1], instance=0, number=1, name=names[-1]))
            if "get" not in acts or "events" in path or "{" in filled:
                continue
            needed = [one["name"] for one in acts["get"].get("parameters", []) if one.get("required") and one["in"] == "query"]
            found = client.get(filled, params={name: GIVEN.get(name, "1") for name in needed})
            assert found.status_code < 500, (filled, found.text)
            answered += found.status_code == 200
        assert answered > 20


class Left(dict):
    """What is not filled stays as it is written."""

    def __missing__(self, key: str) -> str:
        return "{" + key + "}"
