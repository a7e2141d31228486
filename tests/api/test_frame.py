import pytest

from tests.plans import data


@pytest.fixture
def frame(client):
    made = client.post("/api/plans", json=data())
    return f"/api/plans/{made.json()['id']}/frame"


def said(words):
    return "".join(word["text"] for word in words)


def test_the_frame_of_a_plan_is_a_sentence(client, frame):
    words = client.get(frame).json()
    assert "rehearsed for 1 d from Mon 7 Jul 2025 00:00" in said(words)
    assert {word["path"]: word["editor"]["kind"] for word in words if word["path"]} == {
        "name": "text",
        "days": "number",
        "start": "moment",
        "time_zone": "zone",
        "tick": "choice",
        "currency": "currency",
    }


def test_in_another_zone_the_start_keeps_the_time_on_the_wall_and_groups_are_rehearsed_there(client, frame):
    assert "on the clock of Asia/Kolkata" in said(client.post(frame, json={"field": "time_zone", "value": "Asia/Kolkata"}).json())
    answer = client.post(frame.replace("frame", "groups/web/rehearsals"), json={}).json()
    assert answer["time_zone"] == "Asia/Kolkata"
    assert answer["picture"]["begin"] / 1000 == 1751846400 - 5.5 * 3600


def test_longer_and_in_another_currency(client, frame):
    client.post(frame, json={"field": "days", "value": 2})
    client.post(frame, json={"field": "currency", "value": "GBP"})
    answer = client.post(frame.replace("frame", "groups/web/rehearsals"), json={}).json()
    whole = answer["picture"]["whole"]
    assert (whole["end"] - whole["begin"]) / 86_400_000 == 2
    assert answer["picture"]["spend"]["total"].startswith("£")


def test_differences_are_told_from_the_starred_take_as_it_would_be_now(client, frame):
    web = frame.replace("frame", "groups/web")
    first = client.post(f"{web}/rehearsals", json={}).json()["verdict"]
    client.post(frame, json={"field": "days", "value": 2})
    longer = client.post(f"{web}/rehearsals", json={}).json()["verdict"]
    assert longer["figures"]["cost"] == pytest.approx(2 * first["figures"]["cost"], rel=0.05)
    assert (longer["compared_with"], longer["differences"]) == (1, [])
    change = {"changes": [{"op": "set", "path": "minimum", "value": 4}]}
    told = client.post(f"{web}/rehearsals", json=change).json()["verdict"]["differences"]
    assert told[0]["figure"] == "cost"


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("time_zone", "Mars/Base", "IANA time zone name"),
        ("currency", "euro", "currency"),
        ("days", 0, "days"),
        ("start", "soon", "write a date and time"),
        ("tick", 7, "the tick is one of"),
        ("name", "", "name"),
    ],
)
def test_a_frame_that_cannot_be_is_refused_and_nothing_changes(client, frame, field, value, words):
    before = client.get(frame).json()
    refused = client.post(frame, json={"field": field, "value": value})
    assert refused.status_code == 422
    assert words in refused.json()["detail"]
    assert client.get(frame).json() == before


def test_a_name_under_which_arrangements_stand_is_not_given_again(client, frame):
    groups = frame.replace("frame", "groups")
    first = {"name": "api", "template": "front", "minimum": 1, "maximum": 3, "demand": "even"}
    assert client.post(groups, json=first).status_code == 201
    assert client.delete(f"{groups}/api").status_code == 204
    for answer in (client.post(groups, json=first), client.post(f"{groups}/web/copies", json={"name": "api"})):
        assert answer.status_code == 409
        assert "there is or was a group called api" in answer.json()["detail"]
