"""Ranges of what may vary reach as far as they hold together with the group's other settings."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.plan.plan import with_group
from jostle.core.plan.problem import PlanError
from jostle.core.tuning.space import Varied, applied, as_written, checked_space, usual_space
from tests.plans import ADD, REMOVE, plan

LADDER = [{"beyond": 0.7, "amount": 2}, {"beyond": 0.85, "amount": 4}]


def laddered():
    return plan(
        groups__web__policies=[{**ADD, "threshold": 0.6, "bands": LADDER}, REMOVE],
        groups__web__minimum=2,
        groups__web__maximum=12,
    )


def test_the_threshold_of_a_ladder_ends_before_its_first_band():
    made = laddered()
    threshold = next(one for one in checked_space(usual_space(made.groups["web"]), made, "web") if one.path.endswith("threshold"))
    assert 0.6 <= threshold.high < 0.7
    assert threshold.low < 0.6


@pytest.mark.parametrize(
    ("path", "asked", "low", "high"),
    [("minimum", (0, 40), 0, 12), ("maximum", (1, 40), 2, 40), ("policies.add.bands.0.beyond", (0.5, 0.9), 0.6, 0.85)],
)
def test_ranges_that_cross_are_clipped(path, asked, low, high):
    made = laddered()
    step = 1.0 if path in ("minimum", "maximum") else 0.0
    (one,) = checked_space([Varied(path=path, low=asked[0], high=asked[1], step=step)], made, "web")
    assert low <= one.low <= low + 0.002 + step * (path == "minimum")
    assert high - 0.002 <= one.high <= high


def test_a_range_of_which_nothing_holds_is_refused_with_the_reason():
    made = laddered()
    with pytest.raises(PlanError, match=r"policies\.add\.threshold: \"0\.8 to 0\.9\": "):
        checked_space([Varied(path="policies.add.threshold", low=0.8, high=0.9)], made, "web")


@given(st.floats(0.05, 0.9), st.floats(0.02, 0.9), st.sampled_from([0.0, 0.01, 0.05]))
def test_both_ends_of_what_is_left_hold(low, width, step):
    made = laddered()
    document = made.groups["web"].model_dump(mode="json")
    asked = Varied(path="policies.add.threshold", low=low, high=min(0.99, low + width), step=step)
    try:
        (one,) = checked_space([asked], made, "web")
    except PlanError:
        return
    assert asked.low <= one.low < one.high <= asked.high
    for end in (one.low, one.high):
        assert with_group(made, "web", applied(document, {one.path: as_written(one, end)}))
