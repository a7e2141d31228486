"""Takes compared, arrangements saved, restored and reported, plans taken in, seeds as a band."""

import re

import pytest


@pytest.fixture
def plan(client):
    return f"/api/plans/{client.post('/api/demo').json()['id']}"


@pytest.fixture
def booking(plan):
    return f"{plan}/groups/booking-web"


def take(client, path, *changes):
    answer = client.post(f"{path}/rehearsals", json={"changes": list(changes), "keep": True, "buckets": 100})
    assert answer.status_code == 200, answer.text
    return answer.json()["take"]["number"]


def changed(path, value):
    return {"path": path, "value": value}


def test_two_takes_are_laid_side_by_side(client, booking):
    second = take(client, booking, changed("policies.add-on-cpu.amount", 3), {"op": "add", "path": "calendar", "value": "sleep"})
    found = client.get(f"{booking}/comparison", params={"first": 1, "second": second}).json()
    assert [(pair["section"], pair["before"], pair["after"]) for pair in found["sentences"]] == [
        (
            "policies",
            "When average CPU stays above 58 % for 5 min, add 1, then wait 6 min.",
            "When average CPU stays above 58 % for 5 min, add 3, then wait 6 min.",
        ),
        ("calendar", None, "Asleep, all instances stopped from 20:00 until 06:00, every day, first on Mon 7 Jul."),
    ]
    assert found["before"]["differences"] == []
    assert {one["figure"] for one in found["after"]["differences"]} >= {"cost", "short_minutes"}


def test_a_saved_arrangement_is_in_use_and_an_older_one_is_restored_as_a_new_one(client, booking, plan):
    second = take(client, booking, changed("minimum", 5))
    saved = client.post(f"{booking}/arrangements", json={"take": second, "note": "five at night", "after": 1})
    assert saved.status_code == 201
    lines = client.get(f"{booking}/arrangements").json()
    assert [(one["number"], one["note"], one["in_use"]) for one in lines] == [
        (2, "five at night", True),
        (1, "as imported", False),
    ]
    assert client.get(f"{plan}/document").json()["groups"]["booking-web"]["minimum"] == 5
    restored = client.post(f"{booking}/arrangements/1/restore").json()
    assert restored == {"arrangement": 3, "take": 3}
    assert client.get(f"{plan}/document").json()["groups"]["booking-web"]["minimum"] == 3
    assert client.get(f"{booking}/arrangements").json()[0]["note"] == "as arrangement 1: as imported"
    assert client.post(f"{booking}/arrangements/9/restore").status_code == 404


def test_saving_over_what_another_window_saved_is_refused(client, booking):
    second = take(client, booking, changed("minimum", 5))
    assert client.post(f"{booking}/arrangements", json={"take": second, "note": "mine", "after": 1}).status_code == 201
    late = client.post(f"{booking}/arrangements", json={"take": 1, "note": "theirs", "after": 1})
    assert late.status_code == 409
    assert "arrangement 2 of booking-web was saved in another window since (mine)" in late.json()["detail"]
    assert len(client.get(f"{booking}/arrangements").json()) == 2


def test_a_report_stands_alone_and_says_all(client, booking):
    page = client.get(f"{booking}/arrangements/1/report.html")
    assert page.headers["content-type"].startswith("text/html")
    assert "booking-web, arrangement 1" in page.text
    assert "When average CPU stays above 58 % for 5 min, add 1, then wait 6 min." in page.text
    assert "Broken: 97 % of answers within 400 ms" in page.text
    assert page.text.count("<svg") == 3
    assert not re.findall(r'(?:src|href)="', page.text)
    assert client.get(f"{booking}/arrangements/7/report.html").status_code == 404


def test_a_band_grows_with_its_seeds_and_holds_each_of_them(client, booking):
    def band(seeds):
        return client.post(f"{booking}/bands", json={"take": 1, "seeds": seeds, "buckets": 60}).json()

    client.get(f"{booking}/takes")
    one, three = band(1), band(3)
    assert one["desired"]["low"] <= one["desired"]["high"]
    assert all(
        low <= low_1 <= high
        for low, low_1, high in zip(three["demand"]["low"], one["demand"]["low"], three["demand"]["high"], strict=True)
    )
    assert three["demand"]["high"] != one["demand"]["high"]
    assert three["spread"]["seeds"] == [1, 2, 3]


def test_a_plan_file_says_what_it_would_change_and_then_changes_it(client, plan, booking):
    text = client.get(f"{booking}/takes/1/plan.yaml").text if client.get(f"{booking}/takes").status_code == 200 else ""
    same = client.post(f"{plan}/import", content=text).json()
    assert (same["differences"], same["unchanged"], same["kept"]) == ([], 10, False)
    document = client.get(f"{plan}/document").json()
    document["groups"]["booking-web"]["minimum"] = 6
    document["groups"]["night-web"] = document["groups"]["booking-web"]
    del document["groups"]["tryout"]
    document["demands"]["quotes"]["layers"][0]["rate"] = 3
    looked = client.post(f"{plan}/import", json=document).json()
    told = {(one["noun"], one["name"]): (one["what"], one["text"]) for one in looked["differences"]}
    assert told[("group", "booking-web")] == ("changed", "minimum 6, was 3")
    assert told[("group", "night-web")][0] == "new"
    assert told[("group", "tryout")] == ("gone", "is retired")
    assert told[("demand", "quotes")][0] == "changed"
    assert client.get(f"{booking}/takes").json()[-1]["change"] == "arrangement 1"
    assert client.post(f"{plan}/import", params={"keep": True}, json=document).json()["kept"]
    assert client.get(f"{booking}/takes").json()[-1]["change"] == "arrangement 2"
    assert {row["name"] for row in client.get(f"{plan}/groups").json()} >= {"night-web", "booking-web"}
    assert client.post(f"{plan}/groups/tryout/return").status_code == 201


def test_a_file_that_would_change_a_saved_version_is_refused(client, plan):
    document = client.get(f"{plan}/document").json()
    document["templates"]["web-front"]["versions"][0]["image"] = "another"
    answer = client.post(f"{plan}/import", params={"keep": True}, json=document)
    assert answer.status_code == 409
    assert "saved version of web-front" in answer.json()["detail"]
    assert client.post(f"{plan}/import", content=b"\xff\xfe").status_code == 422


def test_saving_over_another_windows_arrangement_is_told_and_can_be_meant(client, web):
    def kept(value):
        return client.post(f"{web}/rehearsals", json={"changes": [{"path": "minimum", "value": value}], "keep": True}).json()

    mine = kept(2)
    assert not mine["saved"]
    client.post(f"{web}/arrangements", json={"take": 1, "note": "by another"})
    refused = client.post(f"{web}/arrangements", json={"take": mine["take"]["number"], "note": "mine"})
    assert refused.status_code == 409
    assert "was saved in another window since (by another)" in refused.json()["detail"]
    over = client.post(f"{web}/arrangements", json={"take": mine["take"]["number"], "note": "mine", "after": 2})
    assert over.json()["number"] == 3
    again = client.post(f"{web}/rehearsals", json={"take": mine["take"]["number"]}).json()
    assert again["saved"]
    assert again["take"]["arrangement"] == 3
    next_one = client.post(
        f"{web}/rehearsals", json={"take": mine["take"]["number"], "changes": [{"path": "minimum", "value": 3}], "keep": True}
    ).json()
    assert client.post(f"{web}/arrangements", json={"take": next_one["take"]["number"]}).json()["number"] == 4
    text = client.get(f"{web}/arrangements/3/difference/4").text
    assert "-  minimum: 2" in text
    assert "+  minimum: 3" in text
    assert text.count("\n-") == text.count("\n+  ") == 1


def test_all_groups_together(client):
    plan = f"/api/plans/{client.post('/api/demo').json()['id']}"
    rows = client.get(f"{plan}/groups").json()
    found = client.get(f"{plan}/together").json()
    assert found["promises"] == sum(len(row["promises"]) for row in rows)
    assert found["promises_kept"] == sum(promise["kept"] for row in rows for promise in row["promises"])
    whole = sum(row["figures"]["cost"] for row in rows if row["host"] is None)
    assert found["cost"] == f"€ {whole:,.0f}"
    assert sum(part["share"] for part in found["groups"]) == pytest.approx(1)
    assert sum(part["share"] for part in found["what"]) == pytest.approx(1)
    heron = found["machines"][0]
    assert (heron["machine"], heron["quota"]) == ("heron-4", 30)
    assert heron["share"] == pytest.approx(heron["most"] / 30, abs=0.01)
    assert client.get(f"{plan}/retired").json() == []
    client.delete(f"{plan}/groups/tryout")
    assert client.get(f"{plan}/retired").json() == ["tryout"]
    assert client.delete(f"{plan}/templates/scratch").status_code == 204
    assert client.delete(f"{plan}/templates/worker").status_code == 409
