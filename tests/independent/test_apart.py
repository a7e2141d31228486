"""The models here share nothing with what they are held against."""

from pathlib import Path

import pytest

MODELS = sorted(path for path in Path(__file__).parent.glob("*.py") if not path.name.startswith(("test_", "__")))


@pytest.mark.parametrize("path", MODELS, ids=lambda path: path.stem)
def test_a_model_knows_nothing_of_the_product(path):
    assert "jostle" not in path.read_text()
