"""What was observed of a group held against its model, over the API: a file with many columns, and what was lived."""

import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.demo import PLAN
from jostle.formats.shipped import demo_plan
from jostle.records.store import Store
from tests.plans import only

DEMO = demo_plan()
OBSERVED = (PLAN.parent / "observed-days.csv").read_bytes()
FITS = "/api/plans/1/groups/booking-web/fits"
UNSURE = b"time,rate,hosts,cpu\n" + b"".join(
    b"2025-07-07T%02d:%02dZ,%d,2,%.3f\n" % (k // 6, k % 6 * 10, 20 + k % 9, 0.1 + 0.02 * (20 + k % 9)) for k in range(60)
)


@pytest.fixture
def service(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(only(DEMO, "booking-web"))
    return TestClient(create_app(store), base_url="http://127.0.0.1")


def brought(service, content=OBSERVED, **form):
    return service.post(f"{FITS}/file", files={"file": ("seen.csv", content)}, data=form)


def test_a_file_with_many_columns_is_read_fitted_and_rehearsed(service):
    view = brought(service).json()
    assert [(one["name"], one["quantity"], one["unit"]) for one in view["columns"]] == [
        ("requests", "arrivals", "a_row"),
        ("servers in service", "instances", None),
        ("servers desired", "wanted", None),
        ("cpu %", "cpu", "percent"),
    ]
    cpu = view["estimates"][0]
    assert (cpu["name"], cpu["path"], cpu["has"], cpu["apart"]) == ("CPU of a request", "work.cpu_seconds", "55 ms", True)
    assert cpu["value"] == pytest.approx(0.061, rel=0.03)
    assert sum(cpu["scatter"]["far"]) > 0
    assert len(cpu["scatter"]["x"]) == len(cpu["scatter"]["y"]) <= 600
    assert view["said"][0].startswith("count within ")
    course = view["course"][0]
    assert len(course["times"]) == len(course["was"]) == len(course["would"]) == 71


def test_these_are_taken_as_a_take(service):
    found = [one for one in brought(service).json()["estimates"] if one["path"]]
    changes = [{"path": one["path"], "value": one["value"]} for one in found]
    kept = service.post("/api/plans/1/groups/booking-web/rehearsals", json={"keep": True, "changes": changes, "buckets": 1})
    assert kept.json()["take"]["number"] == 2
    view = brought(service, take=2).json()
    assert not any(one["apart"] for one in view["estimates"])


def test_a_unit_is_asked_for_where_nothing_tells_it(service):
    view = brought(service, UNSURE).json()
    assert sorted(view["asks"]) == ["cpu", "rate"]
    assert view["estimates"] == []
    assert next(one for one in view["columns"] if one["name"] == "rate")["units"] == [
        "per_second",
        "per_minute",
        "per_hour",
        "a_row",
    ]
    told = brought(service, UNSURE, columns=["rate=arrivals:per_second", "cpu=cpu:share"]).json()
    assert told["asks"] == []
    assert told["estimates"][0]["value"] == pytest.approx(0.08, rel=0.05)
    out = brought(service, UNSURE, columns=["rate=arrivals:per_second", "cpu=nothing"]).json()
    assert out["not_told"][0] == "cpu of work: no column of cpu"


@pytest.mark.parametrize(
    ("content", "form", "said"),
    [
        (b"", {}, "a time and a value are needed"),
        (UNSURE, {"columns": ["west=cpu"]}, "is not in the file"),
        (UNSURE, {"columns": ["cpu=colour"]}, "must be one of"),
        (b"a,b\n2025-07-07T00:00Z,5\n2025-07-07T00:05Z,6\n", {}, "no column is known"),
    ],
)
def test_what_cannot_be_read_is_refused_in_words(service, content, form, said):
    answer = brought(service, content, **form)
    assert answer.status_code == 422
    assert said in answer.json()["detail"]


def test_what_was_lived_tells_what_it_was_made_of(service):
    assert service.get(f"{FITS}/lived").status_code == 404
    service.post("/api/plans/1/live", json={"at": "2025-07-08T00:00", "days": 3})
    assert "has not lived for long enough" in service.get(f"{FITS}/lived").json()["detail"]
    assert service.get("/api/plans/1/groups/nobody/fits/lived").status_code == 422
    service.delete("/api/plans/1/live")
    begun = service.post("/api/plans/1/live", json={"at": "2025-07-08T00:00", "until": "2025-07-09T00:00", "days": 3})
    assert begun.status_code == 201, begun.text
    view = service.get(f"{FITS}/lived").json()
    cpu, idle = view["estimates"][:2]
    assert cpu["value"] == pytest.approx(0.055, rel=0.02)
    assert idle["value"] == pytest.approx(0.03, abs=0.01)
    assert not cpu["apart"]
    assert any(one.startswith("base latency: no column of latency") for one in view["not_told"])
    assert view["said"][1].startswith("CPU within ")
