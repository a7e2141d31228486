"""Many groups are changed at once by a tag, each listed first, and a new group is looked at before it is kept."""

import pytest


@pytest.fixture
def plan(client):
    return client.post("/api/demo").json()["id"]


def many(client, plan, part="", **body):
    return client.post(f"/api/plans/{plan}/many{part}", json=body)


def test_tags_are_listed_with_their_groups_and_all_of_them(client, plan):
    told = client.get(f"/api/plans/{plan}/many").json()
    tags = {one["tag"]: one["groups"] for one in told["tags"]}
    assert tags["team=bookings"] == ["booking-web"]
    assert len(tags["all"]) == 10
    assert {"policies_paused", "mode", "drain"} <= {one["path"] for one in told["settings"]}


def test_each_is_listed_before_anything_is_kept_and_then_all_are_changed(client, plan):
    wanted = {"tag": "all", "path": "drain", "value": "2 min"}
    lines = {line["group"]: line for line in many(client, plan, "/look", **wanted).json()}
    assert lines["booking-web"]["change"] == "no change"
    assert lines["fare-quote"]["change"] == "drain 2 min, was 90 s"
    assert lines["fare-quote"]["cost"].startswith("€ ")
    arrangements = f"/api/plans/{plan}/groups/fare-quote/arrangements"
    assert len(client.get(arrangements).json()) == 1
    changed = many(client, plan, **wanted)
    assert changed.status_code == 201
    others = {"fare-quote", "manifest-worker", "live-track", "tide-model", "tryout"}
    assert {line["group"] for line in changed.json()} == {*others, "deck", "chat", "timetable"}
    saved = client.get(arrangements).json()
    assert (len(saved), saved[0]["note"]) == (2, "the drain of all groups")
    assert client.get(f"/api/plans/{plan}/document").json()["groups"]["tryout"]["drain"] == 120
    assert len(client.get(f"/api/plans/{plan}/groups/booking-web/arrangements").json()) == 1


def test_where_one_refuses_none_is_changed(client, plan):
    wanted = {"tag": "all", "path": "maximum", "value": 2}
    lines = {line["group"]: line for line in many(client, plan, "/look", **wanted).json()}
    assert "cannot be below the minimum of 3" in lines["booking-web"]["refused"]
    assert lines["tryout"]["refused"] is None
    refused = many(client, plan, **wanted)
    assert refused.status_code == 422
    assert "booking-web: the maximum cannot be below" in refused.text
    assert len(client.get(f"/api/plans/{plan}/groups/tryout/arrangements").json()) == 1


def test_a_promise_that_breaks_is_said(client, plan):
    lines = many(client, plan, "/look", tag="all", path="policies_paused", value=True).json()
    assert {line["group"] for line in lines if line["worse"]} >= {"fare-quote"}


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"tag": "team=nobody", "path": "drain", "value": 60}, "no group has this tag; there is: all, team=bookings"),
        ({"tag": "all", "path": "work", "value": {}}, "is not changed in many at once; there is: policies_paused, mode"),
    ],
)
def test_what_is_not_there_is_said_with_what_is(client, plan, body, said):
    refused = many(client, plan, "/look", **body)
    assert refused.status_code == 422
    assert said in refused.text


GROUP = {"template": "web-front", "minimum": 2, "maximum": 9, "demand": "summer-week"}


def test_a_new_group_is_seen_before_it_is_kept(client, plan):
    seen = client.post(f"/api/plans/{plan}/groups/look", json={**GROUP, "load_balancer": True})
    assert seen.status_code == 200
    assert seen.json()["line"].startswith("2 to 9 of web-front; adds 1")
    assert seen.json()["promises"]
    assert len(client.get(f"/api/plans/{plan}/groups").json()) == 10
    kept = client.post(f"/api/plans/{plan}/groups", json={**GROUP, "name": "slip-web", "load_balancer": True}).json()
    assert kept["cost"] == seen.json()["cost"]
    assert client.get(f"/api/plans/{plan}/document").json()["groups"]["slip-web"]["load_balancer"]["target"] == 8080


def test_its_network_is_chosen_with_it_where_the_template_leaves_that_open(client, plan):
    made = {"name": "slip-front", "machine": "otter-2", "boot_time": "70 s", "warm_up": "20 s"}
    body = {**GROUP, "name": "slip-web", "new_template": made, "subnets": ["front-north", "front-west"], "firewall": ["web"]}
    assert client.post(f"/api/plans/{plan}/groups", json=body).status_code == 201
    document = client.get(f"/api/plans/{plan}/document").json()
    assert document["templates"]["slip-front"]["versions"][0]["boot_time"] == 70
    assert document["groups"]["slip-web"]["launch"] == {"subnets": ["front-north", "front-west"], "firewall": ["web"]}
    left_open = client.get(f"/api/plans/{plan}").json()["left_open"]
    assert left_open["slip-front"] == ["subnets", "firewall"]
    assert left_open["worker"] == ["machine"]


@pytest.mark.parametrize(
    ("template", "status", "said"),
    [
        ({"name": "web-front", "machine": "otter-2"}, 409, "there is a template called web-front already"),
        ({"name": "Slip", "machine": "otter-2"}, 422, "lower-case letters"),
        ({"name": "slip", "machine": "gull-9"}, 422, "no machine has this name"),
        ({"name": "slip", "machine": "otter-2", "boot_time": "soon"}, 422, "write a duration"),
    ],
)
def test_a_template_that_cannot_be_is_refused_with_the_group(client, plan, template, status, said):
    refused = client.post(f"/api/plans/{plan}/groups/look", json={**GROUP, "new_template": template})
    assert refused.status_code == status
    assert said in refused.text


def test_starts_stand_side_by_side_each_rehearsed_with_its_reasons(client, plan):
    rows = client.post(f"/api/plans/{plan}/groups/starts", json=GROUP).json()
    assert {row["name"] for row in rows} == {"even-web", "web-with-rushes", "office-hours", "zone-loss"}
    assert all(row["cost"].startswith("€ ") for row in rows)
    assert len({row["cost"] for row in rows}) == len(rows)
    assert all(len(row["reasons"]) >= 3 for row in rows)
    begun = {**GROUP, "name": "slip-web", "start": "zone-loss", "minimum": 3, "maximum": 18, "load_balancer": True}
    assert client.post(f"/api/plans/{plan}/groups", json=begun).status_code == 201
    made = client.get(f"/api/plans/{plan}/document").json()["groups"]["slip-web"]
    assert [policy["name"] for policy in made["policies"]] == ["hold-cpu", "rescue"]
    assert made["mending"]["restarts"] == 0
    refused = client.post(f"/api/plans/{plan}/groups/look", json={**GROUP, "start": "sessions"})
    assert refused.status_code == 422
    assert "is no start for requests; there is: even-web" in refused.text


def test_a_free_allowance_is_told_where_the_machine_is_chosen(client, plan):
    assert client.get(f"/api/plans/{plan}").json()["free"] == {"tern-1": "100 h a month"}
    page = client.post(f"/api/plans/{plan}/groups/manifest-worker/rehearsals", json={"buckets": 5}).json()["page"]
    words = [word for section in page for sentence in section["sentences"] for word in sentence["words"]]
    editor = next(word["editor"] for word in words if word["path"] == "launch.machine")
    hints = {choice["value"]: choice["hint"] for choice in editor["choices"]}
    assert hints["tern-1"] == "100 h a month are free, over all groups"
    assert hints["otter-2"] == ""
