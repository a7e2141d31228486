"""Who looks out over what lives, tells of it, and sends what was told on its way."""

import threading
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import structlog

from jostle.core.plan.plan import Plan
from jostle.core.today import epoch
from jostle.live.live import Live
from jostle.live.watching import Notice, notices
from jostle.records.store import Store
from jostle.records.watch_store import Delivery, Target, WatchStore
from jostle.telling.webhook import BACK_OFF, PATIENCE, deliver, written

# s on the clock of what lives, between looks
LOOK = 60.0
# s of ours: how long one that is being sent is nobody else's, and how long to rest where the records cannot be read
CLAIM, REST = 6 * PATIENCE, 5.0
# Targets that are sent to at once, one notice each, so that a slow one holds up none of the others
AT_ONCE = 8
log = structlog.get_logger()


class WatchDesk:
    """Looks for what is to be told, and has a thread of its own that sends it, while there is something to send."""

    def __init__(self, store: Store, private: bool = False) -> None:
        self.store = WatchStore(store)
        self.private = private
        self._told: dict[int, float] = {}
        self._lock = threading.Lock()
        self._sender: threading.Thread | None = None
        self._more = threading.Event()
        self._sending = ThreadPoolExecutor(AT_ONCE, thread_name_prefix="sender")
        # Targets that something is being sent to
        self._busy: set[int] = set()

    def look(self, plan_id: int, plan: Plan, live_id: int, live: Live) -> None:
        """Tell what came to be told since the last look, by the watches and budgets of a plan as it is now."""
        told = self._told.setdefault(live_id, self.store.told(live_id))
        if live.now - told < LOOK:
            return
        found = notices(live, plan.watches, plan.budgets, told)
        numbers = self.store.tell(plan_id, live_id, found, told, live.now)
        if numbers is None:
            del self._told[live_id]
            return
        self._told[live_id] = live.now
        for target in self.store.targets(plan_id) if numbers else ():
            for number, one in zip(numbers, found, strict=True):
                self._send(plan_id, target, f"{plan_id}-{number}", one)
        if numbers:
            self.wake()

    def try_target(self, plan_id: int, plan: Plan, target: Target) -> Delivery:
        """Send a notice that is a trial, now; what came of it."""
        trial = Notice(epoch(), epoch(), "", "trial", False, f"A trial: notices of {plan.name} come here.")
        self._send(plan_id, target, f"{plan_id}-trial-{uuid4().hex}", trial)
        delivery = next(one for one in self.store.deliveries(plan_id, 50) if one.target.id == target.id)
        if self.store.claim(delivery, epoch() + CLAIM):
            self._try(delivery, again=False)
        return next(one for one in self.store.deliveries(plan_id, 50) if one.id == delivery.id)

    def wake(self) -> None:
        """Have the sender look for what is due."""
        self._more.set()
        with self._lock:
            if self._sender is None or not self._sender.is_alive():
                self._sender = threading.Thread(target=self._run, daemon=True, name="sender")
                self._sender.start()

    def _send(self, plan_id: int, target: Target, number: str, one: Notice) -> None:
        kind = "over" if one.over else "trial" if one.kind == "trial" else "begun"
        data = {"text": one.text, "kind": one.kind, "group": one.group, "since": one.since, "over": one.over}
        body = written(number, f"/api/plans/{plan_id}/live", kind, one.group or "trial", one.at, data)
        self.store.send(target, number, one.text, body, epoch())

    def _run(self) -> None:
        while True:
            self._more.clear()
            try:
                busy = set(self._busy)
                delivery = self.store.next_due(busy) if len(busy) < AT_ONCE else None
                if delivery is None:
                    if not busy:
                        return
                    self._more.wait(REST)
                elif 0 < (wait := (delivery.due or 0.0) - epoch()) <= max(CLAIM, *BACK_OFF):
                    # Longer than ever is waited for a clock that was set back
                    self._more.wait(min(wait, 60.0))
                elif self.store.claim(delivery, epoch() + CLAIM):
                    self._busy.add(delivery.target.id)
                    self._sending.submit(self._try_again, delivery)
            except Exception as error:
                log.error("notices", said=str(error))
                self._more.wait(REST)

    def _try_again(self, delivery: Delivery) -> None:
        try:
            self._try(delivery, again=True)
        except Exception as error:
            log.error("notices", said=str(error))
        finally:
            self._busy.discard(delivery.target.id)
            self._more.set()

    def _try(self, delivery: Delivery, again: bool) -> None:
        outcome = deliver(delivery.target.url, delivery.target.secret, delivery.number, delivery.body, self.private)
        later = BACK_OFF[delivery.tries] if again and not outcome.done and delivery.tries < len(BACK_OFF) else None
        said = outcome.said if outcome.done or later is not None else f"{outcome.said}; given up"
        self.store.tried(delivery, outcome.done, said, None if later is None else epoch() + later)
