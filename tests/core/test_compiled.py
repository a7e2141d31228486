import os
import shutil
import subprocess
import sys
from pathlib import Path

import jostle

SOURCE = Path(jostle.__file__).parent
ASK = """
from jostle.core.plan.policy.hold import hold_ask
from jostle.core.engine.spread import erlang_c, waiting_and_fall
print(erlang_c(2, 0.5), waiting_and_fall(0, 2, 1.0, 0.5)[0])
"""


def _run(folder: Path, cache: Path) -> list[float]:
    environment = {**os.environ, "PYTHONPATH": str(folder), "JOSTLE_CACHE": str(cache)}
    done = subprocess.run([sys.executable, "-c", ASK], env=environment, capture_output=True, text=True, check=True)
    return [float(word) for word in done.stdout.split()]


def test_a_changed_leaf_takes_effect_in_functions_that_call_it(tmp_path):
    shutil.copytree(SOURCE, tmp_path / "jostle", ignore=shutil.ignore_patterns("web", "__pycache__"))
    before = _run(tmp_path, tmp_path / "cache")
    assert _run(tmp_path, tmp_path / "cache") == before
    leaf = tmp_path / "jostle" / "core" / "engine" / "spread.py"
    text = leaf.read_text()
    changed = text.replace("    return blocked / (1.0 - load * (1.0 - blocked))", "    return 2.0 * blocked")
    assert changed != text
    leaf.write_text(changed)
    after = _run(tmp_path, tmp_path / "cache")
    assert after[0] != before[0]
    assert after[1] != before[1]


def test_the_key_of_the_cache_follows_every_source_of_compiled_code():
    from jostle.core.compiled import _SOURCES

    compiled = {path for path in (SOURCE / "core").rglob("*.py") if "core.compiled import" in path.read_text()}
    assert compiled <= set(_SOURCES)
