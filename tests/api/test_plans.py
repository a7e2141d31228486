import json

import pytest

from tests.plans import data

CSV = b"time,requests_per_second\n2025-07-07T00:00Z,5\n2025-07-07T00:02Z,7\n2025-07-07T00:01Z,6\n"


def test_an_empty_service_has_no_plan_and_takes_the_demo(client):
    assert client.get("/api/plans").json() == []
    number = client.post("/api/demo").json()["id"]
    shown = client.get(f"/api/plans/{number}").json()
    assert shown["groups"] == [
        "booking-web",
        "fare-quote",
        "manifest-worker",
        "live-track",
        "tide-model",
        "tryout",
        "deck",
        "chat",
        "timetable",
        "weather",
    ]
    assert shown["demands"][0] == "summer-week"
    assert shown["time_zone"] == "Atlantic/Faroe"


def test_a_plan_goes_in_as_yaml_and_comes_out_as_json(client):
    text = f"# a plan\n{json.dumps(data())}"
    number = client.post("/api/plans", content=text).json()["id"]
    document = client.get(f"/api/plans/{number}/document").json()
    assert document["groups"]["web"]["work"]["cpu_seconds"] == 0.1
    assert client.post("/api/plans", json=document).status_code == 201


def test_what_is_wrong_with_a_plan_is_told_as_problem_details(client):
    answer = client.post("/api/plans", content="jostle: 1\nname: Quay\ntime_zone: Mars/Base\nstart: 2025-07-07\n")
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    body = answer.json()
    assert body["errors"] == [
        {
            "path": "time_zone",
            "value": '"Mars/Base"',
            "message": "write an IANA time zone name such as Atlantic/Faroe or UTC",
            "line": 3,
        }
    ]
    assert client.get("/api/plans").json() == []


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("get", "/api/plans/7", 404),
        ("get", "/api/plans/0", 422),
        ("get", "/api/plans/seven", 422),
        ("get", "/api/nothing", 404),
        ("delete", "/api/plans", 405),
        ("get", "/api/plans/7/groups/web/takes", 404),
    ],
)
def test_every_error_is_problem_details(client, method, path, status):
    answer = getattr(client, method)(path)
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["status"] == status
    assert answer.json()["detail"]


def test_only_this_machine_is_answered(client):
    assert client.get("/api/health", headers={"host": "elsewhere.example"}).status_code == 400


def test_the_overview_shows_each_group_with_its_verdict(client, web):
    rows = client.get(web.removesuffix("/web")).json()
    assert [row["name"] for row in rows] == ["web"]
    assert rows[0]["line"].startswith("1 to 10 of front; adds 1 above 70 % CPU")
    assert rows[0]["cost"].startswith("€ ")
    assert len(rows[0]["demand"]) == len(rows[0]["capacity"]) == 280


def test_a_new_group_in_one_sentence_can_be_rehearsed_at_once(client, web):
    groups = web.removesuffix("/web")
    wanted = {"name": "quote", "template": "front", "minimum": 2, "maximum": 6, "demand": "even"}
    row = client.post(groups, json=wanted)
    assert row.status_code == 201
    assert row.json()["line"].startswith("2 to 6 of front")
    assert client.post(f"{groups}/quote/rehearsals", json={}).status_code == 200
    assert client.post(groups, json=wanted).status_code == 409
    for field, value in (("name", "No Spaces"), ("template", "none"), ("maximum", 1)):
        answer = client.post(groups, json={**wanted, "name": "other", field: value})
        assert answer.status_code == 422
        assert field in answer.json()["errors"][0]["path"]
    assert [row["name"] for row in client.get(groups).json()] == ["web", "quote"]


def bring(client, web, content=CSV, **form):
    path = f"{web.removesuffix('/groups/web')}/demands/file"
    return client.post(path, files={"file": ("spring.csv", content, "text/csv")}, data={"name": "spring", **form})


def test_a_csv_is_looked_at_first_and_then_kept(client, web):
    looked = bring(client, web, keep="false").json()
    assert looked["rows"] == 3
    assert looked["unit"] == "so many a second"
    assert looked["notes"] == ["1 row out of order, sorted"]
    assert looked["shape"] == [5, 6, 7]
    plan = web.removesuffix("/groups/web")
    assert "spring" not in client.get(plan).json()["demands"]
    assert bring(client, web).status_code == 201
    assert "spring" in client.get(plan).json()["demands"]
    changed = client.post(f"{web}/rehearsals", json={"changes": [{"path": "demand", "value": "spring"}]}).json()
    assert changed["change"] == "demand spring, was even"
    assert changed["verdict"]["figures"]["arrived"] == pytest.approx(6 * 86400, rel=0.01)


def test_times_without_an_offset_are_read_on_the_clock_that_is_chosen(client, web):
    here, there = (
        bring(client, web, CSV.replace(b"Z", b""), keep="false", clock=zone).json() for zone in ("Atlantic/Faroe", "UTC")
    )
    assert here["first"] == "Mon 7 Jul 2025 00:00"
    assert there["first"] == "Mon 7 Jul 2025 01:00"
    refused = bring(client, web, keep="false", clock="Mars/Base")
    assert refused.status_code == 422
    assert "IANA time zone name" in refused.json()["detail"]


def test_errors_of_a_csv_come_by_row_and_leave_nothing_behind(client, web):
    answer = bring(client, web, CSV.replace(b",7", b",seven"))
    assert answer.status_code == 422
    assert answer.json()["errors"][0] == {
        "path": "requests_per_second",
        "value": "seven",
        "message": "write a number such as 120.5",
        "line": 3,
    }
    assert "spring" not in client.get(web.removesuffix("/groups/web")).json()["demands"]
    assert bring(client, web, name="Two Words").status_code == 422
    assert bring(client, web).status_code == 201
    assert bring(client, web).status_code == 409


def test_it_describes_itself(client):
    assert client.get("/api/openapi.json").json()["openapi"].startswith("3.1")
    assert client.get("/api/schema").json()["title"] == "Plan"


def test_a_group_is_copied_retired_and_brought_back(client, web):
    plan = web.split("/groups/")[0]
    client.post(f"{web}/rehearsals", json={"changes": [{"path": "maximum", "value": 7}], "keep": True})
    copied = client.post(f"{web}/copies", json={"name": "other"})
    assert copied.status_code == 201
    assert "1 to 7" in copied.json()["line"]
    assert client.post(f"{web}/copies", json={"name": "other"}).status_code == 409
    assert client.post(f"{web}/copies", json={"name": "Other One"}).status_code == 422
    assert client.delete(f"{plan}/groups/other").status_code == 204
    assert [row["name"] for row in client.get(f"{plan}/groups").json()] == ["web"]
    assert client.delete(f"{plan}/groups/other").status_code == 422
    assert client.post(f"{plan}/groups/other/return").status_code == 201
    assert client.post(f"{plan}/groups/other/return").status_code == 409
    assert client.post(f"{plan}/groups/nobody/return").status_code == 404
    assert len(client.get(f"{plan}/groups").json()) == 2


def test_the_overview_is_sorted_by_need_and_counts_findings(client):
    number = client.post("/api/demo").json()["id"]
    rows = client.get(f"/api/plans/{number}/groups").json()
    broken = [sum(not p["kept"] for p in row["promises"]) for row in rows]
    assert broken == sorted(broken, reverse=True)
    assert rows[0]["name"] == "tryout"
    assert rows[0]["findings"]["error"] == 1
    assert rows[0]["look"].startswith("leftover opens port 22")


def test_calendar_entries_come_and_go(client, web):
    added = {"op": "add", "path": "calendar", "value": "sleep"}
    made = client.post(f"{web}/rehearsals", json={"changes": [added, added], "keep": True}).json()
    assert made["change"] == "new calendar entry sleep, new calendar entry sleep-2"
    gone = client.post(f"{web}/rehearsals", json={"changes": [{"op": "remove", "path": "calendar.sleep"}], "keep": True}).json()
    assert gone["change"] == "without sleep"
    refused = client.post(f"{web}/rehearsals", json={"changes": [{"op": "add", "path": "calendar", "value": "nap"}]})
    assert "floor, bounds, set, add, sleep, removals, freeze" in refused.json()["errors"][0]["message"]


def test_a_plan_in_which_nothing_was_kept_can_be_taken_out(client):
    begun = client.post("/api/starter", json={"name": "Mine", "time_zone": "UTC"}).json()["id"]
    assert client.delete(f"/api/plans/{begun}").status_code == 204
    assert client.get(f"/api/plans/{begun}").status_code == 404
    demo = client.post("/api/demo").json()["id"]
    refused = client.delete(f"/api/plans/{demo}")
    assert refused.status_code == 409
    assert "stays" in refused.json()["detail"]


def test_a_group_may_begin_with_no_policy_and_another_count(client, web):
    plan = web.split("/groups/")[0]
    wanted = {"name": "desk", "template": "front", "minimum": 1, "maximum": 9, "demand": "even", "start_count": 4}
    made = client.post(f"{plan}/groups", json=wanted | {"with_policies": False})
    assert made.status_code == 201, made.text
    group = client.get(f"{plan}/document").json()["groups"]["desk"]
    assert (group["start_count"], group["policies"]) == (4, [])
    assert group["promises"]
    low = client.post(f"{plan}/groups", json=wanted | {"name": "low", "start_count": 12})
    assert (low.status_code, "1 to 9" in low.text) == (422, True)
