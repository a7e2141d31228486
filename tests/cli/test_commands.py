import json
import re
import socket
from pathlib import Path

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.demo import PLAN
from tests.plans import ADD, data

DEMO = (str(PLAN), "--group", "booking-web")
FIGURES = [
    "work",
    "cost",
    "currency",
    "instance_hours",
    "stopped_hours",
    "overflow_hours",
    "short_minutes",
    "under_minutes",
    "spot_hours",
    "reclaims",
    "no_spot",
    "reclaim_minutes",
    "spot_price_most_percent",
    "spot_risk_most_percent",
    "kept_back_by_spot",
    "swaps",
    "kept_back_by_swaps",
    "credits_gone_minutes",
    "late_percent",
    "arrived",
    "served",
    "failed",
    "waiting",
    "cut_off",
    "moved",
    "cut_off_untold",
    "returned_jobs",
    "repeated_jobs",
    "latency_p50_ms",
    "latency_p95_ms",
    "wait_p95_s",
    "oldest_s",
    "room_percent",
    "copies_moved",
    "copies_lost",
    "shared_out",
    "changes",
    "forecast_off_percent",
    "as_yesterday_off_percent",
    "mean_cpu_percent",
    "order_filled",
    "order_open",
    "order_lapsed",
    "counted_in",
    "unit_hours",
    "min_count",
    "max_count",
    "promises",
    "promises_kept",
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
    done = run("rehearse", *DEMO)
    assert done.exit_code == 1
    lines = done.stdout.splitlines()
    assert max(map(len, lines)) <= 80
    assert any(line.startswith("BROKEN 97 % of answers within 400 ms") for line in lines)
    assert "  Mon 7 Jul 05:02  3 → 4: average CPU 58.2 % over 5 min, above 58 %" in lines


def test_the_json_object_has_its_documented_shape(quay):
    found = json.loads(run("rehearse", quay, "--json").stdout)
    assert list(found) == ["figures", "promises", "rollouts", "attribution", "events", "series"]
    assert list(found["figures"]) == FIGURES
    assert isinstance(found["figures"]["cost"], float)
    series = found["series"]
    assert set(series) == {
        "time", "demand_per_second", "capacity", "waiting", "failed", "in_use", "age_of_oldest_s", "cpu_percent",
        "latency_p95_ms", "serving_instances", "desired_instances", "billed_instances", "stopped_instances",
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
    assert json.loads(done.stdout)["figures"]["arrived"] == pytest.approx(5 * 86400)
    assert "1 gap, 1 min in all" in done.stderr
    demo = run("rehearse", str(PLAN), "--demand", "june-week", "--group", "booking-web")
    assert "june-week, seed 1" in demo.stdout


def test_the_seed_decides_chance_and_nothing_else():
    one, again, two = (json.loads(run("rehearse", *DEMO, "--json", "--seed", s).stdout) for s in ("1", "1", "2"))
    assert one == again
    assert one["figures"]["arrived"] != two["figures"]["arrived"]


def test_a_setting_of_the_group_needs_no_path_to_it(quay):
    long = run("rehearse", quay, "--json", "--set", "groups.web.minimum=3", "--set", "groups.web.drain=1 h 30 min")
    short = run("rehearse", quay, "--json", "--group", "web", "--set", "minimum=3", "--set", "drain=1h30")
    assert long.stdout == short.stdout
    assert json.loads(short.stdout) != json.loads(run("rehearse", quay, "--json").stdout)
    wrong = run("check", quay, "--set", "minimun=3")
    assert (wrong.exit_code, "did you mean minimum" in wrong.stderr) == (2, True)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["nowhere.yaml"], "nowhere.yaml: no such file"),
        (["{quay}", "--group", "wob"], "no group has this name; there is: web"),
        (["{quay}", "--demand", "odd"], "is neither a demand of the plan (even) nor a file"),
        (["{quay}", "--demand", "none.csv"], "no such file"),
        (["{quay}", "--set", "groups.web.maximum"], "write PATH=VALUE"),
        (
            ["{quay}", "--set", "groups.web.minimum=1,000"],
            "groups.web.maximum: 10: the maximum cannot be below the minimum of 1000; write 1000 or more",
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
    assert "web: 3 findings" in told.stdout
    assert "warning adds-only at policies" in told.stdout
    wrong = run("check", quay, "--json", "--set", "groups.web.policies.add.side=below")
    assert wrong.exit_code == 1
    assert json.loads(wrong.stdout)["findings"]["web"][0]["code"] == "wrong-side"
    assert run("check", "nowhere.yaml").exit_code == 2


def test_explain_answers_for_a_time(quay):
    told = run("explain", quay, "--at", "2025-07-07T00:02")
    assert told.exit_code == 0
    assert told.stdout.splitlines()[0] == "Mon 7 Jul 00:02: why 2, and not 1 as before?"
    assert told.stdout.splitlines()[-4:] == [
        "add adds 1: 1 → 2.",
        "Not more: It was all that was asked for.",
        "Not fewer: No policy removes.",
        "If the demand stays at 30/s, it goes 2 → 3 at Mon 7 Jul 00:07.",
    ]
    for at, said in (("noon", "write a time"), ("2025-08-01T00:00", "lies outside the plan")):
        refused = run("explain", quay, "--at", at)
        assert refused.exit_code == 2
        assert said in refused.stderr


def test_a_broken_promise_or_an_error_ends_with_1_and_a_kept_one_with_0(quay):
    promise = "groups.web.promises=[{kind: answers, share: 50 %, within: 20 s}]"
    add_only = run("rehearse", quay, "--set", promise)
    assert add_only.exit_code == 0
    assert run("rehearse", quay, "--set", "groups.web.promises=[{kind: cost, at_most: 0.01}]").exit_code == 1
    wrong = run("rehearse", quay, "--set", "groups.web.policies.add.side=below")
    assert wrong.exit_code == 1
    assert "error wrong-side" in wrong.stdout


def test_the_spread_over_seeds():
    done = run("rehearse", *DEMO, "--seeds", "3", "--seed", "4")
    lines = done.stdout.splitlines()
    assert lines[0] == "booking-web: seeds 4 to 6"
    cost = next(line for line in lines if line.startswith("Cost")).split("€")
    assert float(cost[1]) <= float(cost[2]) <= float(cost[3])
    assert "BROKEN 97 % of answers within 400 ms: kept under 0 of 3 seeds" in lines
    told = json.loads(run("rehearse", *DEMO, "--seeds", "2", "--json").stdout)
    assert list(told["seeds"]) == ["1", "2"]
    assert told["seeds"]["1"]["figures"] == told["figures"]


def test_promises_as_a_junit_report(quay, tmp_path):
    from junitparser import JUnitXml

    file = tmp_path / "promises.xml"
    settings = ["--set", "groups.web.promises=[{kind: cost, at_most: 0.01}, {kind: answers, share: 50 %, within: 20 s}]"]
    assert run("rehearse", quay, "--junit", str(file), "--seeds", "2", *settings).exit_code == 1
    suites = list(JUnitXml.fromfile(str(file)))
    assert [(suite.name, suite.tests, suite.failures) for suite in suites] == [("web, seed 1", 2, 1), ("web, seed 2", 2, 1)]
    assert all(case.time > 0 for suite in suites for case in suite)
    refused = run("rehearse", quay, "--junit", str(tmp_path / "none" / "x.xml"))
    assert refused.exit_code == 2
    assert "cannot be written" in refused.stderr


def test_findings_as_sarif_name_their_lines(tmp_path):
    file = tmp_path / "findings.sarif"
    assert run("check", str(PLAN), "--sarif", str(file)).exit_code == 1
    found = json.loads(file.read_text())
    assert found["version"] == "2.1.0"
    (told,) = found["runs"]
    rules = [rule["id"] for rule in told["tool"]["driver"]["rules"]]
    lines = PLAN.read_text().splitlines()
    by_rule = {result["ruleId"]: result for result in told["results"]}
    wait = by_rule["wait-short"]
    assert rules[wait["ruleIndex"]] == "wait-short"
    place = wait["locations"][0]
    assert place["logicalLocations"][0]["fullyQualifiedName"] == "groups.fare-quote.policies.rescue.cooldown"
    assert lines[place["physicalLocation"]["region"]["startLine"] - 1].strip() == "cooldown: 4 min"
    assert by_rule["open-to-all"]["level"] == "error"


def test_a_calendar_is_listed_written_and_brought_back(tmp_path):
    file = tmp_path / "tryout.ics"
    done = run("calendar", str(PLAN), "--group", "tryout", "--ics", str(file))
    lines = done.stdout.splitlines()
    assert lines[0] == "Mon 7 Jul 19:00 to Tue 8 Jul 07:00  nights: asleep"
    assert lines[-1] == "Fri 11 Jul 19:00 to Mon 14 Jul 07:00  weekend: asleep"
    with_file = run("rehearse", str(PLAN), "--group", "tryout", "--calendar", str(file), "--json")
    plain = run("rehearse", str(PLAN), "--group", "tryout", "--json")
    assert json.loads(with_file.stdout)["figures"] == json.loads(plain.stdout)["figures"]
    file.write_text("nothing")
    refused = run("rehearse", str(PLAN), "--group", "tryout", "--calendar", str(file))
    assert (refused.exit_code, "not an iCalendar file" in refused.stderr) == (2, True)


def test_templates_and_how_their_versions_differ():
    told = run("templates", str(PLAN)).stdout
    assert "version 2, used by booking-web; open: public_address, start_up, start_time. Warms its" in " ".join(told.split())
    assert "start_time. First of the season." in " ".join(told.split())
    differing = run("templates", str(PLAN), "--compare", "web-front").stdout.splitlines()
    assert differing == [
        "version 2 against 1",
        "  image: brindle-web-43, was brindle-web-41",
        "  warm_up: 1 min, was 75 s",
    ]
    assert run("templates", str(PLAN), "--compare", "nobody").exit_code == 2


def test_a_parameter_is_overridden_from_outside(tmp_path):
    plan = data(demands__even__layers=[{"kind": "level", "rate": "${rate}"}])
    plan["parameters"] = {"rate": "5/s"}
    path = tmp_path / "quay.json"
    path.write_text(json.dumps(plan))
    for settings, rate in (([], 5), (["--set", "parameters.rate=7/s"], 7)):
        figures = json.loads(run("rehearse", str(path), "--json", *settings).stdout)["figures"]
        assert figures["arrived"] == pytest.approx(rate * 86400)
    refused = run("rehearse", str(path), "--set", "parameters={}")
    assert "no parameter is called rate" in refused.stderr


def test_a_bomb_ends_with_2_and_one_line(tmp_path):
    from tests.formats.test_limits import BOMB

    (tmp_path / "bomb.yaml").write_text(BOMB)
    done = run("rehearse", str(tmp_path / "bomb.yaml"))
    assert (done.exit_code, len(done.stderr.strip().splitlines())) == (2, 1)
    assert "more than 100,000 values" in done.stderr


def test_a_setting_is_found_by_the_end_of_its_path():
    short = run("check", *DEMO, "--set", "add-on-cpu.threshold=30%", "--json")
    whole = run("check", *DEMO, "--set", "policies.add-on-cpu.threshold=30%", "--json")
    assert short.stdout == whole.stdout != run("check", *DEMO, "--json").stdout
    several = run("check", *DEMO, "--set", "threshold=30%")
    assert several.exit_code == 2
    assert "may be any of policies.add-on-cpu.threshold, policies.remove-on-cpu.threshold" in several.stderr
    none = run("check", *DEMO, "--set", "treshold=30%")
    assert none.exit_code == 2
    assert "treshold" in none.stderr


def test_standard_input_and_files_that_are_not_there(quay):
    text = Path(quay).read_text()
    assert CliRunner().invoke(app, ["check", "-"], input=text).stdout == run("check", quay).stdout
    missing = run("rehearse", "nofile.yaml")
    assert missing.exit_code == 2
    assert missing.stderr == "nofile.yaml: no such file\n"
    assert "no such file" in run("rehearse", quay, "--demand", "none.csv").stderr


def test_a_file_of_demand_with_its_unit_column_and_clock(quay, tmp_path):
    rows = [f"2025-07-07 {hour:02d}:00,5,{600 * (1 + hour)}" for hour in range(24)]
    file = tmp_path / "hits.csv"
    file.write_text("\n".join(["when,other,load", *rows]))
    refused = run("rehearse", quay, "--demand", str(file), "--column", "load")
    assert refused.exit_code == 2
    assert "unit" in refused.stderr
    given = ["rehearse", quay, "--demand", str(file), "--column", "load", "--unit", "requests_per_minute", "--json"]
    here, there = (json.loads(run(*given, *more).stdout) for more in ([], ["--clock", "America/New_York"]))
    peaks = [found["series"]["demand_per_second"]["max"] for found in (here, there)]
    assert max(peaks[0]) == max(peaks[1]) == 240
    assert peaks[0].index(240) != peaks[1].index(240)
    piped = CliRunner().invoke(app, ["rehearse", quay, "--demand", "-", *given[4:]], input=file.read_text())
    assert json.loads(piped.stdout)["figures"] == here["figures"]
    assert "--unit is about the file of --demand" in run("rehearse", quay, "--unit", "requests").stderr
    assert "time zone" in run(*given, "--clock", "Nowhere/Here").stderr


def test_a_host_says_whose_its_cost_was_and_a_guest_what_it_took():
    done = run("rehearse", str(PLAN), "--group", "deck")
    assert re.search(r"Could lose a host +\d\d\.\d+ %", done.stdout)
    assert re.search(r"Cost +€ \d+\n  chat +€ [\d.]+\n  timetable +€ [\d.]+\n  weather +€ [\d.]+\n  free +€", done.stdout)
    told = json.loads(run("rehearse", str(PLAN), "--group", "deck", "--json").stdout)["figures"]
    assert sum(told["shared_out"].values()) == pytest.approx(told["cost"], abs=2e-6)
    own = json.loads(run("rehearse", str(PLAN), "--group", "chat", "--json").stdout)
    assert own["figures"]["cost"] == pytest.approx(told["shared_out"]["chat"], abs=2e-6)
    assert own["figures"]["copies_moved"] > 0


def test_a_group_that_is_not_there_is_named_before_a_provider_is_asked(quay):
    refused = run("live", quay, "--group", "wob", "--provider", "http://127.0.0.1:1")
    assert refused.exit_code == 2
    assert "no group has this name; there is: web" in refused.stderr
