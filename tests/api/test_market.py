"""Spot prices brought to a plan, and taken out again."""

import pytest


@pytest.fixture
def machines(client):
    plan = client.post("/api/demo").json()["id"]
    return f"/api/plans/{plan}/machines"


def bring(client, machines, text):
    return client.post(f"{machines}/market", files={"file": ("july.csv", text.encode(), "text/csv")})


ROWS = [f"2025-07-{day:02}T{hour:02}:00,seal-4,skerry,0.0{41 + hour}" for day in range(7, 14) for hour in range(0, 24, 6)]


def test_prices_are_brought_and_drawn_again(client, machines):
    assert client.get(f"{machines}/market").json()["brought"] is False
    told = bring(client, machines, "\n".join(["time,machine,zone,price", *ROWS]))
    assert told.status_code == 201, told.text
    assert told.json()["said"].startswith(
        "Spot prices are those of july.csv, Mon 7 Jul 00:00 to Sun 13 Jul 18:00: seal-4 in skerry."
    )
    shown = client.get(f"{machines}/seal-4/market").json()
    skerry = next(zone for zone in shown["zones"] if zone["zone"] == "skerry")
    assert "€ 0.041 to € 0.059" in skerry["said"]
    # What the prices are of cannot be taken out
    gone = client.post(f"{machines}/changes", json={"op": "remove", "path": "machines.seal-4"})
    assert gone.status_code == 422
    assert client.delete(f"{machines}/market").json()["brought"] is False


def test_a_file_that_does_not_fit_changes_nothing(client, machines):
    refused = bring(client, machines, "time,machine,zone,price\n2025-07-07T00:00,walrus-2,skerry,0.04\n")
    assert refused.status_code == 422
    assert "is not sold as spot; say in the catalogue how often it is taken back" in refused.text
    assert bring(client, machines, "time,machine,price\n").status_code == 422
    assert client.get(f"{machines}/market").json()["brought"] is False


def test_what_a_group_would_take_at_an_instant(client, machines):
    taken = client.get(f"{machines}/market/taken", params={"group": "tide-model", "hours": 12}).json()
    assert taken["at"] == "Mon 7 Jul 12:00"
    assert [one["standing"] for one in taken["market"]] == ["now", *["next"] * 5]
    assert client.get(f"{machines}/market/taken", params={"group": "tryout", "hours": 12}).json()["market"] == []
    assert client.get(f"{machines}/market/taken", params={"group": "tide-model", "hours": -1}).status_code == 422
    assert client.get(f"{machines}/market/taken", params={"group": "nobody", "hours": 1}).status_code == 422
