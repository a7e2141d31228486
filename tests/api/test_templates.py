"""Versions of launch templates through the API, and the costs, spread and calendar of a take."""

from datetime import date, datetime

import pytest


@pytest.fixture
def templates(web):
    return web.split("/groups/")[0] + "/templates"


VERSION = {"machine": "otter-2", "boot_time": "40 s", "note": "Boots from a smaller image"}


def test_a_template_shows_its_versions_and_who_follows_them(client, templates):
    (front,) = client.get(templates).json()
    assert front["name"] == "front"
    (only,) = front["versions"]
    assert (only["number"], only["used_by"]) == (1, ["web"])
    assert "image" in only["still_open"]
    assert "machine" not in only["still_open"]


def test_a_new_version_is_followed_and_the_old_one_stays(client, templates, web):
    before = client.post(f"{web}/rehearsals", json={}).json()["verdict"]["figures"]
    added = client.post(f"{templates}/front/versions", json=VERSION)
    assert added.status_code == 201
    assert [(v["number"], v["used_by"]) for v in added.json()["versions"]] == [(2, ["web"]), (1, [])]
    assert added.json()["versions"][1]["version"]["boot_time"] == 100
    assert client.post(f"{web}/rehearsals", json={}).json()["verdict"]["figures"] != before
    differing = client.get(f"{templates}/front/differences", params={"before": 1, "after": 2}).json()
    assert differing == [
        {"field": "boot_time", "before": 100.0, "after": 40.0},
        {"field": "warm_up", "before": 50.0, "after": None},
    ]


def test_a_version_that_a_group_could_not_launch_from_is_refused(client, templates, web):
    refused = client.post(f"{templates}/front/versions", json={"note": "empty"})
    assert refused.status_code == 422
    assert "leaves the machine open" in refused.json()["errors"][0]["message"]
    assert len(client.get(templates).json()[0]["versions"]) == 1
    assert client.post(f"{templates}/none/versions", json=VERSION).status_code == 404
    assert client.get(f"{templates}/front/differences", params={"before": 1, "after": 9}).status_code == 404


def test_a_text_that_looks_like_the_use_of_a_parameter_is_refused_before_it_is_kept(client, templates, web):
    """Once kept it could not be read again, and nothing of the plan could."""
    before = client.get(templates).json()
    refused = client.post(f"{templates}/front/versions", json={**VERSION, "image": "front-${season}"})
    assert refused.status_code == 422
    assert "no parameter is called season; there is: none" in refused.json()["detail"]
    assert client.get(templates).json() == before
    notice = {"op": "set", "path": "policies.0.name", "value": "${season}"}
    client.post(f"{web}/rehearsals", json={"changes": [notice], "keep": True})
    assert client.get(web.split("/groups/")[0]).status_code == 200


def test_the_cost_of_a_take_is_attributed(client, web):
    figures = client.post(f"{web}/rehearsals", json={}).json()["verdict"]["figures"]
    parted = client.get(f"{web}/takes/1/costs").json()
    for part in parted.values():
        assert sum(part.values()) == pytest.approx(figures["cost"], abs=1e-4)
    assert set(parted["by_type"]) == {"otter-2"}


def test_the_spread_of_a_take_over_seeds(client, web):
    client.post(f"{web}/rehearsals", json={})
    found = client.get(f"{web}/takes/1/spread", params={"seeds": 3}).json()
    assert found["seeds"] == [1, 2, 3]
    cost = found["figures"]["cost"]
    assert cost["lowest"] <= cost["median"] <= cost["highest"]
    assert found["promises"][0]["of"] == 3
    assert client.get(f"{web}/takes/1/spread", params={"seeds": 0}).status_code == 422


def test_a_calendar_goes_out_and_in_as_icalendar(client, web):
    entry = {"name": "night", "kind": "sleep", "from": "2025-07-07T19:00", "until": "07:00", "repeat": "FREQ=DAILY"}
    made = client.post(f"{web}/rehearsals", json={"changes": [{"path": "calendar", "value": [entry]}], "keep": True}).json()
    assert made["change"] == "new calendar entry night"
    file = client.get(f"{web}/takes/{made['take']['number']}/calendar.ics")
    assert file.headers["content-type"].startswith("text/calendar")
    (read,) = client.post(f"{web}/calendar", content=file.content).json()
    assert (read["name"], read["kind"], read["from"], read["until"]) == ("night", "sleep", "2025-07-07T19:00:00", "07:00")
    refused = client.post(f"{web}/calendar", content=b"hello")
    assert (refused.status_code, "not an iCalendar file" in refused.text) == (422, True)


@pytest.mark.parametrize("kind", ["jobs", "sessions"])
def test_every_kind_of_work_is_rehearsed_and_drawn(client, web, kind):
    work = {"jobs": {"kind": "jobs", "job_seconds": 4}, "sessions": {"kind": "sessions", "seats": 30, "length": 60}}[kind]
    policies = [{"kind": "spare", "name": "spare", "share": 0.2}]
    changes = [{"path": path, "value": value} for path, value in (("promises", []), ("policies", policies), ("work", work))]
    shown = client.post(f"{web}/rehearsals", json={"changes": changes})
    assert shown.status_code == 200, shown.text
    body = shown.json()
    assert body["verdict"]["figures"]["work"] == kind
    assert body["picture"]["demand"]["unit"] == {"jobs": "jobs/s", "sessions": "sessions"}[kind]
    assert any("Keep" in word["text"] for section in body["page"] for s in section["sentences"] for word in s["words"])


def test_a_saved_version_cannot_be_changed(web, tmp_path):
    from jostle.core.plan.plan import read_plan
    from jostle.records.store import NameTaken, Store
    from tests.plans import data

    store = Store(tmp_path / "jostle.sqlite")
    kept = store.plan(1)
    changed = read_plan(data(templates__front__boot_time="10 s"))
    with pytest.raises(NameTaken, match="never change"):
        store.change_plan(kept, changed)
    assert store.plan(1).plan.templates["front"].versions[0].boot_time == 100


def test_a_take_goes_out_as_a_plan_file_and_comes_back(client, web):
    kept = client.post(f"{web}/rehearsals", json={"changes": [{"path": "maximum", "value": 7}], "keep": True}).json()
    number = kept["take"]["number"]
    file = client.get(f"{web}/takes/{number}/plan.yaml")
    assert "maximum: 7" in file.text
    again = client.post("/api/plans", content=file.content)
    assert again.status_code == 201
    figures = client.post(f"/api/plans/{again.json()['id']}/groups/web/rehearsals", json={}).json()["verdict"]["figures"]
    assert figures == kept["verdict"]["figures"]


def test_the_series_of_a_take_as_csv(client, web):
    client.post(f"{web}/rehearsals", json={})
    rows = client.get(f"{web}/takes/1/series.csv").text.splitlines()
    assert len(rows) == 1 + 1440
    heading, first = rows[0].split(","), rows[1].split(",")
    assert heading[:2] == ["time", "demand_per_second"]
    assert first[:2] == ["2025-07-07T00:00:00+01:00", "30"]
    assert dict(zip(heading, first, strict=True))["serving"] == "1"


def with_fields(client, templates, **fields):
    written = {"machine": "otter-2", "boot_time": "100 s", "warm_up": "50 s", **fields}
    return client.post(f"{templates}/front/written", json={"fields": written})


def test_a_version_says_when_it_was_made_and_by_whom(client, templates):
    made = with_fields(client, templates, author="Ansa", note="Longer logs", logs="harbour-log")
    assert made.status_code == 201, made.text
    version = made.json()["versions"][0]["version"]
    assert (version["author"], version["logs"]) == ("Ansa", "harbour-log")
    assert datetime.fromisoformat(version["made"]).date() >= date(2025, 1, 1)
    assert made.json()["versions"][1]["version"]["made"] is None


def test_further_disks_are_paid_for(client, templates, web):
    client.post(f"{templates.replace('/templates', '')}/machines/changes", json={"path": "prices.disk_gib_month", "value": 0.73})
    before = client.post(f"{web}/rehearsals", json={}).json()["verdict"]["figures"]
    assert with_fields(client, templates, more_disks="data=200\nlogs=50").status_code == 201
    after = client.post(f"{web}/rehearsals", json={}).json()["verdict"]["figures"]
    assert after["cost"] - before["cost"] == pytest.approx(before["instance_hours"] * 0.25, rel=1e-6)


@pytest.mark.parametrize(
    ("fields", "field", "said"),
    [
        ({"more_disks": "data=0"}, "more_disks", "data"),
        ({"more_disks": "data=many"}, "more_disks", "number"),
        ({"interfaces": "40"}, "interfaces", "15"),
        ({"host_use": "rented"}, "host_use", "own_host"),
    ],
)
def test_what_a_template_cannot_be_is_said_at_its_field(client, templates, fields, field, said):
    draft = {"machine": "otter-2", "boot_time": "100 s", **fields}
    looked = client.post(f"{templates}/front/drafts", json={"fields": draft}).json()
    assert any(one["field"] == field and said in one["text"] for one in looked["findings"]), looked
    assert with_fields(client, templates, **fields).status_code == 422
    assert len(client.get(templates).json()[0]["versions"]) == 1


def rule(client, templates, field, value):
    return client.post(f"{templates}/rules", json={"field": field, "value": value})


def test_the_plans_own_rules_are_checked_while_a_version_is_written(client, templates, web):
    plan = templates.replace("/templates", "")
    client.post(f"{plan}/network/changes", json={"op": "add", "path": "firewall", "value": "web-in"})
    client.post(f"{plan}/network/changes", json={"path": "firewall.web-in.source", "value": "0.0.0.0/0"})
    assert rule(client, templates, "required_tags", "owner, pier").status_code == 200
    said = "".join(word["text"] for word in rule(client, templates, "shut_ports", "400-500").json())
    assert said == "Every version has the tags owner, pier, runs on any machine, and may not open 400-500 to the world."
    draft = {"machine": "otter-2", "boot_time": "100 s", "tags": "owner=desk", "firewall": "web-in"}
    found = client.post(f"{templates}/front/drafts", json={"fields": draft}).json()["findings"]
    texts = {one["field"]: one["text"] for one in found if one["severity"] == "error"}
    assert texts["tags"] == "the plan asks for the tags owner and pier; pier is missing"
    assert texts["firewall"] == "the plan keeps port 400 to 500 shut to the world; web-in opens it"
    sections = client.post(f"{web}/rehearsals", json={}).json()["page"]
    codes = [one["code"] for section in sections for sentence in section["sentences"] for one in sentence["findings"]]
    assert "against-rules" in codes
    assert rule(client, templates, "required_tags", "").status_code == 200


def test_a_rule_that_nothing_can_meet_is_refused(client, templates):
    refused = rule(client, templates, "machines", "walrus-9")
    assert refused.status_code == 422
    assert "no machine has this name; there is: otter-2" in refused.text
    allowed = rule(client, templates, "machines", "otter-2")
    assert "runs on otter-2" in "".join(word["text"] for word in allowed.json())
