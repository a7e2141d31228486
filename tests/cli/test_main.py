import subprocess
import sys

import pytest
from typer.testing import CliRunner

from jostle.cli.main import COMMANDS, app, loaded


@pytest.mark.parametrize("name", COMMANDS)
def test_a_command_is_listed_as_its_own_help_begins(name: str) -> None:
    said = " ".join((loaded(name).help or "").split())
    assert said.startswith(COMMANDS[name].does)
    assert COMMANDS[name].does in " ".join(CliRunner().invoke(app, ["--help"]).output.split())


def test_what_there_is_to_do_is_said_without_loading_any_of_it() -> None:
    code = """
import sys
from jostle.cli.main import app
app(["--help"], standalone_mode=False)
print(*[name for name in sys.modules if name.partition(".")[0] in ("numpy", "pydantic", "rich", "fastapi", "scipy")
    or name.startswith(("jostle.core", "jostle.cli.")) and name != "jostle.cli.main"], file=sys.stderr)
"""
    ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert ended.stderr.strip() == ""
    assert "rehearse" in ended.stdout


def test_a_rehearsal_loads_neither_the_service_nor_the_search() -> None:
    code = """
import sys
from jostle.cli.main import app
from jostle.demo import PLAN
app(["rehearse", str(PLAN), "--group", "booking-web"], standalone_mode=False)
print(*{name.partition(".")[0] for name in sys.modules}, file=sys.stderr)
"""
    ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert not {"fastapi", "scipy", "optuna", "peewee", "dask", "icalendar", "httpx2"} & set(ended.stderr.split())
    assert "booking-web" in ended.stdout


def test_a_command_that_is_not_there_is_refused_with_the_one_that_was_meant() -> None:
    refused = CliRunner().invoke(app, ["rehears"])
    assert refused.exit_code == 2
    assert "Did you mean 'rehearse'?" in refused.output
