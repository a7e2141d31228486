"""What was spent, from the command line."""

import csv
import json
from datetime import datetime
from decimal import Decimal

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.formats.shipped import demo_plan
from jostle.live.live import Begun, Live
from jostle.records.ledger_store import LedgerStore
from jostle.records.live_store import LiveStore
from jostle.records.store import Store
from tests.plans import only

DEMO = demo_plan()


@pytest.fixture
def data(tmp_path):
    store = Store(tmp_path / "jostle.sqlite")
    plan = only(DEMO, "tryout")
    store.add_plan(only(DEMO, "booking-web"))
    number = store.add_plan(plan)
    begun = Begun(at=datetime(2025, 7, 8, tzinfo=plan.zone), days=3)
    live = Live.begin(plan, begun, Rehearser())
    live.go_on(live.first + 36.5 * 3600, quickly=True)
    with store.transaction():
        LiveStore(store).begin(number, plan, begun, live.now, 60)
        LedgerStore(store).enter(number, live)
    return tmp_path


def run(*words, code=0):
    done = CliRunner().invoke(app, ["costs", *map(str, words)])
    assert done.exit_code == code, done.output
    return done.output


def test_by_day_and_by_group_it_is_the_same_sum(data):
    by_day = json.loads(run("--data", data, "--by", "day", "--json"))
    assert [row["day"] for row in by_day["rows"]] == ["2025-07-08", "2025-07-09"]
    by_both = json.loads(run("--data", data, "--by", "group,what", "--json"))
    assert {row["what"] for row in by_both["rows"]} == {"machine", "disk", "stopped machine"}
    assert Decimal(by_day["total"]) == pytest.approx(Decimal(by_both["total"]))
    one = json.loads(run("--data", data, "--from", "2025-07-09", "--to", "2025-07-09", "--json"))
    assert one["total"] == by_day["rows"][1]["amount"]
    assert "in all" in run("--data", data)
    assert run("--data", data, "--csv").startswith("group,amount_EUR\ntryout,")


def test_files_are_written(data, tmp_path):
    out = tmp_path / "rows.csv"
    run("export", out, "--format", "focus", "--data", data)
    rows = list(csv.DictReader(out.open()))
    assert {row["SubAccountId"] for row in rows} == {"tryout"}
    assert run("export", "-", "--format", "days", "--data", data).startswith("day,group,machine")


def test_every_form_has_the_same_sum_as_what_is_said(data):
    told = Decimal(json.loads(run("--data", data, "--json"))["total"])
    for form, column in (("hours", "amount_EUR"), ("days", "amount_EUR"), ("instances", "amount_EUR"), ("focus", "BilledCost")):
        rows = csv.DictReader(run("export", "-", "--format", form, "--data", data).splitlines())
        assert sum(Decimal(row[column]) for row in rows) == told


def test_what_lives_no_more_is_told_from_the_ledger(data):
    before = run("--data", data, "--json")
    LiveStore(Store(data / "jostle.sqlite")).end(2)
    assert run("--data", data, "--json") == before
    assert run("export", "-", "--format", "focus", "--data", data).startswith("AvailabilityZone,")
    assert "lives no more" in run("export", "-", "--format", "instances", "--data", data, code=2)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--by", "colour"], '--by "colour": write one of group'),
        (["--from", "soon"], '--from "soon": write a day such as'),
        (["--plan", "9"], "there is no plan 9"),
        (["--plan", "1"], "nothing was spent yet"),
        (["export", "x.csv", "--format", "xml"], '--format "xml": write hours'),
    ],
)
def test_what_cannot_be_is_refused(data, words, said):
    assert said in " ".join(run(*words, "--data", data, code=2).split())
