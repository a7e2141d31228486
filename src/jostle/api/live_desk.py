"""Plans that live while the service runs: their clocks, kept and come to again after a stop."""

import threading
import time
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

import structlog

from jostle.api.desk import Desk
from jostle.api.journal_tail import JournalTail
from jostle.api.signal import Signal
from jostle.api.watch_desk import WatchDesk
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.live import Begun, Done, Live
from jostle.provider.provider import Refused
from jostle.records.ledger_store import LedgerStore
from jostle.records.live_store import LiveStore
from jostle.records.store import KeptPlan, NotKept

PACES = (1.0, 10.0, 60.0, 600.0, 3600.0)
# s of ours: between steps of a clock that runs, and between times that it is kept
STEP, KEEP = 0.25, 2.0
# s of ours after which what nobody asks for may be let go of, and what all that lives may take of memory
MOMENT, MOST_BYTES = 60.0, 2**30
# s that are lived at once, and of those up to which the keeper decides rather than the engine, which comes to the same
SLICE, UNHURRIED = 900.0, 60.0
# s of ours for others between two slices
BREATH = 0.002
# The same dice would make a life that is its rehearsal to the last digit
SEED = 1707
log = structlog.get_logger()


@dataclass
class Running:
    """A plan that lives, with its clock's pace. What is lived goes on under `lock` only; `signal` tells of all that happens."""

    id: int
    plan_id: int
    live: Live
    pace: float
    running: bool
    lock: threading.RLock = field(default_factory=threading.RLock)
    signal: Signal = field(default_factory=Signal)
    tail: JournalTail = field(default_factory=JournalTail)
    trouble: str | None = None
    # What is likely to be spent, with what that was drawn from
    curve: tuple[Any, Any] | None = None
    # s of ours: when it was last asked for
    asked: float = field(default_factory=time.monotonic)
    # Whether it was let go of: whoever has it still may look at it, and not have it go on
    resting: bool = False

    @property
    def idle(self) -> bool:
        """Whether its clock stands, and nobody looks at it or did a moment ago."""
        return not self.running and not self.signal.heard and time.monotonic() - self.asked > MOMENT


class LiveDesk:
    """Owns what lives, by plan, with a thread for each clock that runs."""

    def __init__(self, desk: Desk, watch: WatchDesk) -> None:
        self.desk, self.watch = desk, watch
        self.store, self.ledger = LiveStore(desk.store), LedgerStore(desk.store)
        # Lives are few and long: what they are made from is needed once, and is not worth the room that it takes.
        self.rehearser = Rehearser(most_bytes=0)
        self._known: dict[int, Running] = {}
        self._lock = threading.Lock()
        # One for each plan that begins to live, comes to where it stood, or ends
        self._comings: defaultdict[int, threading.Lock] = defaultdict(threading.Lock)

    def of(self, plan_id: int) -> Running | None:
        """The plan as it lives, come to where it stood if the service was stopped since; None where it does not live."""
        with self._lock:
            known, coming = self._known.get(plan_id), self._comings[plan_id]
        if known is not None:
            known.asked = time.monotonic()
            return known
        with coming:
            if plan_id not in self._known:
                kept = self.store.of(plan_id)
                if kept is None:
                    return None
                live = Live.begin(kept.plan, kept.begun, self.rehearser)
                self._make_room(live)
                live.replay(kept.log, kept.clock)
                self._catch_up(plan_id, live)
                self._known[plan_id] = Running(kept.id, plan_id, live, kept.pace, False)
                if kept.running:
                    self._start(self._known[plan_id])
            return self._known[plan_id]

    def _make_room(self, coming: Live) -> None:
        """Let go of what lives and nobody looks at, the longest first, until there is room for another: it stands in the records,
        and comes to where it stood when it is asked for. Raises Refused where all is looked at, or its clock runs."""
        with self._lock:
            # Whatever comes to live meanwhile is seen to by itself
            known = list(self._known.values())
            held = {one.plan_id: one.live.nbytes for one in known}
            idle = sorted((one for one in known if one.idle), key=lambda one: one.asked)
            while self._known and sum(held.values()) + coming.nbytes > MOST_BYTES:
                if not idle:
                    said = (
                        f"{len(held)} plans live that are looked at or whose clocks run, in {sum(held.values()) // 2**20:,} MiB"
                    )
                    raise Refused(f"{said}; stop the clock of one and leave it for a minute, or end it")
                resting = idle.pop(0)
                resting.resting = True
                del self._known[resting.plan_id], held[resting.plan_id]

    def lives(self, plan_id: int, running: Running) -> bool:
        """Whether this is still what lives of a plan."""
        return self._known.get(plan_id) is running

    def required(self, plan_id: int) -> Running:
        found = self.of(plan_id)
        if found is None:
            raise NotKept("this plan does not live; begin it first")
        return found

    def begin(self, kept: KeptPlan, begun: Begun, until: float | None) -> Running:
        """Have a plan live, each group as its newest arrangement has it, and come to `until` (s since 1970) at once."""
        plan, numbers = kept.plan, dict[str, int]()
        for name in plan.groups:
            newest = self.desk.store.arrangements(kept.id, name)[0]
            plan, numbers[name] = with_group(plan, name, newest.document), newest.number
        begun = begun.model_copy(update={"arrangements": numbers})
        with self._comings[kept.id]:
            live = Live.begin(plan, begun, self.rehearser)
            if kept.id not in self._known:
                self._make_room(live)
            if until is not None:
                live.go_on(until, quickly=True)
            with self._entering(kept.id):
                number = self.store.begin(kept.id, plan, begun, live.now, PACES[2])
                self.ledger.make_room(kept.id, live.first)
                self.ledger.enter(kept.id, live)
            running = self._known[kept.id] = Running(number, kept.id, live, PACES[2], False)
        self._look(running)
        return running

    def _look(self, running: Running) -> None:
        """Have what came to be so told."""
        plan = self.desk.store.plan(running.plan_id).plan
        self.watch.look(running.plan_id, plan, running.id, running.live)

    @contextmanager
    def _entering(self, plan_id: int) -> Iterator[None]:
        """One write, after which the ledger knows what is entered."""
        try:
            with self.desk.store.transaction():
                yield
        except BaseException:
            self.ledger.forget(plan_id)
            raise

    def _catch_up(self, plan_id: int, live: Live) -> None:
        """Enter what had ended when the service stopped and was not entered yet, and what comes out otherwise than it was."""
        with self._entering(plan_id):
            self.ledger.enter(plan_id, live, late=True)
            if corrected := self.ledger.correct(plan_id, live):
                log.warning("ledger", plan=plan_id, corrected=corrected)

    def _keep(self, running: Running) -> None:
        """Keep where the clock stands, and the hours that have ended."""
        with self._entering(running.plan_id):
            self.store.keep_clock(running.id, running.live.now, running.pace, running.running)
            self.ledger.enter(running.plan_id, running.live)

    def end(self, plan_id: int) -> None:
        running = self.required(plan_id)
        with self._comings[plan_id], running.lock, self._entering(plan_id):
            self.ledger.enter(plan_id, running.live, over=True)
            self.store.end(plan_id)
            known = self._known.pop(plan_id, None)
        if known is not None:
            known.running = False
            known.signal.tell()

    def forget(self, plan_id: int) -> None:
        """Have nothing of a plan live on, which is taken out of the records."""
        with self._comings[plan_id]:
            known = self._known.pop(plan_id, None)
        if known is not None:
            with known.lock:
                known.running = False
            known.signal.tell()

    @contextmanager
    def _going_on(self, running: Running) -> Iterator[None]:
        """Nobody else has what lives go on meanwhile. Raises Refused where it was let go of just now."""
        with running.lock:
            if running.resting:
                raise Refused("this plan was put to rest a moment ago; try again")
            yield

    def set_clock(self, running: Running, pace: float | None, run: bool | None) -> None:
        with self._going_on(running):
            running.pace = running.pace if pace is None else pace
            was, running.running = running.running, running.running if run is None else run
            self._keep(running)
        if running.running and not was:
            self._start(running)
        running.signal.tell()

    def step(self, running: Running, until: float) -> None:
        """Live on to an instant, s since 1970."""
        with self._going_on(running):
            running.live.go_on(until, quickly=True)
            self._keep(running)
            self._look(running)
        running.signal.tell()

    def lay(self, running: Running, group: str, hand: dict[str, Any]) -> Done:
        """Do what a hand does, and keep it before it is said to be done. Where it cannot be kept, it was not done."""
        with self._going_on(running):
            kept = running.live.log[:]
            done = running.live.lay(group, hand)
            try:
                self.store.act(running.id, done, running.live.now)
            except BaseException:
                now = running.live.now
                running.live = Live.begin(running.live.plan, running.live.begun, self.rehearser)
                running.live.replay(kept, now)
                raise
        running.signal.tell()
        return done

    @contextmanager
    def still(self, running: Running) -> Iterator[Live]:
        """What lives, while its clock stands still."""
        with running.lock:
            yield running.live

    def _start(self, running: Running) -> None:
        running.running = True
        threading.Thread(target=self._run, args=(running,), daemon=True, name="clock").start()

    def _live_on(self, running: Running, until: float) -> None:
        """Live on to an instant, s since 1970, in slices between which others have their turn."""
        while running.live.now < (stop := min(until, running.live.ends)):
            with running.lock:
                if not running.running:
                    return
                ahead = min(stop - running.live.now, SLICE)
                running.live.go_on(running.live.now + ahead, quickly=ahead > UNHURRIED)
            if running.live.now < stop:
                time.sleep(BREATH)

    def _run(self, running: Running) -> None:
        last = kept = time.monotonic()
        while running.running:
            time.sleep(STEP)
            now = time.monotonic()
            try:
                self._live_on(running, running.live.now + (now - last) * running.pace)
                with running.lock:
                    if not running.running:
                        break
                    ended = running.live.now >= running.live.ends
                    running.running = not ended
                    if ended or now - kept > KEEP:
                        self._keep(running)
                        kept = now
                    self._look(running)
                running.trouble = None
            except NotKept:
                break
            except Exception as error:
                # The clock goes on, and says why nothing was kept: a full disk is got over.
                running.trouble = f"the clock's time could not be kept: {error}"
                log.error("live", said=str(error))
                kept = now
            last = now
            running.signal.tell()
