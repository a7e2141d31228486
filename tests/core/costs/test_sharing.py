from decimal import Decimal

import numpy as np
import pytest

from jostle.core.costs.price import total
from jostle.core.costs.sharing import shares
from tests.core.engine.test_guests import counts, deck, guest, played


def test_each_guest_pays_for_what_it_held_and_the_rest_is_free():
    """A half of one host for a whole day, a quarter of the other from noon on; the vCPUs and the memory counting alike."""
    found = played(deck({"half": guest(2, 8, 1), "quarter": guest(1, 4, 0, place={"put": "spread"}, hands=counts((12, 1)))}))
    host, crew = found["deck"].result, found["deck"].crew
    shared = shares(host, crew, [found[name].result for name in ("half", "quarter")])
    whole = total(host, crew)
    assert whole == Decimal("0.24") * 24 * 2
    assert shared.guests[0] == whole / 4
    assert float(shared.guests[1]) == pytest.approx(float(whole) / 16, rel=1e-9)
    assert sum(shared.guests, shared.free) == whole
    assert found["half"].aboard.by_guest == dict(zip(("half", "quarter"), shared.guests, strict=True))


def test_the_parts_are_those_that_a_sum_over_all_ticks_gives():
    spare = {"kind": "spare", "name": "room", "of": "memory", "share": 0.3, "window": "60 s", "cooldown": "5 min"}
    steps = counts((3, 6), (8, 2), (15, 9))
    names = ("web", "chat")
    made = deck({name: guest(0.5, memory, 1, hands=steps) for name, memory in zip(names, (3, 1), strict=True)}, policies=[spare])
    found = played(made)
    host, crew = found["deck"].result, found["deck"].crew
    shared = shares(host, crew, [found[name].result for name in names])
    for name, part in zip(names, shared.guests, strict=True):
        result = found[name].result
        each = 0.5 * (0.5 / 4 + result.setup.of("place_memory") / 16)
        ends = np.where(np.isnan(result.spells["end"]), result.elapsed, result.spells["end"])
        seconds = sum(
            np.count_nonzero((result.spells["begin"] <= tick) & (ends > tick)) for tick in np.arange(0.0, result.elapsed, 10.0)
        )
        assert float(part) == pytest.approx(10 * seconds * each * 0.24 / 3600, rel=1e-3)
    assert sum(shared.guests, shared.free) == total(host, crew)
