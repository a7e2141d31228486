"""A stretch of a group's life under one arrangement."""

from dataclasses import dataclass

import numpy as np

from jostle.core.engine.compile import Crew
from jostle.core.engine.setup import Setup
from jostle.core.plan.plan import Plan


@dataclass(frozen=True)
class Leg:
    """A stretch of a group's life under one arrangement, from evaluation number `first` on."""

    first: int
    began: float
    arrangement: int
    plan: Plan
    crew: Crew
    setup: Setup
    views: np.ndarray | None = None
