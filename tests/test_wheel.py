"""The wheel, in an environment with nothing else: no Node, no compiler, no source."""

import json
import os
import shutil
import subprocess
import sys
import urllib.request
from pathlib import Path

import pytest

from tests.patience import PATIENCE
from tests.provider.serving import answers, free_port

ROOT = Path(__file__).parents[1]
TOOLS = Path(sys.executable).parent
LEFT = shutil.ignore_patterns(
    ".*", "node_modules", "build", "dist", "*.egg-info", "*.so", "built_from", "__pycache__", "screenshots"
)


@pytest.fixture(scope="module")
def installed(tmp_path_factory) -> Path:
    """The folder of commands of an environment that has the wheel."""
    folder = tmp_path_factory.mktemp("wheel")
    source, wheels, place = folder / "source", folder / "wheels", folder / "place"
    shutil.copytree(ROOT, source, ignore=LEFT)
    subprocess.run([ROOT / "tools/wheel.sh", source, wheels], check=True, capture_output=True)
    (wheel,) = wheels.glob("*.whl")
    assert "manylinux" in wheel.name
    subprocess.run([TOOLS / "uv", "venv", "--quiet", "--python", sys.executable, place], check=True)
    into = os.environ | {"VIRTUAL_ENV": str(place)}
    command = [TOOLS / "uv", "pip", "install", "--quiet", "--constraint", ROOT / "requirements.lock", wheel]
    subprocess.run(command, check=True, env=into)
    return place / "bin"


def run(commands: Path, *given: str) -> subprocess.CompletedProcess:
    return subprocess.run([commands / "jostle", *given], capture_output=True, text=True, env=nothing_else(commands))


def nothing_else(commands: Path) -> dict[str, str]:
    return {"PATH": str(commands), "HOME": str(commands.parent), "LANG": "C.UTF-8"}


def test_its_commands_and_its_page_need_nothing_else(installed):
    assert shutil.which("node", path=str(installed)) is None
    assert not list(installed.parent.glob("lib/*/site-packages/jostle/**/*.p*x*"))
    begun = run(installed, "new", "--start", "even-web", str(installed / "plan.yaml"))
    assert begun.returncode == 0, begun.stderr
    rehearsed = run(installed, "rehearse", str(installed / "plan.yaml"), "--json")
    assert rehearsed.returncode in (0, 1), rehearsed.stderr
    assert json.loads(rehearsed.stdout)["figures"]["served"] > 0
    port = free_port()
    command = [installed / "jostle", "demo", "--port", str(port), "--data", str(installed / "data")]
    service = subprocess.Popen(command, env=nothing_else(installed), stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
    try:
        answers(f"http://127.0.0.1:{port}", service)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=PATIENCE) as page:
            assert "<title>Jostle</title>" in page.read().decode()
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/plans", timeout=PATIENCE) as plans:
            assert [plan["name"] for plan in json.load(plans)] == ["Brindle Sound Ferries"]
    finally:
        service.kill()
        service.wait()
