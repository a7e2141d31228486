"""Subnets, firewall rules and outside metrics over the API: read as sentences, changed, added, taken out."""

import pytest

from tests.plans import data

CSV = b"time,value\n2025-07-07T00:00+01:00,3\n2025-07-07T01:00+01:00,5\n2025-07-07T02:00+01:00,4\n"


@pytest.fixture
def network(client):
    document = data(
        subnets={"north-a": {"zone": "north"}, "spare-a": {"zone": "south"}},
        firewall={"web-in": {"ports": [443, "8000-8100"], "source": "0.0.0.0/0"}},
        templates__front={"machine": "otter-2", "boot_time": 100, "subnets": ["north-a"], "firewall": ["web-in"]},
    )
    made = client.post("/api/plans", json=document)
    assert made.status_code == 201, made.text
    return f"/api/plans/{made.json()['id']}/network"


def told(lines):
    return {line["name"]: ("".join(word["text"] for word in line["words"]), line["used_by"]) for line in lines}


def change(client, network, **body):
    return client.post(f"{network}/changes", json=body)


def test_each_is_a_sentence_with_who_uses_it(client, network):
    found = client.get(network).json()
    subnets = {
        "north-a": ("lies in zone north, no region named.", ["web", "front"]),
        "spare-a": ("lies in zone south, no region named.", []),
    }
    assert told(found["subnets"]) == subnets
    rule = "lets in ports 443 and 8000-8100 from anywhere, 0.0.0.0/0."
    assert told(found["firewall"]) == {"web-in": (rule, ["web", "front"])}
    assert found["outside"] == []


def test_words_are_changed_as_people_type_them(client, network):
    found = change(client, network, path="firewall.web-in.ports", value="443, 9000 to 9010").json()
    assert told(found["firewall"])["web-in"][0].startswith("lets in ports 443 and 9000-9010 from")
    found = change(client, network, path="subnets.spare-a.zone", value="west").json()
    assert told(found["subnets"])["spare-a"][0] == "lies in zone west, no region named."
    document = client.get(network.replace("network", "document")).json()
    assert document["subnets"]["spare-a"] == {"zone": "west"}


def test_one_more_and_one_less(client, network):
    found = change(client, network, op="add", path="subnets", value="south-b").json()
    assert told(found["subnets"])["south-b"] == ("lies in zone north, no region named.", [])
    found = change(client, network, op="add", path="firewall", value="desk-in").json()
    assert told(found["firewall"])["desk-in"][0] == "lets in port 443 from 10.0.0.0/8."
    found = change(client, network, op="remove", path="subnets.spare-a").json()
    assert "spare-a" not in told(found["subnets"])


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"op": "remove", "path": "subnets.north-a"}, "is used by web, front"),
        ({"op": "remove", "path": "subnets.west-a"}, "there is: north-a, spare-a"),
        ({"op": "add", "path": "subnets", "value": "north-a"}, "is there already"),
        ({"op": "add", "path": "firewall", "value": "No Name"}, "a name is lower-case letters"),
        ({"op": "set", "path": "firewall.web-in.ports", "value": "99999"}, "65535"),
        ({"op": "set", "path": "firewall.web-in.source", "value": "the desk"}, "10.20.0.0/16"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_changes(client, network, body, said):
    before = client.get(network).json()
    refused = change(client, network, **body)
    assert refused.status_code in (409, 422)
    assert said in refused.text
    assert client.get(network).json() == before


def test_an_outside_metric_is_brought_watched_and_kept_while_it_is(client, network):
    sent = client.post(f"{network}/outside", files={"file": ("footfall.csv", CSV)}, data={"name": "footfall"})
    assert sent.status_code == 201, sent.text
    name = "comes from footfall.csv, 3 samples from 2025-07-07 on; where rows were missing, the last value was held."
    assert told(sent.json()["outside"])["footfall"] == (name, [])
    again = client.post(f"{network}/outside", files={"file": ("footfall.csv", CSV)}, data={"name": "footfall"})
    assert (again.status_code, "is there already" in again.text) == (422, True)
    bad = client.post(f"{network}/outside", files={"file": ("x.csv", b"nothing here")}, data={"name": "x"})
    assert bad.status_code == 422
    gone = change(client, network, op="remove", path="outside.footfall").json()
    assert gone["outside"] == []


def test_a_database_stands_in_subnets_and_is_asked_by_groups(client, network):
    url = f"{network}/changes"
    added = client.post(url, json={"op": "add", "path": "databases", "value": "tides"}).json()
    assert told(added["databases"]) == {"tides": ("stands in north-a and is asked on port 5432.", [])}
    client.post(url, json={"path": "databases.tides.subnets", "value": "spare-a, north-a"})
    moved = client.post(url, json={"path": "databases.tides.port", "value": 3306}).json()
    assert told(moved["databases"])["tides"][0] == "stands in spare-a and north-a and is asked on port 3306."
    assert "tides" in told(moved["subnets"])["spare-a"][1]
    refused = client.post(url, json={"op": "remove", "path": "subnets.spare-a"})
    assert refused.status_code == 422
    assert "is used by tides" in refused.text
    named = client.post(url, json={"path": "subnets.spare-a.region", "value": "sound"}).json()
    assert told(named["subnets"])["spare-a"][0] == "lies in zone south, sound."
    left = client.post(url, json={"path": "subnets.spare-a.region", "value": ""}).json()
    assert told(left["subnets"])["spare-a"][0] == "lies in zone south, no region named."
