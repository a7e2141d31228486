"""`jostle tune`: settings are found, told, written; what cannot be used is refused."""

import json

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.formats.plan_file import read_plan_file, write_plan
from tests.core.tuning.test_search import BUSY
from tests.plans import plan


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "plan.yaml"
    path.write_text(write_plan(plan(**BUSY)))
    return path


def run(*words, code=0):
    done = CliRunner().invoke(app, ["tune", *map(str, words)])
    assert done.exit_code == code, done.output
    return done.output


def test_settings_are_found_and_written(file, tmp_path):
    out = tmp_path / "tuned.yaml"
    vary = ["--vary", "policies.add.threshold=40 %..90 %", "--vary", "policies.add.cooldown=2 min..10 min:1 min"]
    told = json.loads(run(file, "--sets", 14, "--seeds", 2, *vary, "--json", "--write", out))
    assert told["looked_at"] == len(told["sets"]) == 14
    assert told["chosen"]["confirmed"] == {"kept": 20, "seeds": 20, "low": 0.8316, "high": 1.0}
    assert {one["path"] for one in told["matters"]} <= {"policies.add.threshold", "policies.add.cooldown"}
    assert all(one["values"]["policies.add.cooldown"] % 60 == 0 for one in told["sets"])
    tuned = read_plan_file(out).groups["web"].policies[0]
    assert tuned.threshold == told["chosen"]["values"]["policies.add.threshold"]


def test_it_says_in_words_what_it_found(file):
    told = run(file, "--sets", 8, "--seeds", 1)
    assert "web: 8 sets under 1 seed in" in told
    assert "chosen" in told
    assert "policies.add.threshold" in told


def test_where_nothing_keeps_every_promise_it_ends_with_one(file):
    told = run(file, "--sets", 4, "--seeds", 1, "--set", "promises.0.within=1 ms", "--set", "promises.0.share=99.9 %", code=1)
    assert "nearest" in told


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--vary", "policies.add.threshold"], "write PATH=LOW..HIGH"),
        (["--vary", "policies.nobody.threshold=1 %..2 %"], "nobody"),
        (["--vary", "policies.add.threshold=90 %..40 %"], "is an empty range"),
        (["--vary", "policies.add.threshold=40 %..quick"], "write a share"),
        (["--vary", "policies.add.side=1..2"], "is no number"),
        (["--keep", "room=4"], "write margin=10 %"),
        (["--for", "soon"], "--for"),
        (["--demand", "nothing"], "nothing"),
        (["--demand", "even*lots"], "write NAME, or NAME*1.2"),
        (["--demand", "even*0"], "write NAME, or NAME*1.2"),
        (["--group", "quay"], "quay"),
    ],
)
def test_what_cannot_be_used_is_refused(file, words, said):
    assert said in " ".join(run(file, *words, code=2).split())
