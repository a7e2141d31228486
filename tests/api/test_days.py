"""What hangs on the day that it is, on days that are unlike others."""

from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest


@pytest.fixture
def plan(client, any_day):
    made = client.post("/api/starter", json={"name": "Quay", "time_zone": any_day.zone})
    assert made.status_code == 201, made.text
    return f"/api/plans/{made.json()['id']}"


@pytest.fixture
def front(client, plan):
    wanted = {"name": "front", "template": "server", "minimum": 2, "maximum": 20, "demand": "ordinary-week"}
    assert client.post(f"{plan}/groups", json=wanted).status_code == 201
    return f"{plan}/groups/front"


def midnights(any_day):
    """The days that begin within the 168 hours of the plan: one more where the clock is put on meanwhile."""
    begin = datetime.combine(any_day.monday, time(), ZoneInfo(any_day.zone))
    days = [begin + timedelta(days=n) for n in range(8)]
    return [f"{day:%a} {day.day} {day:%b}" for day in days if day.timestamp() < begin.timestamp() + 7 * 86400]


def test_a_new_plan_begins_in_the_week_that_it_is_and_plays_all_of_it(client, plan, front, any_day):
    assert client.get(f"{plan}/document").json()["start"][:19] == f"{any_day.monday}T00:00:00"
    told = client.post(f"{front}/rehearsals", json={"buckets": 200}).json()
    marks = told["picture"]["axis"]
    assert [one["label"] for one in marks if one["day"]] == midnights(any_day)
    assert told["verdict"]["short"] == "0 min"
    hour = client.post(f"{front}/rehearsals", json={"buckets": 200, "begin": marks[-1]["at"]}).json()["picture"]["axis"]
    assert hour[0]["at"] == marks[-1]["at"]


def test_a_version_is_made_on_the_day_that_it_is_where_the_plan_is(client, plan, any_day):
    written = {"fields": {"machine": "otter-2", "boot_time": "100 s", "warm_up": "50 s"}}
    made = client.post(f"{plan}/templates/server/written", json=written)
    assert made.status_code == 201, made.text
    assert made.json()["versions"][0]["version"]["made"] == str(any_day.at.date())


def test_what_is_kept_and_written_says_when_in_utc(client, front, any_day):
    utc = any_day.instant.astimezone(UTC)
    created = client.get(f"{front}/arrangements").json()[0]["created"]
    assert created == utc.isoformat()
    page = client.get(f"{front}/arrangements/1/report.html").text
    assert f"Rehearsed with Jostle, {utc:%Y-%m-%d %H:%M} UTC" in page
