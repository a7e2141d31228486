"""Demands over the API: composed from layers, edited, and brought from files."""

import pytest


@pytest.fixture
def demands(client):
    plan = client.post("/api/demo").json()["id"]
    return f"/api/plans/{plan}/demands"


def view(client, path, *changes, **more):
    answer = client.post(f"{path}/views", json={"changes": list(changes), **more})
    assert answer.status_code == 200, answer.text
    return answer.json()


def said(shown, key):
    return next("".join(word["text"] for word in one["words"]) for one in shown["sentences"] if one["key"] == key)


def kept(client, path, *changes):
    return view(client, path, *changes, keep=True, state=view(client, path)["state"])


def change(path, value, op="set"):
    return {"op": op, "path": path, "value": value}


def test_demands_are_listed_with_who_meets_them(client, demands):
    lines = {line["name"]: line for line in client.get(demands).json()}
    assert lines["summer-week"]["used_by"] == ["booking-web"]
    assert lines["quotes"]["line"] == "4 layers and 2 incidents"
    assert max(lines["summer-week"]["shape"]) > 1000


def test_an_edit_is_shown_with_its_effect_and_not_kept(client, demands):
    path = f"{demands}/summer-week"
    before = view(client, path)
    tried = view(client, path, change("layers.0.rate", 20))
    assert said(tried, "layers.0") == "A level of 20/s."
    assert tried["picture"]["top"] < before["picture"]["top"] / 5
    assert tried["effects"][0]["group"] == "booking-web"
    assert tried["effects"][0]["broken"] == []
    assert before["effects"][0]["broken"]
    assert view(client, path)["picture"]["top"] == before["picture"]["top"]


@pytest.mark.parametrize(
    "changes",
    [
        [change("layers.0.rate", 20)],
        [change("layers.3.muted", True)],
        [change("layers", "surge", "add")],
        [change("incidents", "zone_lost", "add")],
        [change("layers.1", None, "remove")],
        [{"op": "move", "path": "layers.3", "value": {"by": 3600, "longer": 600}}],
        [change("layers.1.points.2", None, "remove")],
        [change("layers.1.points", {"at": "05:00", "factor": 2}, "add")],
        [change("layers.1.points.0.at", "01:00"), change("layers.1.points.0.factor", 2), change("layers.2.monday", 3)],
    ],
)
def test_what_an_answer_gives_as_undo_takes_the_edit_back(client, demands, changes):
    path = f"{demands}/summer-week"
    before = view(client, path)
    after = kept(client, path, *changes)
    assert after["state"] != before["state"]
    again = kept(client, path, *after["undo"])
    assert again["state"] == before["state"]
    assert [said(again, one["key"]) for one in again["sentences"]] == [said(before, one["key"]) for one in before["sentences"]]


def moved(path, hours, longer=0):
    return {"op": "move", "path": path, "value": {"by": hours * 3600, "longer": longer}}


def test_a_moved_rush_is_given_its_time_on_the_wall(client, demands):
    path = f"{demands}/summer-week"
    later = view(client, path, moved("layers.3", 36, 600))
    assert said(later, "layers.3") == "From Sat 12 Jul 00:00 a rush to 5 times, up in 15 min, held for 35 min, down in 2 h."
    lost = kept(client, path, {"op": "add", "path": "incidents", "value": "zone_lost"})
    assert said(lost, "incidents.0") == "Thu 10 Jul 12:00: zone north is lost for 30 min."
    assert (
        said(view(client, path, moved("incidents.0", -1, 1800)), "incidents.0") == "Thu 10 Jul 11:00: zone north is lost for 1 h."
    )


def test_a_burst_comes_at_another_time_once_more_or_no_more(client, demands):
    path = f"{demands}/sailings"
    before = view(client, path)
    strip = before["picture"]["layers"][1]
    assert [point["at"] for point in strip["points"]] == ["05:50", "08:20", "11:35", "14:50", "18:05"]
    assert strip["lasts"] == 1500
    more = kept(client, path, change("layers.1.at", "13:00", "add"))
    assert "11:35, 13:00, 14:50 and 18:05" in said(more, "layers.1")
    fewer = kept(client, path, change("layers.1.at.0", None, "remove"))
    assert said(fewer, "layers.1").startswith("620 arrive at 08:20, 11:35,")
    back = kept(client, path, *fewer["undo"])
    assert said(kept(client, path, *more["undo"]), "layers.1") == said(before, "layers.1") != said(back, "layers.1")


def test_an_edit_of_what_another_window_changed_is_refused(client, demands):
    path = f"{demands}/summer-week"
    first = view(client, path)
    kept(client, path, change("layers.0.rate", 150))
    late = client.post(f"{path}/views", json={"changes": [change("layers.0.rate", 170)], "keep": True, "state": first["state"]})
    assert late.status_code == 409
    assert "was changed in another window" in late.json()["detail"]
    assert said(view(client, path), "layers.0") == "A level of 150/s."


@pytest.mark.parametrize(
    ("wrong", "place"),
    [
        (change("layers.0.rate", -4), "layers.0.rate"),
        (change("layers", "flood", "add"), "level, daily"),
        (change("layers.1.at", "noon", "add"), "layers.1.at"),
        (change("layers.0", None, "remove"), "a level, bursts or a brought series"),
        ({"op": "move", "path": "layers.0", "value": {"by": 60}}, "only a rush, a load test"),
        ({"op": "move", "path": "layers.3", "value": {"by": "soon"}}, "write a number"),
        (change("layers.3", 0, "skip"), "no days to be left out"),
        (change("layers.17", None, "remove"), "only a layer, an incident, a point"),
        (change("incidents", {"kind": "zone_lost", "zone": "south", "at": "2025-07-08T12:00", "for": "1 h"}, "add"), "south"),
    ],
)
def test_what_cannot_be_is_refused_by_its_place(client, demands, wrong, place):
    answer = client.post(f"{demands}/summer-week/views", json={"changes": [wrong]})
    assert answer.status_code == 422
    assert place in answer.json()["detail"]


def test_the_demand_without_a_layer_is_drawn_besides(client, demands):
    shown = view(client, f"{demands}/summer-week", apart="layers.3")
    assert max(shown["picture"]["without"]) < 0.7 * max(shown["picture"]["high"])


def test_parts_add_up_to_the_whole(client, demands):
    test = {"kind": "load_test", "at": "2025-07-08T12:00", "clients": 50, "each": 2, "hold": "1 h"}
    shown = view(client, f"{demands}/summer-week", change("layers", "level", "add"), change("layers", test, "add"))["picture"]
    assert [part["key"] for part in shown["parts"]] == ["layers.0", "layers.6", "layers.7"]
    for whole, *parts in zip(shown["mean"], *(part["mean"] for part in shown["parts"]), strict=True):
        assert sum(parts) == pytest.approx(whole, rel=1e-3)


def test_a_demand_is_composed_copied_and_taken_out(client, demands):
    assert client.post(demands, json={"name": "quiet"}).json()["line"] == "3 layers"
    assert client.post(demands, json={"name": "quiet"}).status_code == 409
    assert client.post(demands, json={"name": "Quiet!"}).status_code == 422
    assert client.post(demands, json={"name": "copy", "like": "quotes"}).json()["line"] == "4 layers and 2 incidents"
    assert client.delete(f"{demands}/copy").status_code == 204
    assert client.post(f"{demands}/copy/views", json={}).status_code == 404
    refused = client.delete(f"{demands}/summer-week")
    assert refused.status_code == 409
    assert "booking-web" in refused.json()["detail"]


def bring(client, demands, content, **fields):
    return client.post(f"{demands}/file", files={"file": ("harbour.csv", content)}, data={"name": "harbour", **fields})


CSV = "time,north per second,south per second\n2025-07-07T00:00,10,40\n2025-07-07T00:01,12,50\n"


def test_a_column_is_chosen(client, demands):
    guessed = bring(client, demands, CSV, keep="false").json()
    assert (guessed["time_column"], guessed["value_column"], guessed["highest"]) == ("time", "north per second", "12/s")
    chosen = bring(client, demands, CSV, value_column="south per second").json()
    assert chosen["highest"] == "50/s"
    wrong = bring(client, demands, CSV, value_column="west", keep="false")
    assert wrong.status_code == 422
    assert "north per second" in wrong.text


def test_a_series_becomes_a_layer_that_is_stretched_and_laid_elsewhere(client, demands):
    assert bring(client, demands, CSV, into="summer-week").json()["name"] == "summer-week"
    path = f"{demands}/summer-week"
    assert said(view(client, path), "layers.6") == "The series of harbour.csv, 1 time, stretched 1 time."
    moved = kept(client, path, change("layers.6.stretch", 3), change("layers.6.at", "2025-07-09T06:00"))
    block = next(one["block"] for one in moved["picture"]["layers"] if one["key"] == "layers.6")
    assert block["end"] - block["begin"] == 2 * 60_000 * 3
    out = kept(client, path, change("layers.6", None, "remove"))
    back = kept(client, path, *out["undo"])
    assert said(back, "layers.6") == said(moved, "layers.6")


def test_a_file_without_a_unit_is_guessed_at_and_its_days_are_chosen(client, demands):
    rows = [
        "when;load",
        *(f"{day:02d}.06.2025 {hour:02d}:00;{360 * (1 + (day == 18))}" for day in range(2, 25) for hour in range(24)),
    ]

    def look(**form):
        file = {"file": ("load.csv", "\n".join(rows).encode(), "text/csv")}
        answer = client.post(f"{demands}/file", files=file, data={"name": "load", "keep": "false", **form})
        assert answer.status_code == 201, answer.text
        return answer.json()

    found = look()
    assert "taken as a count for each row, 1 h apart" in found["notes"][0]
    assert found["sample"][:2] == [["when", "load"], ["02.06.2025 00:00", "360"]]
    assert found["rehearsed"].startswith("Rehearsed: none of its own dates")
    busiest = look(day="busiest")
    assert busiest["rehearsed"] == "Rehearsed: Mon 16 Jun to Sun 22 Jun 2025, its busiest stretch."
    assert 0 < busiest["window"][0] < busiest["window"][1] < 1
    chosen = look(day="2025-06-10", peak="4", like="booking-web")
    assert "Tue 10 Jun" in chosen["rehearsed"]
    assert chosen["scale"] == pytest.approx(4 * 2 / 0.055 * 0.97 / 0.2, rel=1e-3)
    kept = look(day="2025-06-10", keep="true")
    assert kept["kept"]


def test_a_demand_is_composed_from_one_that_was_brought(client, demands):
    made = client.post(f"{demands}/june-week/composed", json={"key": "layers.0"})
    assert made.status_code == 201, made.text
    assert made.json()["name"] == "june-week-composed"
    shown = view(client, f"{demands}/june-week-composed")
    assert [one["kind"] for one in shown["sentences"]] == ["level", "daily", "weekdays", "noise"]
    assert shown["note"]["text"].startswith("Composed from june-week.csv: less than two weeks")
    lines = {line["name"]: line for line in client.get(demands).json()}
    assert max(lines["june-week-composed"]["shape"]) == pytest.approx(max(lines["june-week"]["shape"]), rel=0.35)
    assert client.post(f"{demands}/june-week/composed", json={"key": "layers.0"}).json()["name"] == "june-week-composed-2"
    refused = client.post(f"{demands}/summer-week/composed", json={"key": "layers.0"})
    assert refused.status_code == 422
    assert refused.json()["errors"][0]["message"] == "is no layer with a series from a file; there is: none"
    assert client.post(f"{demands}/nothing/composed", json={"key": "layers.0"}).status_code == 404
