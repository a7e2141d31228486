"""Of two who change the same part of a plan at once the second is told, and nothing is overwritten unseen."""

import pytest

from tests.plans import data

HELD = {
    "watching": (
        "post",
        "watching/changes",
        {"op": "add", "path": "watches", "value": "short"},
        {"op": "remove", "path": "watches.0"},
    ),
    "costs/budgets": ("put", "costs/budgets", {"budgets": [{"at_most": 400}]}, {"budgets": []}),
    "frame": ("post", "frame", {"field": "name", "value": "Harbour"}, {"field": "name", "value": "Quay"}),
    "frame/parameters": ("post", "frame/parameters", {"name": "most", "value": "9"}, {"name": "most", "value": "8"}),
    "network": (
        "post",
        "network/changes",
        {"op": "add", "path": "firewall", "value": "web-in"},
        {"op": "remove", "path": "firewall.web-in"},
    ),
    "machines": (
        "post",
        "machines/changes",
        {"path": "prices.disk_gib_month", "value": "0.2"},
        {"path": "prices.disk_gib_month", "value": "0.3"},
    ),
    "templates/rules": (
        "post",
        "templates/rules",
        {"field": "shut_ports", "value": "23"},
        {"field": "shut_ports", "value": "21"},
    ),
}


@pytest.fixture
def plan(client):
    del client.headers["If-Match"]
    made = client.post("/api/plans", json=data(parameters={"most": 6}, groups__web__maximum="${most}"))
    assert made.status_code == 201, made.text
    return f"/api/plans/{made.json()['id']}"


@pytest.mark.parametrize("part", HELD)
def test_the_second_of_two_writers_is_told(client, plan, part):
    method, path, first, second = HELD[part]
    read = client.get(f"{plan}/{part}")
    tag = {"If-Match": read.headers["ETag"]}
    kept = client.request(method, f"{plan}/{path}", json=first, headers=tag)
    assert kept.status_code == 200, kept.text
    now = client.get(f"{plan}/{part}")
    assert now.headers["ETag"] == kept.headers["ETag"] != read.headers["ETag"]

    late = client.request(method, f"{plan}/{path}", json=second, headers=tag)
    assert late.status_code == 409
    assert "changed meanwhile" in late.json()["detail"]
    assert client.get(f"{plan}/{part}").json() == now.json()

    looked = client.request(method, f"{plan}/{path}", json=second, headers={"If-Match": now.headers["ETag"]})
    assert looked.status_code == 200, looked.text


@pytest.mark.parametrize("part", HELD)
def test_a_change_says_what_it_has_seen_or_that_it_does_not_care(client, plan, part):
    method, path, first, _ = HELD[part]
    blind = client.request(method, f"{plan}/{path}", json=first)
    assert blind.status_code == 428
    assert "send If-Match" in blind.json()["detail"]
    assert client.request(method, f"{plan}/{path}", json=first, headers={"If-Match": "*"}).status_code == 200


def test_what_others_change_elsewhere_is_in_nobodys_way(client, plan):
    tag = {"If-Match": client.get(f"{plan}/network").headers["ETag"]}
    client.post(f"{plan}/frame", json={"field": "name", "value": "Harbour"}, headers={"If-Match": "*"})
    client.put(f"{plan}/costs/budgets", json={"budgets": [{"at_most": 400}]}, headers={"If-Match": "*"})
    added = client.post(f"{plan}/network/changes", json={"op": "add", "path": "firewall", "value": "web-in"}, headers=tag)
    assert added.status_code == 200
    assert client.get(f"{plan}/document").json()["budgets"][0]["at_most"] in (400, "400")
