"""Parameters over the API: shown with what follows them, changed, and still there after a way out and in again."""

import pytest

from jostle.formats.plan_file import read_plan_text
from tests.plans import ADD, data


@pytest.fixture
def plan(client):
    document = data(
        parameters={"most": 10, "hot": "70 %", "boots": "100 s"},
        groups__web__maximum="${most}",
        groups__web__policies=[{**ADD, "threshold": "${hot}"}],
        templates__front__boot_time="${boots}",
    )
    made = client.post("/api/plans", json=document)
    assert made.status_code == 201, made.text
    return f"/api/plans/{made.json()['id']}"


def said(client, plan):
    return "".join(word["text"] for word in client.get(f"{plan}/frame/parameters").json())


def set_to(client, plan, name, value):
    return client.post(f"{plan}/frame/parameters", json={"name": name, "value": value})


def test_they_are_told_with_what_follows_them(client, plan):
    parts = "most is 10 (1 setting follows it); hot is 70 % (1 setting follows it); boots is 100 s (1 setting follows it)"
    assert said(client, plan) == f"Parameters: {parts}."


def test_one_changes_with_all_that_follows_it(client, plan):
    assert set_to(client, plan, "hot", "55 %").status_code == 200
    document = client.get(f"{plan}/document").json()
    assert document["groups"]["web"]["policies"][0]["threshold"] == 0.55
    assert document["parameters"]["hot"] == "55 %"
    newest = client.get(f"{plan}/groups/web/arrangements").json()[0]
    assert (newest["number"], newest["note"]) == (2, "hot is 55 %")
    set_to(client, plan, "most", "1,2")
    assert set_to(client, plan, "most", "12").status_code == 200
    assert client.get(f"{plan}/document").json()["groups"]["web"]["maximum"] == 12


def test_they_survive_a_way_out_and_in_again(client, plan):
    text = client.get(f"{plan}/plan.yaml").text
    assert "maximum: ${most}" in text
    assert "threshold: ${hot}" in text
    assert "boot_time: ${boots}" in text
    assert "uses" not in text
    back = client.post("/api/plans", content=text, headers={"Content-Type": "application/yaml"})
    assert back.status_code == 201, back.text
    again = f"/api/plans/{back.json()['id']}"
    assert client.get(f"{again}/plan.yaml").text == text
    assert said(client, again) == said(client, plan)
    assert read_plan_text(text).groups["web"].maximum == 10


def test_a_setting_that_was_changed_by_itself_follows_no_more(client, plan):
    body = {"changes": [{"path": "maximum", "value": 8}], "keep": True, "buckets": 100}
    kept = client.post(f"{plan}/groups/web/rehearsals", json=body)
    assert kept.status_code == 200, kept.text
    saved = client.post(f"{plan}/groups/web/arrangements", json={"take": 2, "note": "fewer", "after": 1})
    assert saved.status_code == 201, saved.text
    text = client.get(f"{plan}/plan.yaml").text
    assert "maximum: 8" in text
    assert "threshold: ${hot}" in text
    assert "most is 10 (nothing follows it)" in said(client, plan)


def test_a_group_that_is_renamed_goes_on_following(client, plan):
    assert client.post(f"{plan}/groups/web/name", json={"name": "shop"}).status_code == 200
    assert "maximum: ${most}" in client.get(f"{plan}/plan.yaml").text


@pytest.mark.parametrize(
    ("name", "value", "status", "words"),
    [
        ("cold", "1", 422, "there is: most, hot, boots"),
        ("most", "many", 422, "maximum"),
        ("boots", "90 s", 409, "a saved version of front uses boots"),
    ],
)
def test_what_cannot_be_is_refused(client, plan, name, value, status, words):
    before = client.get(f"{plan}/document").json()
    refused = set_to(client, plan, name, value)
    assert (refused.status_code, words in refused.text) == (status, True), refused.text
    assert client.get(f"{plan}/document").json() == before
