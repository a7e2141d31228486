"""How far an order came: what of it is filled, still open, or lapsed."""

from typing import NamedTuple

import numpy as np

from jostle.core.engine.code import Billed
from jostle.core.rehearsal.rehearsal import Rehearsal


class OrderState(NamedTuple):
    """In what the group counts in, at the end of the span. Of an order that is kept up `filled` is what runs, at its lapse where
    it has lapsed."""

    filled: int
    open: int
    lapsed: int


def order_state(rehearsal: Rehearsal) -> OrderState | None:
    """None without an order."""
    order, result = rehearsal.crew.group.order, rehearsal.result
    if order is None:
        return None
    lapse = float(result.setup.of("order_until"))
    until = min(lapse, result.elapsed)
    spells = result.spells[(result.spells["kind"] == Billed.RUNNING) & (result.spells["begin"] < until)]
    if order.kind == "kept":
        spells = spells[~(spells["end"] < until) & ~(result.instances["drains"][spells["instance"]] < until)]
    weights = result.setup.kinds.view(np.ndarray)["weight"][result.instances["kind"][np.unique(spells["instance"])]]
    filled = min(order.count, int(weights.sum()))
    rest = order.count - filled
    return OrderState(filled, 0, rest) if lapse <= result.elapsed else OrderState(filled, rest, 0)
