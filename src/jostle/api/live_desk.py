"""Plans that live while the service runs: their clocks, kept and come to again after a stop."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

import structlog

from jostle.api.desk import Desk
from jostle.api.signal import Signal
from jostle.api.watch_desk import WatchDesk
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.live import Begun, Done, Live
from jostle.records.ledger_store import LedgerStore
from jostle.records.live_store import LiveStore
from jostle.records.store import KeptPlan, NotKept

PACES = (1.0, 10.0, 60.0, 600.0, 3600.0)
# s of ours: between steps of a clock that runs, and between times that it is kept
STEP, KEEP = 0.25, 2.0
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
    trouble: str | None = None
    # What is likely to be spent, with what that was drawn from
    curve: tuple[Any, Any] | None = None


class LiveDesk:
    """Owns what lives, by plan, with a thread for each clock that runs."""

    def __init__(self, desk: Desk, watch: WatchDesk) -> None:
        self.desk, self.watch = desk, watch
        self.store, self.ledger = LiveStore(desk.store), LedgerStore(desk.store)
        # Lives are few and long: what they are made from is needed once, and is not worth the room that it takes.
        self.rehearser = Rehearser(most_bytes=0)
        self._known: dict[int, Running] = {}
        self._lock = threading.Lock()

    def of(self, plan_id: int) -> Running | None:
        """The plan as it lives, come to where it stood if the service was stopped since; None where it does not live."""
        with self._lock:
            if plan_id not in self._known:
                kept = self.store.of(plan_id)
                if kept is None:
                    return None
                live = Live.begin(kept.plan, kept.begun, self.rehearser)
                live.replay(kept.log, kept.clock)
                self._known[plan_id] = Running(kept.id, plan_id, live, kept.pace, False)
                self._catch_up(plan_id, live)
                if kept.running:
                    self._start(self._known[plan_id])
            return self._known[plan_id]

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
        with self._lock:
            live = Live.begin(plan, begun, self.rehearser)
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
        with self._lock, running.lock, self._entering(plan_id):
            self.ledger.enter(plan_id, running.live, over=True)
            self.store.end(plan_id)
            known = self._known.pop(plan_id, None)
        if known is not None:
            known.running = False
            known.signal.tell()

    def set_clock(self, running: Running, pace: float | None, run: bool | None) -> None:
        with running.lock:
            running.pace = running.pace if pace is None else pace
            was, running.running = running.running, running.running if run is None else run
            self._keep(running)
        if running.running and not was:
            self._start(running)
        running.signal.tell()

    def step(self, running: Running, until: float) -> None:
        """Live on to an instant, s since 1970."""
        with running.lock:
            running.live.go_on(until, quickly=True)
            self._keep(running)
            self._look(running)
        running.signal.tell()

    def lay(self, running: Running, group: str, hand: dict[str, Any]) -> Done:
        """Do what a hand does, and keep it before it is said to be done. Where it cannot be kept, it was not done."""
        with running.lock:
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

    def _run(self, running: Running) -> None:
        last = kept = time.monotonic()
        while running.running:
            time.sleep(STEP)
            now = time.monotonic()
            try:
                with running.lock:
                    if not running.running:
                        break
                    running.live.go_on(running.live.now + (now - last) * running.pace)
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
