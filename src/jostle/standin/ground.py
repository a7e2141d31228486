"""One group on the stand-in: the engine's physics with a clock that goes on only when it is told to."""

import math
from collections.abc import Iterator
from copy import copy
from typing import TYPE_CHECKING, Any

import numpy as np

from jostle.core.built.play import act, bought, may_double, paid_left, step_at, type_of, units_doubled
from jostle.core.decide.code import NOBODY
from jostle.core.decide.row import SIDE_FIELDS
from jostle.core.engine.code import HandAct, Life, Order
from jostle.core.engine.compile import Crew
from jostle.core.engine.market import UNIT
from jostle.core.engine.mix import SPOT, are_spot
from jostle.core.engine.outset import new_state
from jostle.core.engine.record import copied, grown
from jostle.core.engine.result import Result, play
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNLIMITED, State
from jostle.core.journal.event import FAULT_WORDS
from jostle.core.plan.word import listed
from jostle.provider.provider import Counts, Instance, InstanceState, Leaves, NotThere, Readings, Refused, VersionCounts

if TYPE_CHECKING:
    from jostle.standin.shared_ground import SharedGround

_STATES: dict[int, InstanceState] = {
    Life.REQUESTED: "asked",
    Life.BOOTING: "booting",
    Life.WARMING: "warming",
    Life.SERVING: "serving",
    Life.DRAINING: "draining",
    Life.STOPPING: "stopping",
    Life.STOPPED: "stopped",
    Life.GONE: "gone",
    Life.BROKEN: "broken",
}
_THERE = (Life.REQUESTED, Life.BOOTING, Life.WARMING, Life.SERVING, Life.BROKEN)
_UP = (Life.BOOTING, Life.WARMING, Life.SERVING, Life.BROKEN)
HANDS = {
    "kill": HandAct.KILL,
    "pin": HandAct.PIN,
    "unpin": HandAct.PIN,
    "load": HandAct.STRESS,
    "restart": HandAct.RESTART,
    "drain": HandAct.DRAIN,
}
# What is done to an instance whose fault was found, and whether it is started again
MENDS = {"mend": True, "replace": False}
NO_ROOM = -2
# Orders whose keys are remembered
MOST_KEYS = 10_000


class Ground:
    """The instances of a group and the work that comes to them. Times are seconds from the group's beginning."""

    # What it is a part of, where it is that of a host or guest
    whole: "SharedGround | None" = None

    def __init__(self, setup: Setup, state: State | None = None) -> None:
        """With the state to go on from, if there is one."""
        self.state: State = new_state(setup) if state is None else state
        # That of a guest among those of its host
        self._number = int(setup.of("guest"))
        self.take(setup)
        self._done: dict[str, None] = {}
        self.silent = False
        self._heard = 0

    def twin(self) -> "Ground":
        """The same once more, to try something on."""
        other = copy(self)
        other.state, other._done = copied(self.state), dict(self._done)
        return other

    def take(self, setup: Setup) -> None:
        """Go on under another setup of the same work."""
        self.setup = setup if self._number == NOBODY else setup.changed(guest=self._number)
        self._kept, self._deciding = self.setup.changed(kept=True), self.setup.changed(kept=False)

    def given(self, decided: bool) -> Setup:
        """What the engine is given, which decides by itself or does not."""
        return self._deciding if decided else self._kept

    @property
    def time(self) -> float:
        return self._now("tick") * self.setup.tick

    @property
    def found(self) -> bool:
        """Whether a fault was found that the clock waits for somebody to see to."""
        return bool(self._now("found"))

    @property
    def ends(self) -> float:
        return self.setup.ticks * self.setup.tick

    def go_on(self, until: float, decided: bool = False) -> "Ground | None":
        """Let time pass, as far as the next evaluation or until a fault is found; returns itself where it waits for its keeper.
        `decided` has the engine decide by itself at each evaluation, and see to faults, as it does in a rehearsal."""
        goal, now, every = round(until / self.setup.tick), self._now("tick"), int(self.setup.of("evaluate_ticks"))
        if now >= goal:
            return None
        stop = goal if decided else min(goal, (now // every + 1) * every)
        self.state = play(self.given(decided), self.state, stop)
        return self if self.found or (not decided and stop % every == 0) else None

    def on_from_here(self, setup: Setup, untils: list[int]) -> Iterator[Result]:
        """What comes of its state under a setup, up to each of some ticks; it stays as it is itself."""
        state = copied(self.state)
        for until in untils:
            state = play(setup, state, until)
            yield Result(setup, state)

    def _now(self, field: str) -> int:
        return int(self.state.now.view(np.ndarray)[field][0])

    def _act(self, kind: int, i: int, number: int = 0, amount: float = 0.0, length: float = 0.0) -> int:
        # Plain numbers: each kind of enumeration would have the act compiled anew.
        told = int(kind), self.time, int(i), int(number), float(amount), float(length)
        while (done := act(self.setup, self.state, *told)) == NO_ROOM:
            self._make_room()
        return done

    def _make_room(self) -> None:
        self.state = grown(self.state)

    def _first_time(self, key: str) -> bool:
        if key in self._done:
            return False
        self._done[key] = None
        if len(self._done) > MOST_KEYS:
            del self._done[next(iter(self._done))]
        return True

    def known(self, key: str) -> bool:
        """Whether an order was done under this key; of very many the oldest are forgotten."""
        return key in self._done

    def recent_orders(self) -> list[str]:
        return list(self._done)

    def orders_known(self, keys: list[str]) -> None:
        """Take these as done."""
        self._done = dict.fromkeys(keys)

    def may_leave(self, number: int) -> None:
        """Raises Refused where an instance is not one of those that can leave, NotThere where there is none."""
        self._there(number, _THERE)

    def may(self, hand: str, number: int) -> None:
        """The same for what a hand does to one, or a keeper that mends it."""
        self._there(number, (Life.SERVING,) if hand == "load" else _THERE if hand in ("drain", "pin", "unpin", "kill") else _UP)
        if hand in MENDS and not self.state.instances.view(np.ndarray)["found"][number]:
            raise Refused(f"no fault of instance {number + 1} waits to be seen to")

    def counts(self) -> Counts:
        there = self._living()
        pinned = int((there["pinned"] & np.isin(there["state"], _THERE)).sum()) if self._now("pins") else 0
        quota = int(self.setup.quota[0]) if len(self.setup.quota) else UNLIMITED
        found = int(there["found"].sum())
        return Counts(
            self._now("present"),
            self._now("serving"),
            pinned,
            self._now("waiting"),
            quota,
            self._now("surplus") + (units_doubled(self.setup, self.state) if may_double(self.setup) else 0),
            found,
            self._versions(),
        )

    def _versions(self) -> tuple[VersionCounts, ...]:
        """What there is of each version, where several are told apart."""
        if len(self.state.sides) < 2:
            return ()
        there, found = self._living(), []
        for version, side in zip(self.setup.versions, self.state.sides.view(np.ndarray), strict=True):
            own = there[there["version"] == version]
            present, serving = int(np.isin(own["state"], _THERE).sum()), int((own["state"] == Life.SERVING).sum())
            found.append(VersionCounts(version, present, serving, *(float(side[field]) for field in SIDE_FIELDS)))
        return tuple(found)

    def may_launch(self, version: int | None) -> None:
        """Raises Refused where a version is none that the group may be launched of."""
        known = sorted(self.setup.versions)
        if version is not None and version not in known:
            raise Refused(f"version {version} is not known here; it has {listed([f'version {one}' for one in known])}")

    def instances(self) -> list[Instance]:
        numbers = self.state.alive[: self._now("living")].tolist()
        return [self._one(i, row) for i, row in zip(numbers, self._living(), strict=True) if row["state"] != Life.GONE]

    def _living(self) -> np.ndarray:
        return self.state.instances.view(np.ndarray)[self.state.alive[: self._now("living")]]

    def _one(self, number: int, row: Any) -> Instance:
        begin = float(self.state.spells.view(np.ndarray)["begin"][int(row["spell"])])
        return Instance(
            number=number,
            state=_STATES[int(row["state"])],
            zone=int(row["zone"]),
            version=int(row["version"]),
            overflow=bool(row["overflow"]),
            pinned=bool(row["pinned"]),
            sessions=int(row["sessions"]),
            requested=float(row["requested"]),
            booted=_finite(row["booted"]),
            serves=_finite(row["serves"]),
            drains=_finite(row["drains"]),
            paid_left=0.0 if row["state"] == Life.REQUESTED else float(paid_left(self.time, begin)),
            cpu=self._cpu(row),
            restarts=int(row["restarts"]),
            spot=bool(are_spot(row["kind"])),
            machine=int(row["kind"]) // 2,
            price=self._price(int(row["zone"]), int(row["kind"])),
            fault=FAULT_WORDS.get(int(row["fault"])) if row["state"] == Life.BROKEN else None,
            found=bool(row["found"]),
            stranded=bool(self.state.zones.view(np.ndarray)["lost"][int(row["zone"])] > 0),
            copies=self._copies_on(number),
            host=None if row["host"] == NOBODY else int(row["host"]),
        )

    def _copies_on(self, number: int) -> int:
        rooms = self.state.deck.rooms.view(np.ndarray)
        return int(rooms["copies"][number]) if self._number == NOBODY and number < len(rooms) else 0

    def _price(self, zone: int, kind: int) -> float:
        """What an hour of the machine of an instance costs now."""
        units = self.setup.market.units
        if bought(kind) != SPOT:
            return float(self.setup.kinds["price_machine"][kind]) * 3600
        return float(units[type_of(kind), zone, step_at(self.time, units.shape[2])]) / UNIT

    def _cpu(self, row: Any) -> float | None:
        """What its meter shows: the group's CPU, or its own where instances differ."""
        if row["state"] != Life.SERVING or self._now("tick") == 0:
            return None
        own = float(row["cpu"]) if self._now("uneven") and row["cpu"] > 0 else math.nan
        shown = own if own == own else float(self.state.series["cpu"][self._now("tick") - 1])
        return shown if shown == shown else None

    def share_of(self, number: int) -> float | None:
        """Share of the group's requests that an instance answered in the last tick; None where that is not told apart."""
        if self._now("serving") == 0 or self._now("tick") == 0:
            return None
        row, served = self.state.instances[number], float(self.state.series["served"][self._now("tick") - 1])
        if self.state.now["own_lines"][0] and served > 0:
            return float(row["answered"]) / served
        return 1 / self._now("serving")

    @property
    def heard(self) -> int:
        """How many readings its meters have given."""
        return self._heard if self.silent else self._now("samples")

    def readings(self, first: int) -> Readings:
        taken = self.heard
        sight = self.state.sight
        first = min(first, taken)
        if not self.silent:
            self._heard = taken
        return Readings(first, sight.samples[:, :, first:taken], sight.metered[first:taken])

    def more(self, key: str, number: int, by: int, version: int | None = None) -> None:
        if number < 0:
            raise Refused(f"{number} instances cannot be launched; write 0 or more")
        if self._first_time(key):
            self._act(Order.MORE, by, number, float(self.setup.of("version") if version is None else version))

    def fewer(self, key: str, leaving: list[Leaves], by: int) -> None:
        for one in leaving:
            self.may_leave(one.number)
        if self._first_time(key):
            for one in leaving:
                self._act(Order.LEAVE, one.number, one.why, float(by), float(one.to_stop))

    def seen_to(self) -> None:
        """What was found is seen to, or is to stay as it is: the clock goes on."""
        self.state.now["found"] = False

    def end_stopped(self) -> None:
        """End those that are stopped, or on their way to be."""
        for number, row in zip(self.state.alive[: self._now("living")].tolist(), self._living(), strict=True):
            if row["state"] in (Life.STOPPED, Life.STOPPING):
                self._act(Order.END, number)

    def handle(self, key: str, hand: str, number: int, amount: float = 0.0, length: float = 0.0) -> None:
        """What a hand does to one instance, or a keeper that mends it. Raises Refused where that cannot be."""
        if not self.known(key):
            self.may(hand, number)
        if not self._first_time(key):
            return
        if hand in MENDS:
            self._act(Order.MEND, number, int(MENDS[hand]))
        else:
            self._act(HANDS[hand], number, 0, -1.0 if hand == "unpin" else amount, length)

    def enter(self, decision: Any, views: Any) -> int:
        """Enter a decision, and what its policies saw, into the record; returns the policy that changed the count."""
        number = self._now("evaluations")
        self.state.decisions.view(np.ndarray)[number] = decision
        self.state.views.view(np.ndarray)[number] = views
        return self._act(Order.ENTER, NOBODY, number)

    def leave_alone(self, wanted: int) -> None:
        """An evaluation at which nobody decided: the row says what stood."""
        row = self.state.decisions[self._now("evaluations")]
        row.time, row.desired, row.decided, row.winner, row.entry = self.time, wanted, wanted, NOBODY, NOBODY
        row.rollout = NOBODY
        self.state.now["evaluations"] += 1

    def note_count(self, before: int, after: int) -> None:
        """Note that a hand changed the count."""
        self._act(Order.COUNT, before, after)

    def _there(self, number: int, states: tuple[Life, ...]) -> None:
        if not 0 <= number < self._now("launched"):
            raise NotThere(f"there is no instance {number + 1}")
        state = int(self.state.instances["state"][number])
        if state not in states:
            raise Refused(f"instance {number + 1} is {_STATES[state]}")


def address_of(zone: int, number: int) -> str:
    """The address of an instance on the stand-in."""
    return f"10.{20 + zone}.{(number >> 8) & 255}.{number & 255}"


def attachments_of(crew: Crew) -> list[str]:
    """What serving instances of a group are members of, or on whose allow list they stand."""
    group = crew.group
    return [*(["load balancer"] if group.load_balancer else []), *([group.database] if group.database else [])]


def _finite(value: Any) -> float | None:
    number = float(value)
    return number if math.isfinite(number) else None
