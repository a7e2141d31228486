"""Hosts and guests: how they are listed, what their pages say and draw, and what goes with a host."""

import pytest

from tests.api.test_handling import rehearse, said

GUESTS = ["chat", "timetable", "weather"]


@pytest.fixture
def plan(client):
    return f"/api/plans/{client.post('/api/demo').json()['id']}"


def test_guests_stand_under_their_host(client, plan):
    rows = client.get(f"{plan}/groups").json()
    names = [row["name"] for row in rows]
    at = names.index("deck")
    assert sorted(names[at + 1 : at + 4]) == GUESTS
    assert [row["host"] for row in rows if row["name"] in GUESTS] == ["deck"] * 3
    assert next(row for row in rows if row["name"] == "chat")["line"].startswith("2 to 14 copies on deck; ")


def test_a_host_and_its_guests_are_drawn_on_one_axis(client, plan):
    host, guest = (rehearse(client, f"{plan}/groups/{name}") for name in ("deck", "weather"))
    for shown in (host, guest):
        copies = shown["picture"]["copies"]
        assert copies["host"] == "deck"
        assert [one["guest"] for one in copies["guests"]] == GUESTS
        assert len(copies["waiting"]) == len(shown["picture"]["times"])
    assert guest["picture"]["cargo"] is None
    cargo = host["picture"]["cargo"]
    assert cargo["guests"] == GUESTS
    rows = set(host["picture"]["lanes"]["row"])
    assert set(cargo["row"]) <= rows
    assert all(0 <= low < high <= 1.0001 for low, high in zip(cargo["low"], cargo["high"], strict=True))
    assert all(begin < end for begin, end in zip(cargo["begin"], cargo["end"], strict=True))
    assert rehearse(client, f"{plan}/groups/booking-web")["picture"]["copies"] is None


def test_the_cost_of_a_host_is_shared_out(client, plan):
    host = rehearse(client, f"{plan}/groups/deck")["verdict"]
    parts = host["figures"]["shared_out"]
    assert list(parts) == [*GUESTS, "free"]
    assert sum(parts.values()) == pytest.approx(host["figures"]["cost"], abs=2e-6)
    assert host["shared_out"].startswith("chat € ")
    assert host["whole"]
    for name in GUESTS:
        own = rehearse(client, f"{plan}/groups/{name}")["verdict"]["figures"]
        assert own["cost"] == pytest.approx(parts[name], abs=2e-6)


def test_all_groups_together_count_a_host_once(client, plan):
    told = client.get(f"{plan}/together").json()
    assert "deck" in {part["name"] for part in told["groups"]}
    assert not set(GUESTS) & {part["name"] for part in told["groups"]}


def test_a_place_is_changed_word_by_word(client, plan):
    group = f"{plan}/groups/chat"
    assert said(rehearse(client, group), "runs").startswith("2 to 14 copies on deck, each with 0.5 vCPUs and 2.5 GiB, apart over")
    for path, value, words in (
        ("place.memory_gib", 3, "0.5 vCPUs and 3 GiB"),
        ("place.put", "pack", "the fullest host that has room"),
        ("place.start_time", "90 s", "it starts in 90 s"),
        ("maximum", 9, "2 to 9 copies on deck"),
    ):
        assert words in said(rehearse(client, group, {"path": path, "value": value}), "runs")
    wanted = {"changes": [{"path": "place.memory_gib", "value": 20}], "buckets": 200}
    refused = client.post(f"{group}/rehearsals", json=wanted)
    assert refused.status_code == 422
    assert "no host has room for it: otter-4 has 15.5 GiB" in refused.text


def test_the_policies_of_a_host_watch_its_room(client, plan):
    group = f"{plan}/groups/deck"
    spare = rehearse(client, group, {"path": "policies.room.of", "value": "cpu"})
    assert "Keep 18 vCPUs free" in said(spare, "policies.room")
    wanted = {"path": "policies.without-place.metric", "value": "largest_place"}
    assert "largest place free, GiB" in said(rehearse(client, group, wanted), "policies.without-place")


def test_the_moment_says_what_a_copy_waits_for(client, plan):
    group = f"{plan}/groups/weather"
    few = [{"path": "maximum", "value": 40}, {"path": "policies.runs.amount", "value": 30}]
    answer = client.post(f"{group}/moments", json={"changes": few, "at": 1751865780000})
    assert answer.status_code == 200
    reasons = [reason["text"] for reason in answer.json()["moment"]["reasons"]]
    assert any("for a place: 3 GiB wanted, the largest free is" in text for text in reasons), reasons


def test_the_life_of_a_copy_and_of_a_host_name_each_other(client, plan):
    def facts(name, instance):
        told = client.post(f"{plan}/groups/{name}/instances", json={"changes": [], "instance": instance}).json()
        return {one["heading"]: one["text"] for one in told["facts"]}

    assert facts("chat", 1)["Where"] == "north, on instance 1 of deck"
    assert facts("deck", 1)["Carried"].startswith("up to ")
    assert " chat" in facts("deck", 1)["Carried"]


def test_a_host_does_not_leave_its_guests_behind(client, plan):
    renamed = client.post(f"{plan}/groups/deck/name", json={"name": "quarterdeck"})
    for refused in (client.delete(f"{plan}/groups/deck"), renamed):
        assert refused.status_code == 422
        assert "carries chat, timetable and weather" in refused.text
    for name in GUESTS:
        assert client.delete(f"{plan}/groups/{name}").status_code == 204
    assert client.delete(f"{plan}/groups/deck").status_code == 204


def test_a_guest_is_added_in_a_sentence(client, plan):
    wanted = {
        "name": "notices",
        "host": "deck",
        "memory_gib": 1.5,
        "minimum": 1,
        "maximum": 4,
        "demand": "lookups",
        "size": "5 ms",
    }
    seen = client.post(f"{plan}/groups/look", json=wanted)
    assert seen.json()["line"].startswith("1 to 4 copies on deck; ")
    kept = client.post(f"{plan}/groups", json=wanted)
    assert (kept.status_code, kept.json()["host"]) == (201, "deck")
    assert "each with 0.5 vCPUs and 1.5 GiB" in said(rehearse(client, f"{plan}/groups/notices"), "runs")
    host = {"name": "raft", "template": "deck", "minimum": 1, "maximum": 4, "demand": "", "kind": "hosting"}
    assert client.post(f"{plan}/groups", json=host).status_code == 201
    assert client.get(plan).json()["hosts"] == ["deck", "raft"]


def test_a_host_and_its_guests_live_and_their_tiles_tell_what_is_where(client, plan):
    body = {"at": "2025-07-08T00:00", "until": "2025-07-08T11:00", "days": 1}
    lived = client.post(f"{plan}/live", json=body).json()
    assert {"deck", *GUESTS} <= {one["name"] for one in lived["groups"]}
    cost = {one["name"]: one["cost"] for one in lived["groups"]}
    assert all(float(cost[name].split()[-1]) > 0 for name in ("deck", *GUESTS)), cost
    host = client.get(f"{plan}/live/groups/deck").json()
    assert host["guests"] == GUESTS
    carried = {(tile["number"], one["guest"]): one["copies"] for tile in host["tiles"] for one in tile["carried"]}
    for guest in GUESTS:
        tiles = client.get(f"{plan}/live/groups/{guest}").json()["tiles"]
        for number in {number for number, _ in carried}:
            there = sum(tile["where"] == f"on instance {number} of deck" for tile in tiles)
            assert there == carried.get((number, guest), 0)
    assert sum(carried.values()) >= 3
    full = next(tile for tile in host["tiles"] if tile["carried"])
    assert full["where"].startswith("carries ")
    assert "GiB free" in full["where"]
    assert 0 < sum(one["share"] for one in full["carried"]) <= 1


def test_what_guests_cost_of_their_host_stands_in_costs_by_the_hour(client, plan):
    client.post(f"{plan}/live", json={"at": "2025-07-08T00:00", "until": "2025-07-08T06:00", "days": 1})
    rows = {row["name"]: row for row in client.get(f"{plan}/costs").json()["table"]}
    assert {"deck", *GUESTS} <= rows.keys()
    for guest in GUESTS:
        assert rows[guest]["cost"] != "€ 0.00"
        assert float(rows[guest]["instance_hours"].replace(",", "")) > 0
