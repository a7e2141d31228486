import json
import socket

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.demo import PLAN
from tests.plans import ADD, data

FIGURES = [
    "cost",
    "currency",
    "instance_hours",
    "short_minutes",
    "requests_in",
    "requests_served",
    "requests_failed",
    "requests_waiting",
    "latency_p50_ms",
    "latency_p95_ms",
    "changes",
    "mean_cpu_percent",
    "min_count",
    "max_count",
    "always_peak_cost",
    "foresight_cost",
]


@pytest.fixture
def quay(tmp_path):
    path = tmp_path / "quay.json"
    path.write_text(json.dumps(data(groups__web__policies=[ADD])))
    return str(path)


def run(*words):
    return CliRunner().invoke(app, list(words))


def test_a_rehearsal_reads_in_80_columns():
    done = run("rehearse", str(PLAN))
    assert done.exit_code == 0
    lines = done.stdout.splitlines()
    assert max(map(len, lines)) <= 80
    assert any(line.startswith("BROKEN 97 % of answers within 400 ms") for line in lines)
    assert "  Mon 7 Jul 05:08  3 → 4: average CPU 58.2 % over 5 min, above 58 %" in lines


def test_the_json_object_has_its_documented_shape(quay):
    found = json.loads(run("rehearse", quay, "--json").stdout)
    assert list(found) == ["figures", "promises", "events", "series"]
    assert list(found["figures"]) == FIGURES
    assert isinstance(found["figures"]["cost"], float)
    series = found["series"]
    assert set(series) == {
        "time", "demand_per_second", "capacity_per_second", "waiting_requests", "failed_requests", "cpu_percent",
        "latency_p95_ms", "serving_instances", "desired_instances", "billed_instances",
    }  # fmt: skip
    assert len(series["time"]) == len(series["cpu_percent"]["max"]) == 1500
    assert series["time"][0] == "2025-07-07T00:00:00+01:00"
    assert found["events"][0]["kind"] == "short"


def test_settings_are_replaced_by_path(quay):
    figures = json.loads(run("rehearse", quay, "--json", "--set", "groups.web.minimum=3").stdout)["figures"]
    assert figures["min_count"] == 3
    assert figures["changes"] == 0


def test_another_demand_by_name_or_from_a_file(quay, tmp_path):
    csv = tmp_path / "calm.csv"
    csv.write_text("time,requests_per_second\n2025-07-07T00:00Z,5\n2025-07-07T00:01Z,5\n2025-07-07T00:03Z,5\n")
    done = run("rehearse", quay, "--demand", str(csv), "--json")
    assert json.loads(done.stdout)["figures"]["requests_in"] == pytest.approx(5 * 86400)
    assert "1 gap, 1 min in all" in done.stderr
    demo = run("rehearse", str(PLAN), "--demand", "june-week", "--group", "booking-web")
    assert "june-week, seed 1" in demo.stdout


def test_the_seed_decides_chance_and_nothing_else():
    one, again, two = (json.loads(run("rehearse", str(PLAN), "--json", "--seed", s).stdout) for s in ("1", "1", "2"))
    assert one == again
    assert one["figures"]["requests_in"] != two["figures"]["requests_in"]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["nowhere.yaml"], "nowhere.yaml: the plan: nothing: cannot be opened"),
        (["{quay}", "--group", "wob"], "no group has this name; there is: web"),
        (["{quay}", "--demand", "odd"], "is neither a demand of the plan (even) nor a CSV file"),
        (["{quay}", "--demand", "none.csv"], "cannot be opened"),
        (["{quay}", "--set", "groups.web.maximum"], "write PATH=VALUE"),
        (
            ["{quay}", "--set", "groups.web.maximum=0"],
            "groups.web.maximum: 0: the maximum cannot be below the minimum of 1; write 1 or more",
        ),
        (["{quay}", "--set", "groups.web.polices.add.amount=2"], "leads nowhere"),
        (["{quay}", "--seed", "-4"], "a seed is a whole number"),
    ],
)
def test_unusable_input_ends_with_2_and_one_line(quay, words, said):
    done = run("rehearse", *(word.format(quay=quay) for word in words))
    assert done.exit_code == 2
    assert said in done.stderr
    assert len(done.stderr.splitlines()) == 1
    assert done.stdout == ""


def test_the_schema_is_printed():
    assert json.loads(run("schema").stdout)["title"] == "Plan"


def test_a_busy_port_is_said_with_what_to_do(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        done = run("demo", "--port", str(port), "--data", str(tmp_path))
    assert done.exit_code == 2
    assert f"Port {port} on 127.0.0.1 cannot be used" in done.stderr
    assert f"--port {port + 1}" in done.stderr


def test_a_port_that_is_none_is_refused(monkeypatch):
    monkeypatch.setenv("JOSTLE_PORT", "99999")
    done = run("serve")
    assert done.exit_code == 2
    assert "99999" in done.stderr


def test_check_tells_findings_and_ends_with_1_where_one_is_an_error(quay):
    told = run("check", quay)
    assert told.exit_code == 0
    assert "web: 1 finding" in told.stdout
    assert "warning adds-only at policies" in told.stdout
    wrong = run("check", quay, "--json", "--set", "groups.web.policies.add.side=below")
    assert wrong.exit_code == 1
    assert json.loads(wrong.stdout)["findings"]["web"][0]["code"] == "wrong-side"
    assert run("check", "nowhere.yaml").exit_code == 2


def test_explain_answers_for_a_time(quay):
    told = run("explain", quay, "--at", "2025-07-07T00:02")
    assert told.exit_code == 0
    assert told.stdout.splitlines()[0] == "Mon 7 Jul 00:02: why 2, and not 1 as before?"
    assert told.stdout.splitlines()[-1] == "add adds 1: 1 → 2."
    for at, said in (("noon", "write a time"), ("2025-08-01T00:00", "lies outside the plan")):
        refused = run("explain", quay, "--at", at)
        assert refused.exit_code == 2
        assert said in refused.stderr
