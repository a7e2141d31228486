"""How long services take in the independent models."""

import math

import numpy as np


def drawn(chance: np.random.Generator, mean: float, unevenness: float, number: int, exponential: bool = True) -> np.ndarray:
    """So many lengths whose variance is that multiple of the squared mean: lognormal, but for those of 1 unless asked for."""
    if exponential and unevenness == 1.0:
        return chance.exponential(mean, number)
    if unevenness == 0.0:
        return np.full(number, mean)
    spread = math.log(1.0 + unevenness)
    return mean * np.exp(math.sqrt(spread) * chance.standard_normal(number) - 0.5 * spread)
