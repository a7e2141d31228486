"""Blocks moved on the strips, hands added, strips asked for, instances looked at."""

import pytest


@pytest.fixture
def booking(client):
    plan = client.post("/api/demo").json()["id"]
    return f"/api/plans/{plan}/groups/booking-web"


def rehearse(client, path, *changes, **more):
    answer = client.post(f"{path}/rehearsals", json={"changes": list(changes), "buckets": 200, **more})
    assert answer.status_code == 200, answer.text
    return answer.json()


def said(shown, key):
    sentences = [one for section in shown["page"] for one in section["sentences"]]
    return next("".join(word["text"] for word in one["words"]) for one in sentences if one["key"] == key)


def entry(shown, key):
    return next(one for one in shown["picture"]["calendar"]["entries"] if one["key"] == key)


def test_a_block_is_moved_and_stretched(client, booking):
    before = rehearse(client, booking)
    after = rehearse(client, booking, {"op": "move", "path": "calendar.release-day", "value": {"by": 7200, "longer": 1800}})
    assert said(after, "calendar.release-day") == "At least 16 from Thu 10 Jul 13:30 for 3 h 30 min, once."
    (old,), (new,) = (entry(shown, "calendar.release-day")["blocks"] for shown in (before, after))
    assert (new["begin"] - old["begin"], new["end"] - old["end"]) == (7_200_000, 9_000_000)
    assert after["change"] == "from Thu 10 Jul 13:30, was Thu 10 Jul 11:30, for 3 h 30 min, was 3 h"


def test_one_day_of_many_is_left_out_and_comes_again(client, booking):
    added = rehearse(client, booking, {"op": "add", "path": "calendar", "value": "floor"}, keep=True)
    second = entry(added, "calendar.floor")["blocks"][1]
    without = rehearse(client, booking, {"op": "skip", "path": "calendar.floor", "value": second["begin"]})
    assert second not in entry(without, "calendar.floor")["blocks"]
    assert said(without, "calendar.floor").endswith("every day, first on Mon 7 Jul, but for Tue 8 Jul.")
    words = next(s for part in without["page"] for s in part["sentences"] if s["key"] == "calendar.floor")["words"]
    again = next(word for word in words if word["path"] == "calendar.floor.except")["editor"]["choices"][1]
    assert (again["value"], again["text"]) == ([], "come again on Tue 8 Jul")


def test_the_days_of_an_entry_are_chosen_one_by_one(client, booking):
    added = rehearse(client, booking, {"op": "add", "path": "calendar", "value": "floor"}, keep=True)
    words = next(s for part in added["page"] for s in part["sentences"] if s["key"] == "calendar.floor")["words"]
    editor = next(word for word in words if word["path"] == "calendar.floor.repeat")["editor"]
    assert [one["text"] for one in editor["choices"]] == ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"]
    assert (len(editor["chosen"]), editor["last"]) == (7, None)
    fewer = {"days": ["MO", "WE", "FR"], "last": "2025-07-10"}
    changed = rehearse(client, booking, {"path": "calendar.floor.repeat", "value": fewer})
    assert len(entry(changed, "calendar.floor")["blocks"]) == 2
    assert ", every Monday, Wednesday and Friday until Thu 10 Jul, first on Mon 7 Jul." in said(changed, "calendar.floor")
    once = rehearse(client, booking, {"path": "calendar.floor.repeat", "value": {"days": []}})
    assert said(once, "calendar.floor").endswith(", once.")
    later = rehearse(client, booking, {"path": "calendar.floor.from", "value": "9:30"})
    assert " from 09:30 until 12:00, every day, first on" in said(later, "calendar.floor")
    begun = rehearse(client, booking, {"path": "calendar.floor.first", "value": "2025-07-11T08:00"})
    assert said(begun, "calendar.floor").endswith("first on Fri 11 Jul.")


def test_hands_act_at_a_chosen_time_and_are_moved_and_taken_out(client, booking):
    begin = rehearse(client, booking)["picture"]["begin"]
    kill = {"op": "add", "path": "hands", "value": {"kind": "kill", "at": begin + 36 * 3_600_000}}
    killed = rehearse(client, booking, kill, keep=True)
    assert said(killed, "hands.0") == "Tue 8 Jul 12:00: a hand kills the oldest instance."
    assert killed["change"] == "a hand kills the oldest instance"
    moved = rehearse(client, booking, {"op": "move", "path": "hands.0", "value": {"by": 1800}})
    assert moved["change"] == "at Tue 8 Jul 12:30, was Tue 8 Jul 12:00"
    assert moved["picture"]["calendar"]["hands"][0]["at"] == begin + 36.5 * 3_600_000
    gone = rehearse(client, booking, {"op": "remove", "path": "hands.0"})
    assert gone["change"] == "no hand kills the oldest instance"


@pytest.mark.parametrize(
    "change",
    [
        {"op": "move", "path": "policies.add-on-cpu", "value": {"by": 60}},
        {"op": "move", "path": "calendar.release-day", "value": {"by": "an hour"}},
        {"op": "skip", "path": "calendar.release-day", "value": None},
        {"op": "add", "path": "hands", "value": {"kind": "wave", "at": 0}},
        {"op": "remove", "path": "leaving"},
    ],
)
def test_what_cannot_be_moved_is_refused(client, booking, change):
    answer = client.post(f"{booking}/rehearsals", json={"changes": [change]})
    assert answer.status_code == 422
    assert answer.json()["detail"]


def test_offers_make_what_they_say_and_can_be_taken_back(client, booking):
    shown = rehearse(client, booking)
    for part in shown["page"]:
        for offer in part["more"] if part["key"] != "hands" else []:
            after = rehearse(client, booking, *offer["changes"])
            assert after["changed"], offer["text"]
        for sentence in part["sentences"]:
            for act in sentence["acts"]:
                assert rehearse(client, booking, *act["changes"])["changed"], (sentence["key"], act["text"])


def test_any_metric_is_shown_by_zone_too_and_changes_nothing(client, booking):
    plain = rehearse(client, booking)
    offered = {one["key"]: one["label"] for one in plain["picture"]["offered"]}
    assert offered["cpu@north"] == "CPU in north"
    more = rehearse(client, booking, metrics=["latency_p95", "cpu@north", "nonsense"])
    assert [strip["metric"] for strip in more["picture"]["metrics"]] == ["cpu", "latency_p95", "cpu@north"]
    assert more["verdict"] == plain["verdict"]
    group, zone = (more["picture"]["metrics"][k]["mean"] for k in (0, 2))
    assert sum(abs(a - b) for a, b in zip(group, zone, strict=True) if a and b) / len(group) < 3


def test_a_life_is_told_from_launch_to_end(client, booking):
    life = client.post(f"{booking}/instances", json={"instance": 12})
    assert life.status_code == 200
    facts = {one["heading"]: one["text"] for one in life.json()["facts"]}
    assert facts["Booted"] == "in 95 s"
    assert facts["Where"].endswith(", otter-2, version 2")
    assert all("instance 12" in event["text"] for event in life.json()["events"])
    assert client.post(f"{booking}/instances", json={"instance": 99999}).status_code == 404


def test_lanes_say_zone_version_and_load(client, booking):
    lanes = rehearse(client, booking)["picture"]["lanes"]
    assert {lanes["zones"][zone] for zone in lanes["zone"]} == {"north", "skerry", "west"}
    assert set(lanes["version"]) == {2}
    loads = [load for load in lanes["load"] if load is not None]
    assert 0 < min(loads) <= max(loads) <= 1


def test_an_entry_follows_the_clock_of_another_zone(client, booking):
    before = rehearse(client, booking)
    away = rehearse(client, booking, {"path": "calendar.release-day.zone", "value": "Asia/Tokyo"}, keep=True)
    assert said(away, "calendar.release-day").endswith("once, by the clock of Asia/Tokyo.")
    (here,), (there,) = (entry(shown, "calendar.release-day")["blocks"] for shown in (before, away))
    assert here["begin"] - there["begin"] == 8 * 3_600_000
    wrong = client.post(f"{booking}/rehearsals", json={"changes": [{"path": "calendar.release-day.zone", "value": "Mars/Base"}]})
    assert "IANA time zone" in wrong.json()["detail"]


@pytest.mark.parametrize(
    ("start", "day", "told"),
    [
        ("2025-10-24T00:00", "Su 26", "the clocks go back 1 h: this day has 25 hours"),
        ("2025-03-28T00:00", "Su 30", "the clocks go forward 1 h: this day has 23 hours"),
    ],
)
def test_days_on_which_clocks_change_are_marked(client, booking, start, day, told):
    plan = booking.split("/groups")[0]
    document = client.get(f"{plan}/document").json() | {"start": start}
    assert client.post(f"{plan}/import", params={"keep": True}, json=document).status_code == 200
    days = rehearse(client, booking)["picture"]["calendar"]["days"]
    assert [(one["label"], one["clock_change"]) for one in days if one["clock_change"]] == [(day, told)]
    assert len(days) == 7
