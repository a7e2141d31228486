"""A demand composed from a file, from the command line."""

import json

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file

SERIES = PLAN.parent / "june-week.csv"


def run(*words, code=0):
    done = CliRunner().invoke(app, ["compose", str(PLAN), *map(str, words)])
    assert done.exit_code == code, done.output
    return done


def test_it_is_said_in_sentences_and_written_into_a_plan(tmp_path):
    out = tmp_path / "with.yaml"
    said = run(SERIES, "--name", "as-in-june", "--write", out).stdout
    assert said.startswith("A level of ")
    assert "less than three weeks: none could be held out to try it on" in said
    (tmp_path / "june-week.csv").write_bytes(SERIES.read_bytes())
    kinds = [layer.kind for layer in read_plan_file(out).demands["as-in-june"].layers]
    assert kinds == ["level", "daily", "weekdays", "noise"]
    told = json.loads(run(SERIES, "--json").stdout)
    assert [layer["kind"] for layer in told["demand"]["layers"]] == kinds
    assert told["held_out"] is None


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["nowhere.csv"], "nowhere.csv"),
        ([SERIES, "--name", "quotes"], "is a demand of the plan already"),
        ([SERIES, "--column", "west"], "west"),
    ],
)
def test_what_cannot_be_is_refused(words, said):
    done = run(*words, code=2)
    assert said in " ".join((done.stdout + done.stderr).split())
