"""Another version brought in: on the page and the strips of a rehearsal, and by hand while it lives."""

import pytest

from tests.api.test_handling import entry, rehearse, said

HOUR = 3_600_000


@pytest.fixture
def quote(client):
    plan = client.post("/api/demo").json()["id"]
    return f"/api/plans/{plan}/groups/fare-quote"


def test_a_rollout_is_drawn_with_its_stages_and_its_versions_are_told_apart(client, quote):
    shown = rehearse(client, quote)
    one = entry(shown, "calendar.rounding")
    assert (one["kind"], one["lasting"], one["label"]) == ("rollout", True, "version 2 brought in")
    (block,) = one["blocks"]
    assert [stage["tone"] for stage in one["stages"]] == ["comes", "watched", "back"]
    assert (one["stages"][0]["begin"], one["stages"][-1]["end"]) == (block["begin"], block["end"])
    versions = shown["picture"]["count"]["versions"]
    assert [one["version"] for one in versions] == [2, 1]
    assert 0 < max(versions[0]["serving"]) <= 1
    assert versions[0]["serving"][:30] == [0] * 30
    assert shown["verdict"]["rollouts"][0].startswith("rounding: version 2 back after")
    plain = rehearse(client, quote, {"path": "calendar.rounding.paused", "value": True})
    assert plain["picture"]["count"]["versions"] == []
    assert plain["verdict"]["rollouts"] == []


def test_a_block_is_moved_and_stretched_by_its_pauses(client, quote):
    no_canary = {"path": "calendar.rounding.canary", "value": None}
    before = rehearse(client, quote, no_canary)
    moved = rehearse(client, quote, no_canary, {"op": "move", "path": "calendar.rounding", "value": {"by": 3600, "longer": 0}})
    assert said(moved, "calendar.rounding").startswith("Bring in version 2 at Wed 9 Jul 14:00: 34 % at a time")
    longer = rehearse(client, quote, no_canary, {"op": "move", "path": "calendar.rounding", "value": {"by": 0, "longer": 3600}})
    assert "a pause of 50 min between" in said(longer, "calendar.rounding")
    old, new = (entry(one, "calendar.rounding")["blocks"][0] for one in (before, longer))
    assert new["end"] - new["begin"] == pytest.approx(old["end"] - old["begin"] + HOUR, abs=600_000)


def test_its_words_are_changed_one_by_one(client, quote):
    for path, value, words in (
        ("calendar.rounding.canary.metric", "latency_p95", "by the latency p95"),
        ("calendar.rounding.canary.worse", "stop", "it stops there"),
        ("calendar.rounding.canary.watch", "90 min", "for 1 h 30 min: by"),
        ("calendar.rounding.canary.false_alarms", "5 %", "a false alarm in 5 % of cases"),
        ("calendar.rounding.of", "instances", "34 instances at a time"),
        ("calendar.rounding.fewer", 2, "2 fewer than desired"),
    ):
        assert words in said(rehearse(client, quote, {"path": path, "value": value}), "calendar.rounding")
    for path, value, said_so in (
        ("calendar.rounding.to", 3, "has versions 1 to 2"),
        ("calendar.rounding.canary.looks", 0, "greater than or equal to 1"),
        ("calendar.rounding.until", "12:00", "comes once"),
    ):
        refused = client.post(f"{quote}/rehearsals", json={"changes": [{"path": path, "value": value}], "buckets": 200})
        assert refused.status_code == 422
        assert said_so in refused.json()["detail"]


def test_a_canary_is_taken_out_and_put_back(client, quote):
    shown = rehearse(client, quote)
    sentence = next(s for part in shown["page"] for s in part["sentences"] if s["key"] == "calendar.rounding")
    act = next(one for one in sentence["acts"] if one["text"] == "without the canary")
    without = rehearse(client, quote, *act["changes"], keep=True)
    assert without["verdict"]["rollouts"][0].startswith("rounding: version 2 brought in within")
    more = next(s for part in without["page"] for s in part["sentences"] if s["key"] == "calendar.rounding")["acts"]
    back = rehearse(client, quote, *next(one for one in more if one["text"] == "a canary first")["changes"])
    assert "10 % first, for 30 min" in said(back, "calendar.rounding")


def test_a_hand_brings_a_version_in_while_it_lives(client, quote):
    plan = quote.split("/groups/")[0]
    begun = client.post(f"{plan}/live", json={"at": "2025-07-08T00:00", "until": "2025-07-08T10:00", "days": 1})
    assert begun.status_code == 201
    path = f"{plan}/live/groups/fare-quote"
    assert client.get(path).json()["versions"] == [2]
    done = client.post(f"{path}/hands", json={"act": "roll out", "version": 2})
    assert done.json()["said"] == "version 2 is brought in, a canary first"
    client.post(f"{plan}/live/steps", json={"by": 600})
    shown = client.get(path).json()
    assert shown["rollout"]["text"].startswith("version 2 brought in: its canary")
    assert sum(tile["version"] == 2 for tile in shown["tiles"]) == 1
    assert client.post(f"{path}/hands", json={"act": "turn rollout back"}).json()["said"] == "the rollout is turned back"
    client.post(f"{plan}/live/steps", json={"by": 1200})
    assert client.get(path).json()["rollout"] is None
    told = [line["text"] for line in client.get(f"{plan}/live/journal", params={"changes": True}).json()]
    assert "by-hand-1 is back: all are of version 1 again" in told
    refused = client.post(f"{path}/hands", json={"act": "stop rollout"})
    assert refused.status_code == 409
    assert "no rollout of fare-quote is under way" in refused.json()["detail"]
