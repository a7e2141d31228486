"""The stand-in as a process of its own, killed in the middle."""

import json
import signal
import subprocess
import sys

from typer.testing import CliRunner

from jostle.cli.main import app as cli
from jostle.demo import PLAN
from tests.plans import ADD, REMOVE, data
from tests.provider.serving import answers, free_port

COMMAND = "from jostle.cli.main import app; app()"


def standin(plan, folder, port):
    given = ["standin", "--plan", str(plan), "--port", str(port), "--data", str(folder)]
    process = subprocess.Popen([sys.executable, "-c", COMMAND, *given], stderr=subprocess.PIPE, text=True)
    answers(f"http://127.0.0.1:{port}", process)
    return process


def test_killed_and_started_again_it_stands_where_it_stood(tmp_path):
    plan = tmp_path / "quay.json"
    plan.write_text(json.dumps(data(groups__web__policies=[ADD, REMOVE])))
    port, given = free_port(), ["live", str(plan), "--group", "web", "--json", "--provider"]
    url = f"http://127.0.0.1:{port}"
    first = standin(plan, tmp_path / "world", port)
    done = CliRunner().invoke(cli, [*given, url, "--until", "2025-07-07T01:30"])
    first.send_signal(signal.SIGKILL)
    first.wait()
    assert done.exit_code == 0, done.output
    again = standin(plan, tmp_path / "world", port)
    try:
        told = CliRunner().invoke(cli, [*given, url, "--until", "2025-07-07T01:30"])
        assert json.loads(told.stdout) == json.loads(done.stdout)
        assert json.loads(done.stdout)["web"]["served"] > 100_000
        taken = CliRunner().invoke(cli, ["standin", "--port", str(port)])
        assert taken.exit_code == 2
        assert "cannot be used" in taken.output
    finally:
        again.kill()
        again.wait()


def test_what_cannot_be_kept_is_said_in_a_line():
    nobody = CliRunner().invoke(cli, ["live", str(PLAN), "--group", "tryout", "--provider", f"http://127.0.0.1:{free_port()}"])
    assert nobody.exit_code == 2
    assert "cannot be reached" in nobody.output
