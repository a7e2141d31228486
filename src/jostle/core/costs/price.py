"""The bill: instance time by price, in exact decimals."""

from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

_MICRO = Decimal(1_000_000)


def bill(instance_seconds: NDArray[np.float64] | float, price_per_hour: Decimal) -> Decimal:
    """Amount for so many billed seconds (a sum, or one entry for each instance), exact to a millionth of a second."""
    micros = round(float(np.sum(instance_seconds)) * 1e6)
    return Decimal(micros) / _MICRO * price_per_hour / 3600
