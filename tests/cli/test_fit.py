"""The model of a group held against what was observed of it, from the command line."""

import json

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file

OBSERVED = PLAN.parent / "observed-days.csv"


def run(command, *words, code=0):
    done = CliRunner().invoke(app, [command, str(PLAN), *map(str, words), "--group", "booking-web"])
    assert done.exit_code == code, done.output
    return done


def test_what_was_put_into_the_file_is_found_and_written(tmp_path):
    out = tmp_path / "fitted.yaml"
    told = json.loads(run("fit", OBSERVED, "--json", "--write", out).stdout)
    cpu, idle, ready, needs = told["estimates"]
    assert cpu["low"] <= 0.061 <= cpu["high"]
    assert cpu["far_off"] > 0
    assert idle["low"] <= 0.05 <= idle["high"]
    assert ready["path"] == ""
    assert (needs["name"], needs["path"]) == ("vCPUs at least", "")
    assert "servers in service is taken as instances" in told["notes"]
    for brought in ("june-week.csv", "booking-history.csv"):
        (tmp_path / brought).write_bytes((PLAN.parent / brought).read_bytes())
    work = read_plan_file(out).groups["booking-web"].work
    assert (work.cpu_seconds, work.idle_cpu) == pytest.approx((cpu["value"], idle["value"]), rel=1e-3)
    said = run("fit", OBSERVED).stdout
    assert "CPU of a request: 60.9 ms" in said
    assert "the plan has 55 ms" in said


def test_the_past_is_rehearsed_and_how_far_it_is_off_is_said():
    told = json.loads(run("backtest", OBSERVED, "--json").stdout)["apart"]
    assert [one["what"] for one in told] == ["count", "CPU"]
    assert told[0]["hours"] == 71
    assert abs(told[0]["bias"]) <= told[0]["mean"] <= told[0]["nine_of_ten"] <= abs(told[0]["worst"])
    assert run("backtest", OBSERVED).stdout.startswith("count within ")


UNSURE = "time,rate,hosts,cpu\n2025-07-07T00:00Z,5,2,0.3\n2025-07-07T00:05Z,6,2,0.4\n"


@pytest.mark.parametrize(
    ("content", "words", "said"),
    [
        (UNSURE, [], "rate: its heading names no unit; say which it is: --column rate=arrivals:per_second or"),
        (UNSURE, [], "cpu: its heading names no unit; say which it is: --column cpu=cpu:percent or cpu=cpu:share"),
        (UNSURE, ["--column", "west=cpu"], '"west": is not in the file; there is: time, rate, hosts, cpu'),
        (UNSURE, ["--column", "cpu=colour"], '"colour": must be one of arrivals, instances'),
        (UNSURE, ["--column", "cpu=cpu:bytes"], '"bytes": must be one of percent, share'),
        (UNSURE, ["--column", "rate=arrivals:per_second", "--column", "cpu=cpu:share"], "bring 24 at the least"),
        ("a,b\n2025-07-07T00:00Z,5\n2025-07-07T00:05Z,6\n", [], "no column is known; name them with --column COLUMN=QUANTITY"),
    ],
)
def test_what_is_unsure_is_asked_for(tmp_path, content, words, said):
    file = tmp_path / "seen.csv"
    file.write_text(content)
    done = run("fit", file, *words, code=2)
    assert said in " ".join((done.stdout + done.stderr).split())


def test_values_of_one_instance_are_made_those_of_the_group(tmp_path):
    file = tmp_path / "seen.csv"
    times = [f"2025-07-07T{k // 12:02d}:{k % 12 * 5:02d}Z" for k in range(120)]
    rows = [f"{at},{8 + k % 7},{2 + k // 30},{4 + 3 * (8 + k % 7)}" for k, at in enumerate(times)]
    file.write_text("time,rps,hosts,cpu percent\n" + "\n".join(rows))
    told = json.loads(run("fit", file, "--per-instance", "--json").stdout)["estimates"]
    # Three points of two cores for each request a second
    assert told[0]["value"] == pytest.approx(0.06, rel=0.01)
    file.write_text("time,rps,cpu percent\n2025-07-07T00:00Z,5,30\n2025-07-07T00:05Z,6,40\n")
    assert "is needed where values are told of one instance" in run("fit", file, "--per-instance", code=2).stderr
