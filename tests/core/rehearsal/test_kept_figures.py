"""The demo's figures stay what they are; a change of the model changes the file beside this test, and says why."""

import json
from pathlib import Path

import pytest

from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.formats.shipped import demo_plan

KEPT = json.loads(Path(__file__).with_name("figures.json").read_text())
DEMO = demo_plan()


def test_every_group_of_the_demo_is_kept():
    assert set(KEPT) == set(DEMO.groups)


@pytest.mark.parametrize("group", KEPT)
def test_the_figures_of_the_demo(group):
    figures = verdict(rehearse(DEMO, group)).figures.model_dump(mode="json")
    assert set(figures) == set(KEPT[group])
    for name, kept in KEPT[group].items():
        expected = pytest.approx(kept, rel=1e-9) if isinstance(kept, float) else kept
        assert figures[name] == expected, name
