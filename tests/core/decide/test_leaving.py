"""Who leaves first, as a table of those there are."""

import numpy as np
import pytest

from jostle.core.built.play import next_to_leave, why_it
from jostle.core.decide.code import Reason, Standing
from jostle.core.decide.leaving import CANDIDATE
from tests.engines import setup

SERVES, ASKED, BROKEN, COMING = Standing.SERVING, Standing.ASKED, Standing.BROKEN, Standing.COMING
NORTH, WEST = 0, 1


def leaving(*there: tuple[int, int, bool], crowds=(3, 1)) -> tuple[int, Reason]:
    """The position of who leaves, and why, of candidates by standing, zone, and whether they are overflow."""
    rows = np.zeros(len(there), CANDIDATE)
    rows["number"], rows["weight"] = np.arange(len(there)), 1
    for row, (standing, zone, overflow) in zip(rows, there, strict=True):
        row["standing"], row["zone"], row["overflow"] = standing, zone, overflow
    subnets = {"a": {"zone": "north"}, "b": {"zone": "west"}}
    rules = setup([10.0] * 60, subnets=subnets, groups__web__launch={"subnets": ["a", "b"]}).rules
    present = np.array(crowds, np.int32)
    first = next_to_leave(rules, rows, len(rows), present)
    return first, Reason(why_it(rules, rows, len(rows), present, first))


@pytest.mark.parametrize(
    ("there", "first", "why"),
    [
        ([(SERVES, NORTH, False), (SERVES, WEST, True)], 1, Reason.OVERFLOW),
        ([(SERVES, WEST, True), (SERVES, NORTH, False)], 0, Reason.OVERFLOW),
        ([(SERVES, WEST, True), (SERVES, NORTH, True)], 1, Reason.ZONE),
        ([(SERVES, WEST, False), (SERVES, NORTH, False)], 1, Reason.ZONE),
        ([(BROKEN, NORTH, False), (SERVES, WEST, True)], 1, Reason.OVERFLOW),
        ([(BROKEN, WEST, False), (SERVES, NORTH, False)], 1, Reason.ZONE),
        ([(SERVES, NORTH, False), (BROKEN, NORTH, False)], 1, Reason.BROKEN),
        ([(SERVES, NORTH, False), (COMING, NORTH, False)], 1, Reason.COMING),
        ([(ASKED, WEST, False), (SERVES, NORTH, True)], 0, Reason.ASKED),
        ([(SERVES, NORTH, True)], 0, Reason.ONLY),
    ],
)
def test_the_first_to_leave(there, first, why):
    assert leaving(*there) == (first, why)
