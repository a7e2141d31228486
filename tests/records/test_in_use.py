import os

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.records.in_use import InUse, alone_with
from jostle.records.store import Store
from tests.plans import plan
from tests.provider.serving import free_port
from tests.records.kills import killed


def test_one_has_a_folder_until_it_ends(tmp_path):
    with alone_with(tmp_path / "new"):
        with (
            pytest.raises(InUse, match=f"process {os.getpid()} serves the records in .*new already"),
            alone_with(tmp_path / "new"),
        ):
            pass
        with alone_with(tmp_path / "other"):
            pass
    with alone_with(tmp_path / "new"):
        pass


def test_one_that_is_killed_has_it_no_more(tmp_path):
    def hold(telling):
        with alone_with(tmp_path):
            os.write(telling, b"1\n")
            while True:
                pass

    assert killed(hold, 0.3) == [1]
    with alone_with(tmp_path):
        pass


def test_a_second_service_and_a_restore_are_refused_and_a_backup_is_not(tmp_path):
    Store(tmp_path / "jostle.sqlite").add_plan(plan())
    folder = ["--data", str(tmp_path)]
    with alone_with(tmp_path):
        copied = CliRunner().invoke(app, ["backup", str(tmp_path / "copy.sqlite"), *folder])
        assert copied.exit_code == 0
        for command in (["serve", "--port", str(free_port())], ["restore", str(tmp_path / "copy.sqlite")]):
            refused = CliRunner().invoke(app, [*command, *folder])
            assert refused.exit_code == 2
            assert f"process {os.getpid()} serves the records" in refused.output
