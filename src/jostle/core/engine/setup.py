"""What the engine is given: everything that decides a rehearsal, in plain numbers. It is the stage with its props."""

from typing import Annotated, Any, NamedTuple

import numpy as np

from jostle.core.built.laid import FloatGrid, Floats, Ints, Many, One, SingleGrid
from jostle.core.decide.row import ORDER
from jostle.core.decide.rules import Rules, copied_rows
from jostle.core.engine.market import Market
from jostle.core.engine.queue import Line

INCIDENT = np.dtype([("kind", "i1"), ("begin", "f8"), ("end", "f8"), ("zone", "i2"), ("amount", "f8"), ("fault", "i1")])
HAND = np.dtype([("kind", "i1"), ("time", "f8"), ("number", "i4"), ("amount", "f8"), ("length", "f8")])

FIXED = np.dtype(
    [
        ("tick", "f8"),  # s
        ("ticks", "i8"),
        ("seed", "i8"),
        ("work", "i1"),
        ("idle_cpu", "f8"),
        ("full_cpu", "f8"),  # CPU of an instance that gives all it can
        ("base_latency", "f8"),
        ("timeout", "f8"),
        ("sticky", "f8"),  # s
        ("by_chance", "?"),  # whether arrivals are drawn
        ("unevenness", "f8"),  # squared coefficient of variation of what one request or job takes
        ("held_jobs", "?"),  # whether each job is held by a worker, through stages; else they flow
        ("either", "?"),  # whether the stages are two kinds of jobs instead
        ("long_kind", "f8"),  # share of the second of them, the long one
        ("steps", "i4"),  # of a tick, within each of which few sessions end
        ("session_end", "f8"),  # chance that a session ends within a step
        ("log_stay", "f8"),  # logarithm of the chance that it does not
        ("at_once", "f8"),  # chance that one ends within the step in which it began
        ("pack", "?"),
        ("patience", "f8"),  # s that a job may wait before the group counts as short
        ("in_each", "f8"),  # MB
        ("disk_each", "f8"),
        ("out_each", "f8"),
        ("drain", "f8"),
        ("stop", "f8"),
        ("zones", "i4"),
        ("first_count", "i4"),
        ("owned", "i4"),
        ("cold", "?"),
        ("surplus", "i4"),
        ("version", "i4"),
        ("first_version", "i4"),
        ("types", "i8"),  # of machines, for each version that is told apart
        ("builds", "i8"),  # versions that are
        ("fails", "?"),  # whether anything fails of a version of its own
        ("pinned", "i4"),
        ("kept", "?"),  # whether a keeper decides from outside
        ("evaluate_ticks", "i8"),
        ("period_ticks", "i8"),
        ("meter_latency", "?"),
        ("meter_zones", "?"),
        ("health", "i1"),  # the worst fault that is seen
        ("notice", "f8"),  # s from a fault to its being seen
        ("grace", "f8"),
        ("fault_every", "f8"),  # s; infinite for never
        ("frozen", "f8"),
        ("hung", "f8"),
        ("never_boots", "f8"),
        ("shut", "?"),  # whether no check of the load balancer ever gets through to an instance
        ("price_group", "f8"),  # per second, however many instances there are
        ("price_each", "f8"),  # of what a request or job, or a second of a session, sends and is sent
        ("weighted", "?"),  # whether versions of the template get unlike shares
        ("mixed", "?"),  # whether machines of several types can do unlike amounts
        ("shapes", "i4"),  # of instances, each with its tables of waits
        ("alike", "?"),  # whether they get the same all the same
        ("notice_times", "i4"),  # how often sessions are told that their instance leaves
        ("notice_every", "f8"),
        ("heed", "f8"),
        ("moves", "f8"),  # chance that one who heeds it is gone within a step
        ("come_back", "f8"),
        ("spot", "?"),  # whether some are bought on the market
        ("market_ticks", "i8"),
        ("first_on_demand", "i4"),
        ("share_on_demand", "f8"),
        ("cap_chance", "f8"),  # of a reclaim within a step of the market
        ("choice", "i1"),
        ("posts", "?"),  # whether numbers of names are used again
        ("keeps", "?"),  # whether one in the place of another has its name, zone and disk
        ("attach", "f8"),  # s that a disk takes
        ("disks_stay", "?"),  # whether that of one that is not wanted any more stays
        ("ordered", "?"),  # whether what the market does not have stays asked for
        ("settled_order", "?"),  # whether who leaves next stays the same while nothing happens
        ("weighed", "?"),  # whether counts are of something else than instances
        ("wait", "f8"),  # s that a launch waits for spot
        ("look_again", "f8"),
        ("swap_ticks", "i8"),  # between two looks for a swap; 0 for none
        ("swap_saves", "f8"),  # share of the price that one saves at the least
        ("swap_chance", "f8"),  # of a reclaim within a step of the market, at the most
        ("swap_at_once", "i4"),
        ("swap_pinned", "?"),
        ("guest", "i4"),  # number of a guest among those of its host, or NOBODY
        ("put", "i1"),
        ("place_vcpus", "f8"),  # that a copy of a guest takes
        ("place_memory", "f8"),  # GiB
        ("watched", "i4"),  # the instance whose course is noted, or NOBODY
    ],
    align=True,
)


# A kind of machine: one type after the other, each on demand and, in groups that buy on the market, as spot; of each version of
# the template that is told apart, one after the other
KIND = np.dtype(
    [
        ("vcpus", "i4"),
        ("capacity", "f8"),  # of one instance: requests or jobs, 1/s; sessions: seats
        ("service_rate", "f8"),  # of one vCPU, 1/s
        ("boot", "f8"),
        ("boot_spread", "f8"),
        ("start", "f8"),
        ("warm_up", "f8"),  # with the health checks that must pass first
        ("price", "f8"),  # of a running instance, per second, with its disk and address
        ("idle_memory", "f8"),  # share of its memory
        ("memory_each", "f8"),
        ("job_time", "f8"),  # s
        ("concurrency", "i4"),
        ("line", "i4"),  # its first row among the tables of waits
        ("cap_units", "f8"),  # of the market, an hour
        ("notice", "f8"),  # s, of a reclaim
        ("quota", "i4"),  # of its own, for this group
        ("weight", "i4"),  # of what the group counts in, what one instance is
        ("version", "i8"),
        ("pool", "i4"),  # the first type on the same machine, whose quota it draws on
        ("draw", "f8"),  # what it is given of requests beside others
        ("cpu", "f8"),  # how many times the CPU that its work is said to take
        ("failing", "f8"),  # share of what is given to it that fails of its own
        ("price_machine", "f8"),  # of that, what is paid for at least so long or by the hour
        ("price_stopped", "f8"),
        ("price_detached", "f8"),
        ("hourly", "?"),
        ("least_micros", "i8"),
        ("baseline", "f8"),  # share of its CPU that it gives for good: 1 for all
        ("room_vcpus", "f8"),  # of a host, for copies
        ("room_memory", "f8"),  # GiB
        ("first_credits", "f8"),  # s of one vCPU
        ("most_credits", "f8"),
    ],
    align=True,
)
_FIXED, _KIND = frozenset(FIXED.names or ()), frozenset(KIND.names or ())


class Setup(NamedTuple):
    """The fixed numbers in one row, and the arrays beside them."""

    fixed: Annotated[np.ndarray, One(FIXED)]
    kinds: Annotated[np.ndarray, Many(KIND)]  # shape (kinds,)
    means: Floats  # expected to arrive in each tick, shape (ticks,)
    arrivals: Floats  # arrived in each tick, shape (ticks,)
    line: Line
    extras: Floats  # s: the delays that slow dependencies bring, 0 the first
    stages: Floats  # chance that a held job passes each of its stages within a tick
    rules: Rules
    orders: Annotated[np.ndarray, Many(ORDER)]  # shape (evaluations,)
    quota: Ints  # instances, shape (evaluations,), or of one that holds throughout
    incidents: Annotated[np.ndarray, Many(INCIDENT)]
    hands: Annotated[np.ndarray, Many(HAND)]  # in the order of time
    outside: SingleGrid  # shape (series, samples)
    weights: Floats  # of an instance, by the version of its template, shape (versions + 1,)
    market: Market
    clients: FloatGrid  # that wait for their answers, by what they have in common and tick, shape (kinds, ticks)
    thinks: Floats  # s: for which those think before they ask again, shape (kinds,)

    @property
    def tick(self) -> float:
        return float(self.fixed.view(np.ndarray)["tick"][0])

    @property
    def ticks(self) -> int:
        return int(self.fixed.view(np.ndarray)["ticks"][0])

    @property
    def rate(self) -> Floats:
        """Arrivals expected per second in each tick."""
        return np.asarray(self.means / self.tick)

    @property
    def offered(self) -> Floats:
        """The same, with what clients who wait for their answers would ask if nothing ever waited."""
        fixed = self.fixed[0]
        answer = float(fixed.base_latency) + 1.0 / float(self.kinds[0].service_rate) if len(self.thinks) else 0.0
        return np.asarray(self.rate + (self.clients / (self.thinks[:, None] + answer)).sum(axis=0))

    @property
    def versions(self) -> list[int]:
        """Those that are told apart, in their order."""
        return [int(version) for version in self.kinds.view(np.ndarray)["version"][:: 2 * int(self.of("types"))]]

    @property
    def numbers(self) -> dict[str, Any]:
        """The fixed numbers by their names, as plain Python."""
        return dict(zip(FIXED.names or (), self.fixed.view(np.ndarray)[0].item(), strict=True))

    def of(self, name: str) -> Any:
        """One of the fixed numbers, of the first kind of machine, or of the rules, as plain Python."""
        return self._holder(name).view(np.ndarray)[name][0].item()

    def _holder(self, name: str) -> np.ndarray:
        return self.fixed if name in _FIXED else self.kinds if name in _KIND else self.rules.row

    def of_type(self, number: int) -> "Setup":
        """The same setup with one of its types of machines alone."""
        if len(self.kinds) <= 2:
            return self.changed(weight=1, weighed=False) if self.of("weighed") else self
        kinds = self.kinds[2 * number : 2 * number + 2].copy()
        fixed, line, market = self.fixed.copy(), self.line, self.market
        if self.of("mixed"):
            rows, first = len(line.tables) // max(1, int(self.of("shapes"))), int(kinds["line"][0])
            own = slice(first, first + rows)
            line = line._replace(tables=line.tables[own].copy(), tails=line.tails[own].copy())
        kinds["line"], kinds["weight"], kinds["failing"], kinds["pool"] = 0, 1, 0.0, 0
        fixed["mixed"], fixed["weighed"], fixed["types"], fixed["builds"] = False, False, 1, 1
        one = slice(number, number + 1)
        return self._replace(
            fixed=fixed.view(np.recarray),
            kinds=kinds.view(np.recarray),
            line=line,
            rules=self.rules._replace(rollouts=self.rules.rollouts[:0]),
            market=Market(market.units[one].copy(), market.chances[one].copy(), market.offered[one].copy()),
        )

    def changed(self, **numbers: Any) -> "Setup":
        """The same setup with some of the fixed numbers, those of every kind of machine, and the rules replaced."""
        copied = self._replace(
            fixed=copied_rows(self.fixed),
            kinds=copied_rows(self.kinds),
            rules=self.rules._replace(row=copied_rows(self.rules.row)),
        )
        for name, value in numbers.items():
            copied._holder(name)[name] = value
        return copied
