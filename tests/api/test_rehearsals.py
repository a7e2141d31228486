import pytest

THRESHOLD = "policies.add.threshold"


def rehearse(client, web, *changes, **more):
    body = {"changes": [{"path": path, "value": value} for path, value in changes], **more}
    answer = client.post(f"{web}/rehearsals", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_the_first_take_is_the_arrangement_and_is_starred(client, web):
    takes = client.get(f"{web}/takes").json()
    assert [(take["number"], take["change"], take["starred"]) for take in takes] == [(1, "arrangement 1", True)]


def test_an_edit_is_shown_without_being_kept_and_then_kept(client, web):
    tried = rehearse(client, web, (THRESHOLD, 0.5))
    assert tried["changed"]
    assert tried["change"] == "add above 50 %, was 70 %"
    assert tried["take"]["number"] == 1
    assert len(client.get(f"{web}/takes").json()) == 1
    kept = rehearse(client, web, (THRESHOLD, 0.5), keep=True)
    assert kept["take"]["number"] == 2
    assert not kept["changed"]
    assert kept["take"]["came_from"] == 1
    assert kept["verdict"] == {**tried["verdict"]}


def test_an_edit_that_changes_nothing_makes_no_take(client, web):
    assert rehearse(client, web, (THRESHOLD, 0.7), keep=True)["take"]["number"] == 1


def test_differences_are_against_the_starred_take(client, web):
    before = rehearse(client, web)
    assert before["verdict"]["differences"] == []
    after = rehearse(client, web, ("minimum", 4), ("start_count", 4), keep=True)
    found = {one["figure"]: one for one in after["verdict"]["differences"]}
    assert found["short_minutes"]["better"] is True
    assert found["cost"]["better"] is False
    starred = client.put(f"{web}/star?take=2").json()
    assert [take["starred"] for take in starred] == [False, True]
    assert rehearse(client, web)["verdict"]["differences"] == []


def test_the_bounds_of_cost_are_asked_for_after_the_picture_and_then_at_hand(client, web):
    assert rehearse(client, web)["verdict"]["bounds"] == {"place": None, "foresight": None, "always_peak": None}
    found = client.post(f"{web}/bounds", json={}).json()
    assert found["verdict"]["bounds"]["always_peak"].startswith("€ ")
    after = rehearse(client, web, (THRESHOLD, 0.5))["verdict"]
    assert after["bounds"]["always_peak"] == found["verdict"]["bounds"]["always_peak"]
    assert after["figures"]["always_peak_cost"] > 0


def test_what_has_to_be_played_otherwise_is_told_with_the_bounds(client, web):
    notice = [{"path": "work", "value": {"kind": "sessions", "seats": 40, "length": "10 min"}}, {"path": "notice", "value": {}}]
    notice += [{"path": "promises", "value": []}, {"path": "policies", "value": []}, {"path": "load_balancer", "value": None}]
    first = client.post(f"{web}/rehearsals", json={"changes": notice}).json()["verdict"]
    assert not first["whole"]
    assert "without notice" not in first["lost"]
    later = client.post(f"{web}/bounds", json={"changes": notice}).json()["verdict"]
    assert later["whole"]
    assert "without notice" in later["lost"]
    assert {**later["figures"], "cut_off_untold": None} | {"always_peak_cost": None, "foresight_cost": None} == first["figures"]


def test_a_hopeless_promise_is_told_with_the_bounds(client, web):
    hopeless = [{"path": "promises", "value": [{"kind": "answers", "within": "50ms", "share": "95%"}]}]
    answer = client.post(f"{web}/bounds", json={"changes": hopeless}).json()
    assert answer["verdict"]["bounds"]["always_peak"] == "none"
    told = [finding["code"] for section in answer["page"] for line in section["sentences"] for finding in line["findings"]]
    assert "promise-hopeless" in told


def test_going_back_and_on_from_an_earlier_take(client, web):
    rehearse(client, web, (THRESHOLD, 0.5), keep=True)
    back = rehearse(client, web, take=1)
    word = next(w for s in back["page"] for x in s["sentences"] for w in x["words"] if w["path"] == THRESHOLD)
    assert word["text"] == "70 %"
    other = rehearse(client, web, ("policies.add.amount", 2), take=1, keep=True)
    assert (other["take"]["number"], other["take"]["came_from"]) == (3, 1)


def test_a_take_is_taken_out_and_what_was_made_from_it_stays(client, web):
    for threshold in (0.5, 0.55, 0.6):
        rehearse(client, web, (THRESHOLD, threshold), keep=True)
    left = client.delete(f"{web}/takes/3").json()
    assert [(take["number"], take["came_from"]) for take in left] == [(1, None), (2, 1), (4, 2)]
    for number, said in ((1, "starred"), (4, "the newest")):
        refused = client.delete(f"{web}/takes/{number}")
        assert refused.status_code == 409
        assert said in refused.text
    assert client.delete(f"{web}/takes/3").status_code == 404


def test_a_take_gives_the_same_answer_again(client, web):
    first, second = (rehearse(client, web, take=1) for _ in range(2))
    first.pop("engine_ms"), second.pop("engine_ms")
    assert first == second


def test_another_seed_is_a_take_of_its_own(client, web):
    kept = rehearse(client, web, seed=7, keep=True)
    assert (kept["take"]["change"], kept["seed"]) == ("seed 7", 7)
    assert rehearse(client, web, take=2)["seed"] == 7


@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        (THRESHOLD, 70, "did you mean 70 %?"),
        ("evaluate_every", 45, "whole multiple of the tick"),
        ("policies.nobody.threshold", 0.5, "there is: add, remove"),
        ("colour", "red", "is not a field here"),
        ("demand", "none", "there is: even"),
    ],
)
def test_an_edit_that_cannot_be_is_refused_in_words_and_nothing_is_kept(client, web, path, value, said):
    answer = client.post(f"{web}/rehearsals", json={"changes": [{"path": path, "value": value}], "keep": True})
    assert answer.status_code == 422
    assert said in answer.json()["detail"]
    assert len(client.get(f"{web}/takes").json()) == 1


def test_policies_come_and_go(client, web):
    def change(op, path, value=None):
        return client.post(f"{web}/rehearsals", json={"changes": [{"op": op, "path": path, "value": value}], "keep": True})

    assert change("add", "policies", "hold").json()["take"]["change"] == "new policy hold-cpu"
    assert change("remove", "policies.add").json()["take"]["change"] == "without add"
    assert change("set", "policies.remove.paused", True).json()["take"]["change"] == "remove paused"
    assert change("remove", "minimum").status_code == 422
    assert change("add", "policies", "magnet").status_code == 422


def test_a_policy_switched_to_a_metric_of_another_unit_gets_a_threshold_in_that_unit(client, web):
    changed = rehearse(client, web, ("policies.add.metric", "latency_p95"), keep=True)
    words = [w for s in changed["page"] for x in s["sentences"] for w in x["words"] if w["path"] == THRESHOLD]
    assert words[0]["text"] == "1.8 s"
    assert words[0]["editor"]["unit"] == "ms"
    assert [m["metric"] for m in changed["picture"]["metrics"]] == ["latency_p95", "cpu"]


def test_strips_are_cut_to_a_span_and_a_number_of_buckets(client, web):
    whole = rehearse(client, web, buckets=100)["picture"]
    assert len(whole["times"]) == 100
    hour = 3_600_000
    begin = whole["begin"] + 6 * hour
    cut = rehearse(client, web, buckets=60, begin=begin, end=begin + hour)["picture"]
    assert (cut["begin"], cut["end"]) == (begin, begin + hour)
    assert len(cut["times"]) == 60
    assert all(len(cut["count"][name]) == 60 for name in ("serving", "desired"))
    assert cut["whole"] == whole["whole"]
    far = rehearse(client, web, buckets=10, begin=begin + 9999 * hour, end=begin + 10_000 * hour)["picture"]
    assert far["begin"] < far["end"] == whole["whole"]["end"]


def test_a_metric_strip_carries_its_thresholds_in_shown_units(client, web):
    strip = rehearse(client, web)["picture"]["metrics"][0]
    assert strip["unit"] == "%"
    assert [(t["path"], t["shown"], t["tone"]) for t in strip["thresholds"]] == [
        (THRESHOLD, pytest.approx(70), "add"),
        ("policies.remove.threshold", pytest.approx(30), "remove"),
    ]


def test_the_distribution_beside_a_threshold_adds_up(client, web):
    found = rehearse(client, web)["picture"]["distributions"][0]
    assert found["path"] == THRESHOLD
    assert sum(found["shares"]) == pytest.approx(1, abs=0.01)
    assert found["text"].startswith("above it ")


def test_the_axis_is_marked_in_the_plans_zone(client, web):
    picture = rehearse(client, web)["picture"]
    assert picture["axis"][0] == {"at": picture["begin"], "label": "Mon 7 Jul", "day": True}
    begin = picture["begin"] + 8 * 3_600_000
    cut = rehearse(client, web, begin=begin, end=begin + 4 * 3_600_000)["picture"]
    assert cut["axis"][0]["label"] == "Mon 7 Jul 08:00"


def test_lanes_tell_the_life_of_each_instance(client, web):
    lanes = rehearse(client, web)["picture"]["lanes"]
    assert lanes["gone"][0] is None or lanes["gone"][0] > lanes["serves"][0]
    later = {field: column[1] for field, column in lanes.items() if field not in ("zones", "machines", "name")}
    assert later["requested"] < later["booted"] < later["serves"]
    assert later["booted"] - later["requested"] == 100_000


def test_a_moment_is_explained_and_leads_to_the_next_decision(client, web):
    begin = rehearse(client, web)["picture"]["begin"]
    found = client.post(f"{web}/moments", json={"at": begin + 130_000}).json()
    assert found["moment"]["title"] == "Mon 7 Jul 00:02: why 2, and not 1 as before?"
    assert found["at"] == begin + 120_000
    following = client.post(f"{web}/moments", json={"at": found["following"]}).json()
    assert following["previous"] == found["at"]
    tried = {"at": begin + 130_000, "changes": [{"path": THRESHOLD, "value": 1}]}
    assert "not more or fewer" in client.post(f"{web}/moments", json=tried).json()["moment"]["title"]


def test_a_ghost_has_the_outlines_of_its_take(client, web):
    rehearse(client, web, ("minimum", 3), ("start_count", 3), keep=True)
    ghost = client.post(f"{web}/ghosts", json={"take": 2, "buckets": 50}).json()
    assert ghost["change"] == "minimum 3, was 1, start 3, was 1"
    assert min(ghost["desired"]) >= 3
    assert len(ghost["times"]) == 50
    assert client.post(f"{web}/ghosts", json={"take": 9, "buckets": 50}).status_code == 404


def test_a_take_is_saved_as_the_next_arrangement(client, web):
    rehearse(client, web, (THRESHOLD, 0.5), keep=True)
    saved = client.post(f"{web}/arrangements", json={"take": 2, "note": "calmer"})
    assert saved.status_code == 201
    assert [(a["number"], a["note"]) for a in client.get(f"{web}/arrangements").json()] == [(2, "calmer"), (1, "as imported")]


def test_the_journal_of_a_take(client, web):
    rehearse(client, web)
    told = client.get(f"{web}/takes/1/journal").json()
    assert {event["kind"] for event in told} >= {"short", "count", "serves"}
    assert client.get(f"{web}/takes/8/journal").status_code == 404


def test_findings_stand_under_the_sentence_that_they_concern(client, web):
    changed = rehearse(client, web, ("policies.add.side", "below"))
    sentences = {s["key"]: s for section in changed["page"] for s in section["sentences"]}
    finding = next(f for f in sentences["policies.add"]["findings"] if f["code"] == "wrong-side")
    assert finding["mend"]["settings"] == {"policies.add.side": "above"}
    alone = client.post(f"{web}/rehearsals", json={"changes": [{"op": "remove", "path": "policies.remove"}]}).json()
    pace = next(s for section in alone["page"] for s in section["sentences"] if s["key"] == "pace")
    assert [f["code"] for f in pace["findings"]] == ["adds-only"]
