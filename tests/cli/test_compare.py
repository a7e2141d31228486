"""Two plans side by side from a terminal: what differs, over the same seeds, and whether a pipeline lets it pass."""

import json
import re

import pytest
from ruamel.yaml import YAML
from scipy.stats import ttest_rel
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.core.checks.review import PromiseReview, review
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from tests.plans import ADD, REMOVE, data, plan

RUSH = {"kind": "surge", "at": "2025-07-07T08:00", "factor": 4, "hold": "2 h"}
OF_IT = {
    "demands__even__layers": [{"kind": "level", "rate": 30}, RUSH, {"kind": "noise", "spread": 0.2}],
    "groups__web__policies": [ADD, REMOVE],
    "groups__web__work__arrivals": "by_chance",
    "groups__web__promises": [{"kind": "answers", "share": 0.9, "within": "2 s"}, {"kind": "cost", "at_most": 200}],
    "machines__otter-2__quota": None,
}
DEARER = {"groups__web__minimum": 4}
RIVAL = {**data()["groups"]["web"], "minimum": 2}


@pytest.fixture
def files(tmp_path):
    """Writes plans as files: their paths."""

    def write(*settings):
        paths = []
        for number, one in enumerate(settings):
            path = tmp_path / f"plan-{number}.yaml"
            with path.open("w") as file:
                YAML().dump(data(**{**OF_IT, **one}), file)
            paths.append(str(path))
        return paths

    return write


def run(*args):
    return CliRunner().invoke(app, ["compare", *args])


def test_what_differs_is_told_with_its_interval_over_the_seeds():
    before, after = plan(**OF_IT), plan(**OF_IT, **DEARER)
    told = review(before, after, range(1, 6)).told
    (group,) = told.groups
    costs = [[float(verdict(rehearse(one, "web", seed)).figures.cost) for seed in range(1, 6)] for one in (before, after)]
    held = ttest_rel(costs[1], costs[0]).confidence_interval(0.95)
    assert group.cost.more == pytest.approx(sum(costs[1]) / 5 - sum(costs[0]) / 5)
    assert (group.cost.low, group.cost.high) == pytest.approx((held.low, held.high))
    assert [(pair.before, pair.after) for pair in group.sentences] == [
        (pair.before, pair.after) for pair in group.sentences if "1" in pair.before and "4" in pair.after
    ]
    assert group.sentences
    assert group.state == "changed"
    assert told.cost == group.cost


def test_a_plan_against_itself_is_as_it_was(files):
    (path,) = files({})
    found = run(path, path, "--gate")
    assert found.exit_code == 0, found.output
    assert "as before" in found.stdout
    assert "As they were: web" in found.stdout
    assert json.loads(run(path, path, "--format", "json").stdout)["groups"][0]["state"] == "same"


def test_groups_that_came_and_went_and_what_differs_besides(files):
    old, new = files({"groups__rival": RIVAL}, {"groups__late": RIVAL, "machines__otter-2__price_per_hour": "0.40"})
    told = json.loads(run(old, new, "--seeds", "2", "--format", "json").stdout)
    assert {one["name"]: one["state"] for one in told["groups"]} == {"web": "changed", "late": "came", "rival": "went"}
    assert told["besides"] == ["machines: otter-2"]
    web = next(one for one in told["groups"] if one["name"] == "web")
    assert web["cost"]["more"] / web["cost"]["before"] == pytest.approx(0.04 / 0.36, rel=0.01)
    assert "was not there" in run(old, new, "--seeds", "1", "--group", "late").stdout


@pytest.mark.parametrize(
    ("change", "more", "code", "said"),
    [
        ({}, (), 0, ""),
        (DEARER, (), 1, "% more, and 5 % are allowed"),
        (DEARER, ("--dearer-by", "200 %"), 2, "--dearer-by"),
        (DEARER, ("--dearer-by", "100 %"), 0, ""),
        ({"groups__web__maximum": 2}, (), 1, "90 % of answers within 2 s is kept under 0 of 3 seeds, was 3"),
        ({"groups__web__policies": [{**ADD, "side": "below", "threshold": "30 %"}, REMOVE]}, (), 1, "wrong-side"),
    ],
)
def test_the_gate_refuses_by_name(files, change, more, code, said):
    old, new = files({}, change)
    found = run(old, new, "--seeds", "3", "--gate", *more)
    assert found.exit_code == code, found.output
    assert said in found.output
    assert not code or found.output.count("refused") or code == 2


def test_markdown_and_a_page_with_both_weeks(files, tmp_path):
    old, new = files({}, DEARER)
    told = run(old, new, "--seeds", "2", "--gate", "--format", "markdown")
    assert told.exit_code == 1
    assert told.stdout.startswith("**All groups: € ")
    assert "### web: changed" in told.stdout
    assert re.search(r"^- \*.*4.*\* \(was: .*1.*\)$", told.stdout, re.MULTILINE)
    assert run(old, new, "--seeds", "2", "--format", "html", "--out", str(tmp_path / "review.html")).exit_code == 0
    page = (tmp_path / "review.html").read_text()
    assert page.count("<svg") == 6
    assert "http" not in page.replace("http://www.w3.org", "")
    tops = re.findall(r"up to ([^<]+)</span>", page)
    assert tops[:3] == tops[3:]


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (("--format", "yaml"), "write text, json, markdown or html"),
        (("--group", "jetty"), "no group of either plan has this name; there is: web"),
        (("--dearer-by", "much"), "--dearer-by"),
    ],
)
def test_what_cannot_be_is_refused_by_name(files, args, said):
    (path,) = files({})
    found = run(path, path, *args)
    assert found.exit_code == 2
    assert said in found.output


def test_plans_in_other_money_are_not_compared(files):
    old, new = files({}, {"currency": "CHF"})
    found = run(old, new)
    assert found.exit_code == 2
    assert "is not that of the other plan, which is EUR" in found.output


KEPT = [(5, 5, False), (5, 4, True), (3, 5, False), (0, 0, False), (None, 4, True), (None, 5, False), (5, None, False)]


@pytest.mark.parametrize(("before", "after", "broken"), KEPT)
def test_when_a_promise_is_newly_broken(before, after, broken):
    assert PromiseReview(text="", before=before, after=after, of=5).newly_broken is broken
