"""What a page offers can be done; what of it the plan refuses is told beforehand, with the plan's own reason."""

import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.formats.shipped import demo_plan
from jostle.records.store import Store

DEMO = demo_plan().model_copy(update={"days": 0.05})
SHAPES = {
    **{name: (name, []) for name in DEMO.groups},
    "an order": (
        "tide-model",
        [{"path": "policies", "value": []}, {"path": "calendar", "value": []}, {"path": "order", "value": {"count": 2}}],
    ),
    "counted in vCPUs": ("fare-quote", [{"path": "calendar", "value": []}, {"path": "buying.count_in", "value": "vcpus"}]),
    "a cold start": ("booking-web", [{"path": "first_start", "value": {"surplus": 0}}]),
    "no policy": ("manifest-worker", [{"path": "policies", "value": []}]),
    "a threshold of nothing": ("manifest-worker", [{"path": "policies.pile.threshold", "value": 0}]),
}


@pytest.fixture
def service(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(DEMO)
    return TestClient(create_app(store), base_url="http://127.0.0.1")


def at_start(change):
    """A hand acts at the time that the page has chosen."""
    hand = change["path"] == "hands"
    return {**change, "value": {**change["value"], "at": 1000 * DEMO.start.timestamp()}} if hand else change


@pytest.mark.parametrize("shape", SHAPES)
def test_each_offer_is_taken_or_was_told_to_be_refused(service, shape):
    group, before = SHAPES[shape]
    path = f"/api/plans/1/groups/{group}"
    shown = service.post(f"{path}/rehearsals", json={"changes": before, "keep": bool(before)})
    assert shown.status_code == 200, shown.text
    told = {(one["key"], one["text"]): one["why"] for one in service.post(f"{path}/refusals", json={}).json()}
    offers = [
        *((section["key"], offer) for section in shown.json()["page"] for offer in section["more"]),
        *((one["key"], offer) for section in shown.json()["page"] for one in section["sentences"] for offer in one["acts"]),
    ]
    assert len(offers) > 20
    refused = {}
    for key, offer in offers:
        answer = service.post(f"{path}/rehearsals", json={"changes": [at_start(change) for change in offer["changes"]]})
        if answer.status_code != 200:
            assert answer.status_code == 422, answer.text
            refused[key, offer["text"]] = answer.json()["errors"][0]["message"]
    assert refused == told
    assert len(refused) <= 3
