"""What lives, over the API: begun, clocked, steered, told, streamed, and there again after a stop."""

import json

import anyio
import pytest
from fastapi.testclient import TestClient

from jostle.api import live_desk
from jostle.api.app import create_app
from jostle.api.live_journal import journal, standing
from jostle.api.live_stream import journal_events
from jostle.formats.shipped import demo_plan
from jostle.provider.provider import Refused
from jostle.records.store import Store
from tests.plans import only

DEMO = demo_plan()


@pytest.fixture
def store(tmp_path):
    made = Store(tmp_path / "jostle.sqlite")
    made.add_plan(only(DEMO, "booking-web", "manifest-worker"))
    return made


@pytest.fixture
def service(store):
    return TestClient(create_app(store), base_url="http://127.0.0.1")


@pytest.fixture
def lived(service):
    begun = service.post(
        "/api/plans/1/live",
        json={"at": "2025-07-08T00:00", "until": "2025-07-08T10:00", "days": 3, "left_alone": ["manifest-worker"]},
    )
    assert begun.status_code == 201, begun.text
    return begun.json()


def group(view, name="booking-web"):
    return next(one for one in view["groups"] if one["name"] == name)


def hand(service, **act):
    return service.post("/api/plans/1/live/groups/booking-web/hands", json=act)


def test_nothing_lives_until_it_is_begun(service):
    assert service.get("/api/plans/1/live").json() is None
    assert service.get("/api/plans/1/live/journal").status_code == 404
    refused = service.post("/api/plans/1/live", json={"at": "tomorrow"})
    assert refused.json()["errors"][0]["path"] == "at"
    for far in ("0001-01-01T00:00", "9999-12-31T23:59"):
        assert "outside the years 1970 to 2199" in service.post("/api/plans/1/live", json={"at": far}).json()["detail"]
    assert service.post("/api/plans/1/live", json={"left_alone": ["quay"]}).status_code == 422


def test_groups_stand_as_they_have_lived(service, lived):
    assert lived["clock"] == "Tue 8 Jul 10:00:00"
    one = group(lived)
    assert one["kept"]
    assert one["wanted"] == one["serving"] > 3
    tape = one["tape"]
    now = sum(time <= lived["now"] for time in tape["times"])
    assert all(value is not None for value in tape["demand"][:now])
    assert all(value is None for value in tape["demand"][now + 1 :])
    assert all(value is not None for value in tape["likely_demand"][now + 1 :])
    alone = group(lived, "manifest-worker")
    assert not alone["kept"]
    assert alone["note"].startswith("on its own")
    assert service.post("/api/plans/1/live", json={}).status_code == 409


def test_the_journal_leads_to_the_moment_of_each_change(service, lived):
    lines = service.get("/api/plans/1/live/journal", params={"changes": True, "group": "booking-web"}).json()
    change = next(line for line in lines if line["kind"] == "count")
    assert change["why"]
    told = service.get("/api/plans/1/live/groups/booking-web/moment", params={"at": change["at"]}).json()
    assert told["at"] == change["at"]
    assert " → ".join(map(str, change["text"].split(":")[0].split(" → "))) in told["moment"]["decision"]
    assert [line["at"] for line in lines] == sorted((line["at"] for line in lines), reverse=True)
    assert service.get("/api/plans/1/live/journal", params={"group": "quay"}).status_code == 404


def test_one_answer_shows_one_instant_while_the_clock_runs(service, lived):
    looked = {"group": "booking-web", "instance": 1, "hours": 12}
    service.put("/api/plans/1/live/clock", json={"pace": 3600, "running": True})
    seen = [service.get("/api/plans/1/live", params=looked).json()]
    while len({view["now"] for view in seen}) < 4:
        seen.append(service.get("/api/plans/1/live", params=looked).json())
    service.put("/api/plans/1/live/clock", json={"running": False})
    for view in seen:
        one, shown = group(view), view["shown"]
        states = [tile["state"] for tile in shown["tiles"]]
        assert (shown["name"], states.count("serving")) == ("booking-web", one["serving"])
        assert len(states) == one["serving"] + one["coming"] + one["leaving"]
        assert all(line["at"] <= view["now"] for line in view["journal"])
        assert view["instance"]["title"]
    # The moves of the clock answer so too.
    gone_on = service.post("/api/plans/1/live/steps", params=looked, json={"by": 3600}).json()
    assert gone_on["shown"]["name"] == "booking-web"
    assert gone_on["journal"][0]["at"] <= gone_on["now"]
    assert gone_on["now"] - gone_on["journal"][0]["at"] < 3600 * 1000


def test_hands_are_done_at_once_and_stand_in_the_journal(service, lived):
    wanted = group(lived)["wanted"]
    assert hand(service, act="set", count=wanted + 2).json()["said"] == f"count set to {wanted + 2}"
    assert group(service.get("/api/plans/1/live").json())["note"].startswith("2 on their way")
    tile = service.get("/api/plans/1/live/groups/booking-web").json()["tiles"][0]
    assert hand(service, act="pin", instance=tile["number"]).status_code == 201
    assert service.get("/api/plans/1/live/groups/booking-web").json()["tiles"][0]["pinned"]
    lines = service.get("/api/plans/1/live/journal").json()
    assert [line["text"] for line in lines if line["kind"] == "hand"] == [
        f"by hand: instance {tile['number']} pinned",
        f"by hand: count set to {wanted + 2}",
    ]
    life = service.get(f"/api/plans/1/live/groups/booking-web/instances/{tile['number']}").json()
    assert ["Pinned", "scale in never picks it"] in [[fact["heading"], fact["text"]] for fact in life["facts"]]


@pytest.mark.parametrize(
    ("body", "status", "said"),
    [
        ({"act": "kill", "instance": 9999}, 404, "no instance 9999"),
        ({"act": "pause", "policy": "nobody"}, 409, "no policy nobody"),
        ({"act": "set", "count": -1}, 422, "greater than or equal to 0"),
        ({"act": "set"}, 422, "Field required"),
        ({"act": "sing"}, 422, "does not match any of the expected tags"),
        ({"act": "set", "count": 4, "why": "x"}, 422, "Extra inputs"),
        ({"act": "load", "instance": 1, "cpu": 4}, 422, "less than or equal to 1"),
    ],
)
def test_what_cannot_be_done_is_refused(service, lived, body, status, said):
    refused = hand(service, **body)
    assert refused.status_code == status, refused.text
    assert said in refused.text


def test_the_clock_steps_runs_and_stops(service, lived):
    stepped = service.post("/api/plans/1/live/steps", json={"by": 600}).json()
    assert stepped["now"] == lived["now"] + 600_000
    changed = service.post("/api/plans/1/live/steps", json={"to": "next change"}).json()
    assert group(changed)["wanted"] != group(stepped)["wanted"]
    assert service.post("/api/plans/1/live/steps", json={"at": lived["now"]}).status_code == 422
    running = service.put("/api/plans/1/live/clock", json={"pace": 600, "running": True}).json()
    assert (running["running"], running["pace"]) == (True, 600)
    stopped = service.put("/api/plans/1/live/clock", json={"running": False}).json()
    assert not stopped["running"]
    assert service.put("/api/plans/1/live/clock", json={"pace": 0}).status_code == 422


def test_all_is_there_again_after_a_stop(service, lived, store):
    hand(service, act="set", count=25)
    service.post("/api/plans/1/live/steps", json={"by": 1810})
    hand(service, act="hold")
    before = service.get("/api/plans/1/live").json()
    lines = service.get("/api/plans/1/live/journal").json()
    again = TestClient(create_app(Store(store.path)), base_url="http://127.0.0.1")
    assert again.get("/api/plans/1/live").json() == before
    assert again.get("/api/plans/1/live/journal").json() == lines
    assert group(before)["held"]
    assert again.delete("/api/plans/1/live").status_code == 204
    assert again.get("/api/plans/1/live").json() is None


def test_a_saved_arrangement_is_put_to_work(service, lived):
    take = service.post(
        "/api/plans/1/groups/booking-web/rehearsals",
        json={"changes": [{"path": "minimum", "value": 22}], "keep": True, "buckets": 10},
    ).json()
    service.post("/api/plans/1/groups/booking-web/arrangements", json={"take": take["take"]["number"], "note": "more"})
    assert group(service.get("/api/plans/1/live").json())["newest"] == 2
    before = service.get("/api/plans/1/live").json()
    told = service.get("/api/plans/1/live/groups/booking-web/arrangements/2/outlook").json()
    assert told["change"] == "minimum 22, was 3"
    assert told["lines"][0].endswith("→ 22 at Tue 8 Jul 10:01")
    assert told["lines"][-1].startswith("likely to cost € ")
    assert max(told["then"]) >= 22 > min(told["now"])
    assert service.get("/api/plans/1/live").json() == before
    assert service.get("/api/plans/1/live/groups/booking-web/arrangements/9/outlook").status_code == 404
    done = service.post("/api/plans/1/live/groups/booking-web/arrangements/2/work").json()
    assert done["said"] == "arrangement 2 put to work"
    after = group(service.post("/api/plans/1/live/steps", json={"by": 60}).json())
    assert (after["arrangement"], after["minimum"]) == (2, 22)
    assert after["wanted"] >= 22
    assert service.post("/api/plans/1/live/groups/booking-web/arrangements/9/work").status_code == 404


def test_the_stream_tells_what_happened_since_it_was_last_heard(service, lived):
    hand(service, act="hold")
    hand(service, act="release")
    with service.stream("GET", "/api/plans/1/live/events", headers={"Last-Event-ID": "1"}) as stream:
        lines = []
        for line in stream.iter_lines():
            lines.append(line)
            if line.startswith("data: "):
                service.delete("/api/plans/1/live")
                break
    told = json.loads(lines[-1].removeprefix("data: "))
    assert lines[0] == "id: 2"
    assert (told["specversion"], told["type"], told["id"]) == ("1.0", "jostle.live.went-on", "2")
    assert told["data"]["now"] == lived["now"]


def heard_lines(service, last, number):
    """So many events of the journal's stream, as what they say."""
    told = []
    with service.stream("GET", "/api/plans/1/live/journal/events", headers={"Last-Event-ID": str(last)}) as stream:
        for line in stream.iter_lines():
            if line.startswith("data: "):
                told.append(json.loads(line.removeprefix("data: ")))
            if len(told) == number:
                service.delete("/api/plans/1/live")
                break
    return told


def test_the_journals_stream_tells_each_line_once_and_in_the_order_of_time(service, lived):
    service.post("/api/plans/1/live/steps", json={"by": 3600})
    hand(service, act="hold")
    journal = service.get("/api/plans/1/live/journal", params={"hours": 1000}).json()
    assert len(journal) > 20
    told = heard_lines(service, 0, len(journal))
    assert {one["id"] for one in told} == {line["key"] for line in journal}
    assert len({one["id"] for one in told}) == len(journal)
    times = [one["data"]["at"] for one in told]
    assert times == sorted(times)


def test_a_journal_taken_while_it_lives_on_says_what_was_entered_then(service, lived):
    running = service.app.state.live_desk.of(1)
    stood = standing(running.live)
    before = journal(stood, False, 0.0)
    service.post("/api/plans/1/live/steps", json={"by": 7200})
    assert journal(stood, False, 0.0) == before
    assert len(journal(standing(running.live), False, 0.0, 10_000)) > len(before)


def test_lives_beyond_the_memory_that_there_is_rest_in_the_records(service, store, lived, monkeypatch):
    size = service.app.state.live_desk.of(1).live.nbytes
    monkeypatch.setattr(live_desk, "MOST_BYTES", int(2.5 * size))
    for number in (2, 3, 4):
        store.add_plan(only(DEMO, "booking-web", "manifest-worker"))
        begun = {"at": "2025-07-08T00:00", "until": "2025-07-08T01:00", "days": 3}
        answer = service.post(f"/api/plans/{number}/live", json=begun)
        if number == 3:
            assert answer.status_code == 409
            assert answer.json()["detail"].startswith("2 plans live that are looked at or whose clocks run")
            monkeypatch.setattr(live_desk, "MOMENT", 0.0)
            assert service.post(f"/api/plans/{number}/live", json=begun).status_code == 201
    assert len(service.app.state.live_desk._known) == 2
    again = service.get("/api/plans/1/live").json()
    assert (again["now"], group(again)["wanted"]) == (lived["now"], group(lived)["wanted"])
    assert len(service.app.state.live_desk._known) == 2


def test_what_was_let_go_of_is_not_lived_on_beside_its_records(service, lived):
    desk = service.app.state.live_desk
    running = desk.of(1)
    running.resting = True
    with pytest.raises(Refused, match="put to rest a moment ago; try again"):
        desk.step(running, running.live.now + 60)
    with pytest.raises(Refused, match="put to rest"):
        desk.lay(running, "booking-web", {"act": "hold"})


def tick_rates(service):
    tape = group(service.get("/api/plans/1/live").json())["tape"]
    return [one for one in tape["demand"] if one is not None]


def test_a_service_is_put_under_load_and_let_go_again(service, lived):
    before = max(tick_rates(service))
    laid = hand(service, act="load service", clients=600, each=1, ramp=60, **{"for": 1800})
    assert laid.json()["said"] == "the load of 600 clients for 31 min"
    service.post("/api/plans/1/live/steps", json={"by": 600})
    view = service.get("/api/plans/1/live").json()
    assert "600 clients send, by hand" in group(view)["note"]
    assert max(tick_rates(service)) > before + 400
    assert service.get("/api/plans/1/live/groups/booking-web").json()["loaded"]
    assert hand(service, act="stop load").status_code == 201
    service.post("/api/plans/1/live/steps", json={"by": 1200})
    assert tick_rates(service)[-1] < before + 100
    assert max(tick_rates(service)) > before + 400
    assert hand(service, act="stop load").status_code == 409


def test_what_goes_wrong_is_lived_through_and_there_again_after_a_stop(service, lived, store):
    assert hand(service, act="trouble", kind="zone_lost", zone="moon").json()["detail"].startswith("there is no zone moon here")
    laid = hand(service, act="trouble", kind="zone_lost", zone="north", **{"for": 1200})
    assert laid.json()["said"] == "zone north lost for 20 min, to try it"
    hand(service, act="load service", clients=50, waits=True, think=2, **{"for": 900})
    service.post("/api/plans/1/live/steps", json={"by": 900})
    tiles = service.get("/api/plans/1/live/groups/booking-web").json()["tiles"]
    assert {tile["zone"] for tile in tiles if tile["state"] == "serving"} == {"skerry", "west"}
    one = next(tile for tile in tiles if tile["state"] == "serving")
    assert (one["attached"], one["address"][:3], 0 < one["share"] < 1) == (["load balancer", "bookings"], "10.", True)
    lines = service.get("/api/plans/1/live/journal", params={"group": "booking-web"}).json()
    assert any("zone north is lost" in line["text"] for line in lines)
    again = TestClient(create_app(store), base_url="http://127.0.0.1")
    assert again.get("/api/plans/1/live/groups/booking-web").json()["tiles"] == tiles


def test_yesterday_now_and_tomorrow_come_from_what_lives(service, lived):
    days = {one["group"]: one for one in service.get("/api/plans/1/live/days").json()}
    one = days["booking-web"]
    assert one["now"] == group(service.get("/api/plans/1/live").json())["serving"]
    low, high = map(int, one["yesterday"].split(" to "))
    assert low <= one["now"] <= high
    assert one["text"] == f"{one['yesterday']} served since yesterday, {one['now']} now, likely {one['tomorrow']} until tomorrow"
    assert not days["manifest-worker"]["kept"]
    service.delete("/api/plans/1/live")
    assert service.get("/api/plans/1/live/days").json() == []


def test_single_instances_are_started_told_paid_for_and_refused(service, lived):
    place = "/api/plans/1/live/singles"
    done = service.post(place, json={"template": "web-front", "count": 2, "fields": {"boot_time": "40 s"}})
    assert done.status_code == 201, done.text
    assert done.json()["said"].endswith(", Boot time 40 s for this launch")
    service.post("/api/plans/1/live/steps", json={"by": 7200})
    told = service.get("/api/plans/1/live").json()["singles"]
    assert [(one["name"], one["there"], one["serving"], one["instead"]) for one in told] == [
        ("single-1", 2, 2, ["Boot time 40 s"])
    ]
    assert service.get("/api/plans/1/live/groups/single-1").json()["single"]
    assert "single-1" in service.get("/api/plans/1/costs").json()["groups"]
    for body, status, path, said in (
        ({"template": "quay"}, 404, None, "there is no launch template quay; there is: "),
        ({"template": "web-front", "version": 99}, 404, None, "web-front has versions 1 to "),
        ({"template": "web-front", "fields": {"sails": "2"}}, 422, "fields.sails", "a template has no such field"),
        ({"template": "web-front", "fields": {"boot_time": "soon"}}, 422, "boot_time", "soon"),
        ({"template": "web-front", "count": 0}, 422, "count", "1"),
    ):
        refused = service.post(place, json=body)
        assert refused.status_code == status, refused.text
        assert said in refused.text
        assert path is None or any(error["path"].endswith(path) for error in refused.json()["errors"])


def test_a_template_is_made_from_a_running_instance(service, lived):
    tile = service.get("/api/plans/1/live/groups/booking-web").json()["tiles"][0]
    place = f"/api/plans/1/live/groups/booking-web/instances/{tile['number']}/template"
    made = service.post(place, json={"name": "as-it-runs", "image": "quay-today"}).json()
    assert made["versions"][0]["version"]["image"] == "quay-today"
    assert made["versions"][0]["version"]["note"].startswith(f"As instance {tile['number']} of booking-web runs")
    again = service.post(place, json={"name": "as-it-runs"}).json()
    assert [one["number"] for one in again["versions"]] == [2, 1]
    assert service.post(place, json={"name": "As It Runs"}).status_code == 422
    assert service.post(place.replace(f"/{tile['number']}/", "/9999/"), json={"name": "x"}).status_code == 404


def test_a_life_as_long_as_memory_allows(service):
    refused = service.post("/api/plans/1/live", json={"days": 400})
    assert refused.json()["errors"][0]["path"].endswith("days")
    begun = service.post("/api/plans/1/live", json={"at": "2025-01-01T00:00", "days": 90, "until": "2025-01-09T00:00"})
    assert begun.status_code == 201, begun.text
    assert begun.json()["clock"] == "Thu 9 Jan 00:00:00"
    service.delete("/api/plans/1/live")
    whole = service.post("/api/plans", json={**DEMO.model_dump(mode="json"), "name": "whole"}).json()["id"]
    refused = service.post(f"/api/plans/{whole}/live", json={"days": 366})
    assert refused.status_code == 422
    assert "days would do, or longer steps" in refused.json()["errors"][0]["message"]


def test_the_journal_is_read_page_by_page(service, lived):
    place = "/api/plans/1/live/journal"
    whole = service.get(place, params={"hours": 30}).json()
    first = service.get(place, params={"hours": 5}).json()
    rest = service.get(place, params={"hours": 30, "before": first[-1]["at"]}).json()
    told = [line["key"] for line in whole if line["at"] != first[-1]["at"]]
    assert [line["key"] for line in first + rest if line["at"] != first[-1]["at"]][: len(told)] == told
    assert all(line["at"] < first[-1]["at"] for line in rest)


def test_the_journal_is_streamed_line_by_line_and_taken_up_again_with_none_missing(service, lived):
    async def some(last, wanted):
        running, found = service.app.state.live_desk.required(1), []
        stream = journal_events(running, "/api/plans/1/live", last, lambda: True)
        async for text in stream:
            for event in text.strip().split("\n\n"):
                place, _, told = event.split("\n")
                found.append((int(place.removeprefix("id: ")), json.loads(told.removeprefix("data: "))))
            if len(found) >= wanted:
                break
        await stream.aclose()
        return found

    def heard(last, wanted):
        return anyio.run(some, last, wanted)

    hand(service, act="change count", by=2)
    now = service.post("/api/plans/1/live/steps", json={"by": 900}).json()["now"]
    since = round(lived["now"]) - 3_600_000
    lines = service.get("/api/plans/1/live/journal", params={"hours": 2, "before": now + 1}).json()
    expected = [line for line in reversed(lines) if line["at"] >= since]
    assert len(expected) > 4
    whole = heard(since, len(expected))
    assert [told["data"]["text"] for _, told in whole] == [line["text"] for line in expected]
    assert {told["type"] for _, told in whole} == {"jostle.live.entered"}
    why = next(told["data"] for _, told in whole if told["data"]["why"])
    assert service.get(why["moment"]).json()["moment"]["title"]
    middle = whole[len(whole) // 2][0]
    rest = [told["id"] for _, told in heard(middle, sum(place >= middle for place, _ in whole))]
    assert rest == [told["id"] for place, told in whole if place >= middle]
