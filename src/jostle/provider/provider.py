"""The provider protocol as an interface in Python: what a keeper is told of a group, and what it may order."""

from dataclasses import dataclass
from typing import Literal, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

InstanceState = Literal["asked", "booting", "warming", "serving", "draining", "stopping", "stopped", "broken", "gone"]


class VersionCounts(NamedTuple):
    """Instances of a version, as Counts has them; and what they came to from the beginning on: answers, those that failed,
    seconds that they served, each with its share of CPU, and the latency p95 of each answer (s)."""

    version: int
    present: int
    serving: int
    answers: float = 0.0
    failed: float = 0.0
    seconds: float = 0.0
    cpu: float = 0.0
    stay: float = 0.0


class Counts(NamedTuple):
    """Instances of a group: those not leaving, those of them that serve, that are pinned, that were asked for and not taken yet;
    the most that the quota lets the group have; how many beyond the wanted count are still on their way from its start; those
    whose fault was found and that wait to be seen to; and the same by version, where versions are told apart."""

    present: int
    serving: int
    pinned: int
    waiting: int
    quota: int
    beyond: int
    found: int = 0
    versions: tuple[VersionCounts, ...] = ()


@dataclass(frozen=True)
class Instance:
    """One instance. Times are seconds on the group's clock, None for what has not come; `paid_left` is how long (s) what was
    paid for still lasts where hours are billed, `price` what an hour of its machine costs now; `found` whether a fault of it was
    found and waits to be seen to, `stranded` whether its zone is lost. `machine` is the place of its machine among the types of
    the group, 0 where it is none of them. Of an instance that others run on, `copies` is how many it carries; of a
    copy, `host` is the number of the instance that it runs on, None as long as it has no place."""

    number: int
    state: InstanceState
    zone: int
    version: int
    overflow: bool
    pinned: bool
    sessions: int
    requested: float
    booted: float | None
    serves: float | None
    drains: float | None
    paid_left: float
    cpu: float | None
    restarts: int
    fault: str | None
    spot: bool = False
    machine: int = 0
    price: float = 0.0
    found: bool = False
    stranded: bool = False
    copies: int = 0
    host: int | None = None


class Readings(NamedTuple):
    """Samples number `first` and on. `values` has shape (1 or 1 + zones, dials and outside series, samples), nan for what was not
    read; `metered` is the mean number of instances that served behind each, shape (samples,)."""

    first: int
    values: NDArray[np.float32]
    metered: NDArray[np.float32]


class Leaves(NamedTuple):
    """An instance that is to leave, stopped and kept or ended; `why` is the Reason for which it is this one."""

    number: int
    to_stop: bool
    why: int


class Refused(RuntimeError):
    """The provider does not do it; the message says why."""


class NotThere(Refused):
    """What was named is not there."""


class Unusable(RuntimeError):
    """What answers is no provider that a keeper can talk to; the message says why."""


# What asking a provider may end with where its answers are not right, or not right yet
AMISS = (ConnectionError, Refused, Unusable)


class Provider(Protocol):
    """Each order has a key; one that is given again under its key does nothing twice. Raises Refused, and ConnectionError where
    the provider cannot be reached."""

    def counts(self, group: str) -> Counts: ...

    def instances(self, group: str) -> list[Instance]:
        """Those that are not gone, the oldest first."""
        ...

    def readings(self, group: str, first: int) -> Readings:
        """The samples that are known from number `first` on."""
        ...

    def more(self, group: str, key: str, number: int, by: int, version: int | None = None) -> None:
        """Have so many more of a version, that of the group if none is said, stopped ones first, each in the open zone with the
        fewest; and try again for those that were asked for before and not taken. `by` is the number of the policy that asked, -1
        for none."""
        ...

    def fewer(self, group: str, key: str, leaving: list[Leaves], by: int, notice: str = "") -> None:
        """Have these drain and leave; people on them are told a notice."""
        ...

    def mend(self, group: str, key: str, number: int, again: bool) -> None:
        """See to an instance whose fault was found: start it again, or end it."""
        ...
