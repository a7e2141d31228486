"""Compiled code knows the arrays as Python lays them out, and is never used where it is older than its source."""

import ast
import importlib
import os
import platform
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from jostle.core import built
from jostle.core.built import figure, play, processor, sources
from jostle.core.decide.sight import Sight
from jostle.core.engine.outset import new_state
from tests.engines import setup

FOLDER = Path(sources.__file__).parent


def words(held):
    """Where each array stands and its shape."""
    return sum(words(one) if isinstance(one, tuple) else 1 + one.ndim for one in held)


def test_a_group_takes_as_many_words_as_its_arrays_have():
    made = setup(np.full(60, 10.0))
    assert play.group_words() == words(made) + words(new_state(made))


@pytest.mark.parametrize(
    "samples", [np.zeros(8), np.zeros(16, np.float32)[::2]], ids=["items of another size", "not in one piece"]
)
def test_an_array_that_is_not_as_it_is_to_be_is_refused(samples):
    with pytest.raises(ValueError, match="compiled code takes items of 4 bytes in one piece"):
        play.fold_window(samples, 4, 4, 0)


def test_a_tuple_that_is_laid_out_otherwise_is_refused():
    made = setup(np.full(60, 10.0))
    state = new_state(made)
    with pytest.raises(ValueError, match="build it anew: make build"):
        play.advance(made, state._replace(sight=Sight(state.sight.samples[0], state.sight.metered)), 1)


@pytest.mark.parametrize("module", [play, figure], ids=["play", "figure"])
def test_each_door_is_declared(module):
    name = module.__name__.rpartition(".")[2]
    declared = {one.name for one in ast.parse((FOLDER / f"{name}.pyi").read_text()).body if isinstance(one, ast.FunctionDef)}
    doors = {one for one in vars(module) if callable(getattr(module, one)) and not one.startswith("_")}
    assert declared <= doors
    written = {line.split("(")[0][4:] for line in (FOLDER / f"{name}.pyx").read_text().splitlines() if line.startswith("def ")}
    assert written <= declared


def test_what_is_older_than_its_source_is_not_used(tmp_path):
    """Another source beside the same build."""
    for path in [*FOLDER.glob("*.py"), *FOLDER.glob("*.so"), sources.MARK, FOLDER / "play.pyx"]:
        place = tmp_path / "jostle/core/built" / path.name
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(path.read_bytes())
    for package in ("jostle", "jostle/core"):
        (tmp_path / package / "__init__.py").write_text("")
    command = [sys.executable, "-c", "import jostle.core.built.play"]
    done = subprocess.run(command, cwd=tmp_path, env={**os.environ, "PYTHONPATH": str(tmp_path)}, capture_output=True, text=True)
    assert done.returncode == 1
    assert "the engine is not built, or is older than its source; run: make build" in done.stderr


def test_a_processor_that_lacks_what_is_needed_is_told_so(tmp_path, monkeypatch):
    assert processor.lacking() == []
    older = tmp_path / "cpuinfo"
    older.write_text("processor\t: 0\nflags\t\t: fpu sse sse2 cx16 lahf_lm ssse3\n")
    monkeypatch.setattr(processor, "TOLD", older)
    monkeypatch.setattr(platform, "machine", lambda: "x86_64")
    with pytest.raises(ImportError, match="needs a processor with popcnt, sse4_1, sse4_2"):
        importlib.reload(built)
    monkeypatch.setattr(platform, "machine", lambda: "aarch64")
    assert processor.lacking() == []
