"""Each part of what is measured runs to its end on small numbers, and says figures."""

import re

import pytest

from tests.bench.__main__ import PARTS
from tests.bench.measuring import SMALL


@pytest.mark.parametrize("part", PARTS, ids=lambda part: f"{part.__module__.rpartition('.')[2]}-{part.__name__}")
def test_a_part_says_what_it_measured(part, capsys):
    part(SMALL)
    told = capsys.readouterr().out.splitlines()
    assert told
    assert all(re.search(r"\d", line) for line in told), told
