"""What a group can see of itself: the last samples of its meters, in a ring like the roll of a chart recorder."""

from typing import NamedTuple

from jostle.core.built.laid import SingleBlock, Singles


class Sight(NamedTuple):
    """Sample number k stands at place k modulo the length of the ring, and was taken at the end of period k.

    A reading that is not there is nan.
    """

    samples: SingleBlock  # shape (1 or 1 + zones, dials and outside series, ring)
    metered: Singles  # mean number of serving instances behind each sample, shape (ring,)
