"""What was spent, over the API: by day and hour, for what, as files whose sum is the same to the last digit; budgets."""

import csv
import io
from datetime import datetime
from decimal import Decimal

import numpy as np
import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.core.costs.price import total
from jostle.formats.costs_csv import FOCUS_COLUMNS
from jostle.formats.shipped import demo_plan
from jostle.records.store import Store
from tests.plans import only

DEMO = demo_plan()
COSTS = "/api/plans/1/costs"


@pytest.fixture(scope="module")
def service(tmp_path_factory):
    store = Store(tmp_path_factory.mktemp("costs") / "jostle.sqlite")
    store.add_plan(only(DEMO, "booking-web", "manifest-worker", "live-track"))
    client = TestClient(create_app(store), base_url="http://127.0.0.1", headers={"If-Match": "*"})
    begun = client.post("/api/plans/1/live", json={"at": "2025-07-08T00:00", "until": "2025-07-10T06:30", "days": 6})
    assert begun.status_code == 201, begun.text
    return client


def lives(service):
    return service.app.state.live_desk.required(1).live.lives.values()


def bill_of_whole_hours(service):
    """From prices times lives, without the half hour that has not ended."""
    whole = sum((total(life.record().result, life.leg.crew) for life in lives(service)), Decimal())
    return whole - sum((life.ledger(54 * 3600.0).total() for life in lives(service)), Decimal())


def test_nothing_was_spent_where_nothing_lives(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(DEMO)
    fresh = TestClient(create_app(store), base_url="http://127.0.0.1")
    assert fresh.get(COSTS).json() is None
    assert fresh.get(f"{COSTS}/curve").status_code == 404


def test_days_and_groups_and_parts_add_up(service):
    view = service.get(COSTS).json()
    assert [day["lived"] for day in view["days"]] == [True, True, True, False, False, False]
    assert [day["column"] for day in view["days"]][:2] == [1, 2]
    assert [len(day["course"]) for day in view["days"]] == [24, 24, 7, 0, 0, 0]
    for parting in view["partings"]:
        assert sum(part["share"] for part in parting["parts"]) == pytest.approx(1)
    assert {part["name"] for part in view["partings"][0]["parts"]} >= {"machine", "disk", "address", "load balancer"}
    assert max(sum(day["shares"]) for day in view["days"]) == pytest.approx(1, abs=1e-3)


def test_one_day_has_its_hours(service):
    view = service.get(COSTS, params={"begin": "2025-07-09", "end": "2025-07-09"}).json()
    assert view["span"] == "Wed 9 Jul"
    assert [hour["label"] for hour in view["hours"]][:3] == ["00:00", "01:00", "02:00"]
    assert len(view["hours"]) == 24
    refused = service.get(COSTS, params={"begin": "2025-07-09", "end": "2025-07-08"})
    assert refused.json()["errors"][0]["path"] == "end"
    assert service.get(COSTS, params={"begin": "yesterday"}).status_code == 422


@pytest.mark.parametrize("form", ["hours", "days", "instances"])
def test_files_add_up_to_the_bill_to_the_last_digit(service, form):
    rows = list(csv.DictReader(io.StringIO(service.get(f"{COSTS}/file.csv", params={"form": form}).text)))
    assert abs(sum(Decimal(row["amount_EUR"]) for row in rows) - bill_of_whole_hours(service)) < Decimal("1e-13")
    assert {row["group"] for row in rows} == {"booking-web", "manifest-worker", "live-track"}


def test_open_cost_rows_have_the_columns_of_their_version(service):
    text = service.get(f"{COSTS}/file.csv", params={"form": "focus"}).text
    rows = list(csv.DictReader(io.StringIO(text)))
    assert tuple(rows[0]) == FOCUS_COLUMNS
    told = sum(Decimal(row["BilledCost"]) for row in rows)
    assert abs(told - bill_of_whole_hours(service)) < Decimal("1e-13")
    # To the last digit
    by_hour = csv.DictReader(io.StringIO(service.get(f"{COSTS}/file.csv", params={"form": "hours"}).text))
    assert sum(Decimal(row["amount_EUR"]) for row in by_hour) == told
    for row in rows:
        assert row["ChargeCategory"] == "Usage"
        assert row["ServiceCategory"] in ("Compute", "Networking")
        assert row["PricingCategory"] == "Standard"
        begin, end = (datetime.fromisoformat(row[name]) for name in ("ChargePeriodStart", "ChargePeriodEnd"))
        assert begin < end
        assert datetime.fromisoformat(row["BillingPeriodStart"]) <= begin < datetime.fromisoformat(row["BillingPeriodEnd"])
        assert Decimal(row["ListUnitPrice"]) * Decimal(row["PricingQuantity"]) == pytest.approx(Decimal(row["ListCost"]))


@pytest.mark.parametrize(("form", "column"), [("hours", "amount_EUR"), ("days", "amount_EUR"), ("focus", "BilledCost")])
def test_another_reader_reads_the_same(service, form, column):
    text = service.get(f"{COSTS}/file.csv", params={"form": form}).text
    table = np.genfromtxt(io.StringIO(text), delimiter=",", names=True, dtype=None, encoding="utf-8")
    assert len(table) == text.count("\n") - 1
    assert float(table[column].sum()) == pytest.approx(float(bill_of_whole_hours(service)), rel=1e-12)


def test_what_is_likely_goes_on_from_what_was_spent(service):
    found = service.get(f"{COSTS}/curve").json()
    assert len(found["days"]) == 6
    assert found["lived"][:2] == sorted(found["lived"][:2])
    assert found["lived"][3:] == [None] * 3
    likely = [value for value in found["likely"] if value is not None]
    assert likely == sorted(likely)
    for low, middle, high in zip(found["low"], found["likely"], found["high"], strict=True):
        assert middle is None or low <= middle <= high
    assert "is likely by Sun 13 Jul" in found["said"]


def test_budgets_are_kept_and_told_with_how_far_they_are_used(service):
    wanted = [{"each": "month", "at_most": "400"}, {"group": "booking-web", "each": "week", "at_most": "40"}]
    assert service.put(f"{COSTS}/budgets", json={"budgets": wanted}).status_code == 200
    told = service.get(COSTS).json()["budgets"]
    assert [one["text"] for one in told] == ["all groups: at most € 400 a month", "booking-web: at most € 40 a week"]
    assert [one["over"] for one in told] == [False, True]
    curve = service.get(f"{COSTS}/curve").json()
    assert curve["budget"] == 400
    assert curve["reached"] is not None
    refused = service.put(f"{COSTS}/budgets", json={"budgets": [{"at_most": "0"}]})
    assert "greater than 0" in refused.text
    unknown = service.put(f"{COSTS}/budgets", json={"budgets": [{"group": "quay", "at_most": 4}]})
    assert unknown.status_code == 422
    assert "quay" in unknown.text


def test_days_are_compared_with_as_many_others(service):
    chosen = {"begin": "2025-07-09", "end": "2025-07-09"}
    view = service.get(COSTS, params={**chosen, "beside": "2025-07-08"}).json()
    other = service.get(COSTS, params={"begin": "2025-07-08", "end": "2025-07-08"}).json()
    assert (view["beside"]["span"], view["beside"]["cost"]) == ("Tue 8 Jul", other["cost"])
    assert [row["beside"].split(" (")[0] for row in view["table"]] == [row["cost"] for row in other["table"]]
    assert service.get(COSTS, params=chosen).json()["beside"] is None
    assert service.get(COSTS, params={**chosen, "beside": "9999-12-31"}).status_code == 422


def test_what_was_needed_and_kept_back_is_told(service):
    reasons = service.get(f"{COSTS}/reasons", params={"begin": "2025-07-09", "end": "2025-07-09"}).json()
    assert sum(part["share"] for part in reasons["need"]["parts"]) == pytest.approx(1)
    assert {"needed", "spare", "boots and drains", "all else"} <= {part["name"] for part in reasons["need"]["parts"]}
    assert reasons["kept_back"] == []
    assert reasons["foresight"].startswith("foresight would have spent € ")


def test_a_day_is_explained_and_one_that_was_not_lived_refused(service):
    told = service.get(f"{COSTS}/difference", params={"group": "live-track", "day": "2025-07-09"}).json()
    assert [part["what"] for part in told["parts"]][::5] == ["the demand that came", "not explained"]
    assert told["parts"][-1]["amount"] == "nothing"
    assert service.get(f"{COSTS}/difference", params={"group": "quay", "day": "2025-07-09"}).status_code == 404
    refused = service.get(f"{COSTS}/difference", params={"group": "live-track", "day": "2025-07-30"}).json()
    assert "there are 2025-07-08 to 2025-07-10" in refused["errors"][0]["message"]


PAST = "hour,group,count,amount\n" + "".join(f"2025-07-07T{hour:02}:00,booking-web,4,0.5\n" for hour in range(24))


def bring(service, text):
    return service.post(f"{COSTS}/past", files={"file": ("past.csv", text, "text/csv")})


def test_the_past_is_brought_seen_and_taken_out_again(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(only(DEMO, "booking-web"))
    service = TestClient(create_app(store), base_url="http://127.0.0.1")
    alone = bring(service, PAST).json()
    assert (alone["spent"], alone["lives"], alone["brought"]) == ("€ 12", False, 24)
    assert alone["table"][0]["instance_hours"] == "96"
    assert bring(service, PAST.replace("0.5", "1")).json()["spent"] == "€ 24"
    service.post("/api/plans/1/live", json={"at": "2025-07-08T00:00", "until": "2025-07-08T06:00", "days": 1})
    view = service.get(COSTS).json()
    assert [day["cost"] for day in view["days"]][:1] == ["€ 24"]
    assert view["lives"]
    assert sum(part["share"] for part in view["partings"][0]["parts"]) == pytest.approx(1)
    assert "as it was billed" in {part["name"] for part in view["partings"][0]["parts"]}
    refused = bring(service, "hour,group,count,amount\nnoon,web,1,1\n").json()
    assert refused["detail"].startswith('row 2: hour: "noon"')
    assert service.get(COSTS).json()["brought"] == 24
    assert service.delete(f"{COSTS}/past").status_code == 204
    assert service.get(COSTS).json()["brought"] == 0


def test_a_month_is_one_page(service):
    page = service.get(f"{COSTS}/month.html", params={"month": "2025-07"})
    assert page.status_code == 200
    july = service.get(COSTS, params={"begin": "2025-07-01", "end": "2025-07-31"}).json()
    assert f"July 2025: {july['cost']}" in page.text
    assert all(f"<b>{row['cost']}</b>" in page.text for row in july["table"])
    assert "sha256-" in page.headers["content-security-policy"]
    assert service.get(f"{COSTS}/month.html", params={"month": "2025-13"}).status_code == 422


def test_an_amount_leads_to_the_instances_that_it_was_paid_for(service):
    chosen = {"begin": "2025-07-09", "end": "2025-07-09"}
    view = service.get(COSTS, params=chosen).json()
    of_group = service.get(f"{COSTS}/made-of", params={**chosen, "group": "booking-web"}).json()
    row = next(row for row in view["table"] if row["name"] == "booking-web")
    assert of_group["amount"] == row["cost"]
    assert of_group["title"] == "booking-web, Wed 9 Jul"
    assert sum(one["share"] for one in of_group["rows"]) == pytest.approx(1)
    assert [one["text"] for one in of_group["rows"] if one["instance"] is None] == ["load balancer"]
    named = next(one for one in of_group["rows"] if one["instance"])
    life = service.get(f"/api/plans/1/live/groups/booking-web/instances/{named['instance']}").json()
    assert any(f"instance {named['instance']} " in event["text"] for event in life["events"])
    for parting in view["partings"]:
        part = parting["parts"][0]
        told = service.get(f"{COSTS}/made-of", params={**chosen, "by": parting["by"], "part": part["name"]}).json()
        assert told["amount"] == part["amount"]
    assert service.get(f"{COSTS}/made-of", params={"group": "quay"}).json()["errors"][0]["path"] == "group"
    assert service.get(f"{COSTS}/made-of", params={"begin": "2025-07-09", "end": "2025-07-08"}).status_code == 422


def test_what_has_just_begun_has_cost_nothing_yet(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(only(DEMO, "tryout"))
    fresh = TestClient(create_app(store), base_url="http://127.0.0.1")
    assert fresh.post("/api/plans/1/live", json={}).status_code == 201
    view = fresh.get(COSTS).json()
    assert (view["spent"], view["lived_for"], view["begin"], view["end"]) == ("€ 0", "1 day", "2025-07-07", "2025-07-07")
    assert fresh.get(f"{COSTS}/made-of").json()["rows"] == []
    for part in ("curve", "reasons", "file.csv", "month.html?month=2025-07"):
        assert fresh.get(f"{COSTS}/{part}").status_code == 200, part
    # Less than from one evaluation to the next
    assert fresh.post("/api/plans/1/live/steps", json={"by": 20}).status_code == 200
    for part in ("", "/curve", "/reasons", "/made-of"):
        assert fresh.get(f"{COSTS}{part}").status_code == 200, part


def test_the_ledger_outlives_a_stop_and_the_end_of_what_lived(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(only(DEMO, "tryout"))
    fresh = TestClient(create_app(store), base_url="http://127.0.0.1")
    begun = {"at": "2025-07-08T00:00", "until": "2025-07-09T10:30", "days": 6}
    assert fresh.post("/api/plans/1/live", json=begun).status_code == 201
    before = fresh.get(COSTS).json()
    again = TestClient(create_app(Store(store.path)), base_url="http://127.0.0.1")
    assert again.get(COSTS).json() == before
    assert again.delete("/api/plans/1/live").status_code == 204
    after = again.get(COSTS).json()
    assert not after["lives"]
    for same in ("spent", "table", "partings", "span"):
        assert after[same] == before[same]
    assert [day["cost"] for day in after["days"]] == [day["cost"] for day in before["days"] if day["lived"]]
    made = again.get(f"{COSTS}/made-of", params={"group": "tryout"}).json()
    assert made["amount"] == after["spent"]
    assert {row["instance"] for row in made["rows"]} == {None}
    assert again.get(f"{COSTS}/file.csv").text.startswith("day,group")
    assert again.get(f"{COSTS}/file.csv", params={"form": "instances"}).status_code == 404
    assert after["entered"] == ""
    # Another life at the same time has a ledger of its own.
    assert again.post("/api/plans/1/live", json={**begun, "until": "2025-07-08T02:00"}).status_code == 201
    assert again.get(COSTS).json()["spent"] != before["spent"]


def test_hours_that_are_entered_only_after_a_stop_are_told(tmp_path, monkeypatch):
    store = Store(tmp_path / "jostle.sqlite")
    store.add_plan(only(DEMO, "tryout"))
    fresh = TestClient(create_app(store), base_url="http://127.0.0.1")
    with monkeypatch.context() as patched:
        patched.setattr("jostle.records.ledger_store.LedgerStore.enter", lambda *words, **named: None)
        fresh.post("/api/plans/1/live", json={"at": "2025-07-08T00:00", "until": "2025-07-08T03:30", "days": 6})
    before = fresh.get(COSTS).json()
    again = TestClient(create_app(Store(store.path)), base_url="http://127.0.0.1").get(COSTS).json()
    assert again["entered"] == "3 hours entered late, after a stop"
    assert again["spent"] == before["spent"]
