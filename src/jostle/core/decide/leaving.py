"""Choosing who leaves, over plain rows of candidates."""

import numpy as np

CANDIDATE = np.dtype(
    [
        ("number", "i8"),  # of its launch, which stands for its age
        ("standing", "i1"),
        ("zone", "i2"),
        ("version", "i2"),
        ("overflow", "?"),
        ("paid_left", "f8"),  # s until its next paid hour begins
        ("sessions", "i4"),
        ("spot", "?"),
        ("price", "f8"),  # of an hour
        ("weight", "i4"),  # of what the group counts in
    ],
    align=True,
)
