"""Machine types by need and a group's week on each; drafts of templates looked at, templates begun."""

import pytest


@pytest.fixture
def plan(client):
    return f"/api/plans/{client.post('/api/demo').json()['id']}"


def test_machines_are_picked_by_need(client, plan):
    everything = client.get(f"{plan}/machines").json()
    assert [row["name"] for row in everything][:2] == ["tern-1", "otter-2"]
    assert all(row["fits"] and row["week"] is None for row in everything)
    some = client.get(f"{plan}/machines", params={"vcpus": 4, "memory_gib": 16, "architecture": "x86-64"}).json()
    assert [row["name"] for row in some if row["fits"]] == ["otter-4", "seal-4"]
    walrus = next(row for row in everything if row["name"] == "walrus-2")
    said = {column: "".join(word["text"] for word in words) for column, words in walrus["words"].items()}
    assert said["stopped"] == "as much as running"
    assert said["billed"] == "by the started hour, at least 0 s"
    assert walrus["used_by"] == ["tryout"]
    assert client.get(f"{plan}/machines", params={"vcpus": -1}).status_code == 422


def test_the_week_of_a_group_is_rehearsed_on_each_and_agrees_with_its_own(client, plan):
    rows = {row["name"]: row for row in client.get(f"{plan}/machines", params={"group": "booking-web"}).json()}
    own = client.post(f"{plan}/groups/booking-web/rehearsals", json={"buckets": 50}).json()["verdict"]
    assert rows["otter-2"]["in_use"]
    assert rows["otter-2"]["week"]["cost"] == own["cost"]
    assert rows["otter-2"]["week"]["short"] == own["short"]
    assert rows["otter-4"]["week"]["broken"] == []
    assert rows["tern-1"]["week"]["broken"]
    left_open = {row["name"]: row for row in client.get(f"{plan}/machines", params={"group": "manifest-worker"}).json()}
    assert left_open["tern-1"]["in_use"]
    assert left_open["otter-4"]["week"]["cost"] != left_open["tern-1"]["week"]["cost"]


def findings(client, plan, **fields):
    return {(one["field"], one["severity"]): one["text"] for one in client.post(f"{plan}/templates/findings", json=fields).json()}


def test_a_draft_is_looked_at_field_by_field(client, plan):
    sound = {"machine": "otter-2", "subnets": ["front-north", "front-west"], "firewall": ["web"], "disk_gib": 20}
    assert findings(client, plan, **sound) == {}
    assert (
        "port 22 (ssh) to the whole world" in findings(client, plan, **{**sound, "firewall": ["leftover"]})["firewall", "error"]
    )
    assert "no machine otter-9" in findings(client, plan, **{**sound, "machine": "otter-9"})["machine", "error"]
    assert "no subnet moon" in findings(client, plan, **{**sound, "subnets": ["moon"]})["subnets", "error"]
    assert "all in zone north" in findings(client, plan, **{**sound, "subnets": ["front-north"]})["subnets", "warning"]
    assert "more than its machine" in findings(client, plan, **{**sound, "disk_gib": 4000})["disk_gib", "warning"]
    assert ("disk_gib", "error") in findings(client, plan, **{**sound, "disk_gib": -5})
    assert ("boot_time", "error") in findings(client, plan, **{**sound, "boot_time": "soon"})
    assert ("subnets", "note") in findings(client, plan)


def test_a_template_is_begun_like_another_or_as_a_group_launches(client, plan):
    like = client.post(f"{plan}/templates", json={"name": "night-front", "like": "web-front"}).json()
    assert like["versions"][0]["version"]["image"] == "brindle-web-43"
    group = client.post(f"{plan}/templates", json={"name": "packer", "like_group": "manifest-worker"}).json()
    assert group["versions"][0]["version"]["machine"] == "tern-1"
    assert group["versions"][0]["still_open"] == [f for f in group["versions"][0]["still_open"] if f != "machine"]
    assert client.post(f"{plan}/templates", json={"name": "packer", "like": "web-front"}).status_code == 409
    assert client.post(f"{plan}/templates", json={"name": "other", "like": "nothing"}).status_code == 404


def test_a_plan_is_begun_from_nothing(client):
    made = client.post("/api/starter", json={"name": "Quay", "time_zone": "Europe/Lisbon"})
    assert made.status_code == 201
    plan = client.get(f"/api/plans/{made.json()['id']}").json()
    assert (plan["groups"], plan["demands"], plan["time_zone"]) == ([], ["ordinary-week"], "Europe/Lisbon")
    assert client.post("/api/starter", json={"name": "Quay", "time_zone": "Nowhere"}).status_code == 422


def test_a_renamed_group_takes_its_past_along(client, plan):
    client.post(f"{plan}/groups/tryout/rehearsals", json={"changes": [{"path": "minimum", "value": 2}], "keep": True})
    renamed = client.post(f"{plan}/groups/tryout/name", json={"name": "sandbox"})
    assert renamed.json()["name"] == "sandbox"
    assert len(client.get(f"{plan}/groups/sandbox/takes").json()) == 2
    assert client.get(f"{plan}/groups/sandbox/arrangements").json()[0]["number"] == 1
    assert client.post(f"{plan}/groups/sandbox/name", json={"name": "booking-web"}).status_code == 409
    assert client.post(f"{plan}/groups/sandbox/name", json={"name": "Sand Box"}).status_code == 422


def changed(client, plan, status=200, **change):
    answer = client.post(f"{plan}/machines/changes", json=change)
    assert answer.status_code == status, answer.text
    return answer.json()


def test_the_catalogue_is_edited_and_the_weeks_follow(client, plan):
    def cost(group):
        return next(row for row in client.get(f"{plan}/groups").json() if row["name"] == group)["figures"]["cost"]

    before = cost("booking-web")
    row = next(row for row in client.get(f"{plan}/machines").json() if "booking-web" in row["used_by"])
    path = next(word["path"] for word in row["words"]["price"] if word["path"])
    price = next(word["value"] for word in row["words"]["price"] if word["path"])
    changed(client, plan, path=path, value=2 * price)
    assert 1.7 * before < cost("booking-web") < 2 * before
    said = changed(client, plan, path="prices.load_balancer_hour", value="0.50")
    assert "".join(word["text"] for word in said).count("a load balancer € 0.50 an hour") == 1
    changed(client, plan, op="add", path=f"machines.{row['name']}", value="heron-9")
    assert "heron-9" in [row["name"] for row in client.get(f"{plan}/machines").json()]
    changed(client, plan, op="remove", path="machines.heron-9")
    assert "heron-9" not in [row["name"] for row in client.get(f"{plan}/machines").json()]


def test_a_catalogue_refuses_what_it_cannot_be(client, plan):
    used = next(row for row in client.get(f"{plan}/machines").json() if row["used_by"])["name"]
    assert "is used by" in changed(client, plan, 422, op="remove", path=f"machines.{used}")["detail"]
    refused = changed(client, plan, 422, path=f"machines.{used}.vcpus", value="many")
    assert refused["errors"][0]["path"].startswith(f"machines.{used}.vcpus")
    assert "is there already" in changed(client, plan, 422, op="add", path=f"machines.{used}", value=used)["detail"]
    changed(client, plan, 422, path="groups.booking-web.minimum", value=1)
    changed(client, plan, 422, op="remove", path="prices.address_hour")
