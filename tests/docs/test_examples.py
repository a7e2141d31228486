"""The examples of the docs are run, and what they print is compared with what the docs say."""

import re
import shlex
import shutil
from pathlib import Path

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_text
from jostle.formats.prices_csv import read_prices
from jostle.formats.shipped import demo_plan

ROOT = Path(__file__).parents[2]
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
BLOCK = re.compile(r"^```(\w+)\n(.*?)^```$", re.MULTILINE | re.DOTALL)
EXAMPLES = [
    pytest.param(kind, text, id=f"{page.name}-{number}")
    for page in PAGES
    for number, (kind, text) in enumerate(BLOCK.findall(page.read_text()))
]


def test_there_are_examples():
    assert sum(example.values[0] == "console" for example in EXAMPLES) >= 6
    assert sum(example.values[0] == "yaml" for example in EXAMPLES) >= 1


@pytest.mark.parametrize(("kind", "text"), EXAMPLES)
def test_an_example_gives_what_it_says(kind, text, tmp_path, monkeypatch):
    if kind == "yaml":
        assert read_plan_text(text).groups
        return
    if kind == "csv":
        demo = demo_plan()
        assert read_prices(text.encode(), demo.zone, demo.currency, list(demo.machines), demo.zones)
        return
    assert kind == "console"
    for file in PLAN.parent.glob("*.*"):
        shutil.copy(file, tmp_path)
    monkeypatch.chdir(tmp_path)
    command, *expected = text.splitlines()
    done = CliRunner().invoke(app, shlex.split(command.removeprefix("$ jostle ")))
    shown = done.stderr if done.exit_code == 2 else done.stdout
    pattern = "".join(r"(?:.*\n)*?" if line == "..." else re.escape(line) + r"\n" for line in expected)
    assert re.fullmatch(pattern, shown), shown[:2000]


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_every_link_leads_somewhere(page):
    for link in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
        assert (page.parent / link).exists(), link
