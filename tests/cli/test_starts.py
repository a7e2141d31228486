"""Arrangements to begin from: listed with their reasons, written as a plan, and each keeps what it promises."""

import json
from datetime import datetime

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.core.change.starts import STARTS, on_day, plan_of_start
from jostle.core.checks.check import check
from jostle.core.journal.sentence import group_page
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.formats.plan_file import read_plan_file
from jostle.formats.shipped import starter_plan


def run(*given):
    return CliRunner().invoke(app, list(given))


def made(name):
    document = starter_plan().model_dump(mode="json")
    return plan_of_start(document, name, "first")


def test_there_are_seven_and_each_choice_has_its_reason():
    told = json.loads(run("starts", "--json").stdout)
    assert len(told) >= 7
    assert all(len(one["reasons"]) >= 3 for one in told)
    assert "job-bursts: jobs in bursts; piles that arrive" in run("starts").stdout


@pytest.mark.parametrize("name", STARTS)
def test_each_keeps_its_promises_and_nothing_grave_is_found_about_it(name):
    rehearsal = rehearse(made(name), "first")
    judged = verdict(rehearsal, whole=False)
    assert all(promise.kept for promise in judged.promises), judged.promises
    graves = {finding.code for finding in check(rehearsal, None) if finding.severity == "error"}
    assert graves == set()


@pytest.mark.parametrize("name", STARTS)
def test_each_reason_is_about_a_sentence_of_its_page(name):
    rehearsal = rehearse(made(name), "first")
    page = group_page(rehearsal.crew, "EUR")
    keys = {sentence.key for section in page.sections for sentence in section.sentences}
    about = {"health": "mending"}
    there = {about.get(one, one) for one in STARTS[name].reasons} - {"buying"}
    assert there <= keys


def test_a_plan_is_written_and_rehearsed(tmp_path, any_day):
    file = tmp_path / "first.yaml"
    done = run("new", "--start", "office-hours", "--name", "desk", "--time-zone", any_day.zone, str(file))
    assert done.exit_code == 0, done.output
    plan = read_plan_file(file)
    assert (plan.time_zone, list(plan.groups), plan.start.date()) == (any_day.zone, ["desk"], any_day.monday)
    assert run("rehearse", str(file), "--json").exit_code == 0
    again = run("new", "--start", "office-hours", str(file))
    assert again.exit_code == 2
    assert "is there already" in again.output
    assert "groups:" in run("new", "--start", "sessions").stdout


@pytest.mark.parametrize(
    ("given", "said"),
    [
        (("--start", "magic"), "no start has this name; there is: even-web"),
        (("--start", "even-web", "--time-zone", "Mars/Base"), "write an IANA time zone name"),
        (("--start", "even-web", "--name", "My Group"), "My Group"),
    ],
)
def test_what_cannot_be_begun_is_said(given, said):
    done = run("new", *given)
    assert done.exit_code == 2
    assert said in done.output


def test_days_are_those_of_the_plan():
    wednesday = datetime(2025, 7, 9)
    assert on_day("T12:00", wednesday) == "2025-07-09T12:00"
    assert on_day("FT19:00", wednesday) == "2025-07-11T19:00"
