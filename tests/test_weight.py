"""What a browser has to load, in bytes, uncompressed."""

import json
import subprocess
import sys

import pytest

from jostle.api.app import WEB

SCREENS = {name: f"src/screens/{name}/{name.capitalize()}Screen.tsx" for name in ("groups", "rehearse", "library")}


@pytest.fixture(scope="module")
def manifest():
    return json.loads((WEB / "manifest.json").read_text())


def loaded(manifest, *entries):
    """The chunks that are loaded for entries: they and all that they import."""
    found, left = set(), list(entries)
    while left:
        if (one := left.pop()) not in found:
            found.add(one)
            left += manifest[one].get("imports", [])
    return found


def bytes_of(manifest, chunks, css):
    files = {file for one in chunks for file in (manifest[one].get("css", []) if css else [manifest[one]["file"]])}
    return sum((WEB / file).stat().st_size for file in files)


def test_the_first_screen(manifest):
    chunks = loaded(manifest, "index.html", SCREENS["groups"])
    assert 100_000 < bytes_of(manifest, chunks, css=False) <= 450_000
    assert 10_000 < bytes_of(manifest, chunks, css=True) <= 100_000


@pytest.mark.parametrize("screen", [name for name in SCREENS if name != "groups"])
def test_every_other_screen_has_its_own_part(manifest, screen):
    first = loaded(manifest, "index.html", SCREENS["groups"])
    own = loaded(manifest, SCREENS[screen]) - first
    assert 1_000 < bytes_of(manifest, own, css=False) <= 250_000


def test_a_service_does_without_what_few_ask_for():
    """Statistics that only a fit needs take 48 MiB."""
    asked = "import sys, jostle.api.server; sys.exit('scipy.stats' in sys.modules or 'optuna' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", asked], check=False).returncode == 0
