"""Groups kept at a provider in another process while the service runs: a thread for each, come to again after a stop."""

import math
import threading
from contextlib import closing
from dataclasses import dataclass, field
from functools import partial

import structlog
from peewee import DatabaseError

from jostle.api.desk import Desk
from jostle.api.signal import Signal
from jostle.core.plan.plan import with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.live.afar import Afar, Answered, BegunAnew
from jostle.live.patience import LetGo, Patience
from jostle.provider.client import HttpProvider
from jostle.provider.provider import AMISS, Refused, Unusable
from jostle.records.elsewhere_store import ElsewhereStore, KeptElsewhere
from jostle.records.store import KeptPlan, NotKept

# Groups at once; each has a thread of its own
MOST = 50
# s for the first answer from an address that was typed
FIRST_PATIENCE = 5.0
log = structlog.get_logger()


@dataclass
class Outpost:
    """A group kept elsewhere. `afar` is None as long as the provider was never reached, `trouble` says why it is kept no more."""

    kept: KeptElsewhere
    held: bool
    dry: bool
    # Whatever a provider answers, it is asked again, until a person lets the group go
    patience: Patience = field(default_factory=lambda: Patience(math.inf, bears=AMISS))
    provider: HttpProvider | None = None
    afar: Afar | None = None
    trouble: str | None = None

    def stop(self) -> None:
        """Keep it no longer, whatever is under way with its provider."""
        self.patience.over.set()
        if self.provider is not None:
            self.provider.close()


class ElsewhereDesk:
    """Owns what is kept elsewhere, by plan and group. `signal` tells of all that happens."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.store, self.signal = desk, ElsewhereStore(desk.store), Signal()
        self._known: dict[tuple[int, str], Outpost] = {}
        self._lock = threading.Lock()

    def come_back(self) -> None:
        """Go on with what was kept when the service stopped."""
        for kept in self.store.all():
            self._start(kept)

    def stop(self) -> None:
        """Keep nothing any longer, until it comes back."""
        for one in self._known.values():
            one.stop()

    def of(self, plan_id: int) -> list[Outpost]:
        return [one for (plan, _), one in sorted(self._known.items()) if plan == plan_id]

    def forget(self, plan_id: int) -> None:
        """Keep nothing of a plan any longer, which is taken out of the records."""
        with self._lock:
            for key in [key for key in self._known if key[0] == plan_id]:
                self._known.pop(key).stop()

    def required(self, plan_id: int, group: str) -> Outpost:
        found = self._known.get((plan_id, group))
        if found is None:
            raise NotKept(f"{group} is not kept elsewhere")
        return found

    def begin(self, plan: KeptPlan, group: str, url: str) -> None:
        """Keep a group as its newest arrangement has it, from now on. Raises PlanError where there is no provider at the address,
        Refused where it has no such group."""
        if len(self._known) >= MOST:
            raise Refused(f"{MOST} groups are kept elsewhere already; let one go first")
        if group not in plan.plan.groups:
            raise NotKept(f"there is no group {group}; there is: {', '.join(plan.plan.groups)}")
        newest = self.desk.store.arrangements(plan.id, group)[0]
        made = with_group(plan.plan, group, newest.document)
        try:
            with closing(HttpProvider(url, tries=1, patience=FIRST_PATIENCE)) as provider:
                Afar(made, group, provider)
        except (ConnectionError, Unusable) as error:
            raise PlanError([Problem(("url",), url, str(error))]) from None
        with self._lock:
            self._start(self.store.begin(plan.id, group, url, made, newest.number))

    def _start(self, kept: KeptElsewhere) -> None:
        one = Outpost(kept, kept.held, kept.dry)
        one.patience.lost = lambda said: self.signal.tell()
        self._known[kept.plan_id, kept.group] = one
        threading.Thread(target=self._keep, args=(one,), daemon=True, name="elsewhere").start()

    def _keep(self, one: Outpost) -> None:
        kept = one.kept

        def keep(answered: Answered) -> None:
            try:
                self.store.answer(kept.plan_id, kept.group, answered)
            except (DatabaseError, OSError) as error:
                raise ConnectionError(f"what its keeper remembers cannot be kept: {error}") from None
            self.signal.tell()

        remembered, said = kept.answered, ""
        try:
            with closing(HttpProvider(kept.url)) as there:
                one.provider = there
                while True:
                    begin = partial(Afar, kept.plan, kept.group, there, remembered, one.patience, keep)
                    one.afar = one.patience.again(begin)
                    if said:
                        one.afar.lines.append((one.afar.seen, f"{said}; it is kept on from what is there"))
                    self._apply(one)
                    try:
                        one.afar.keep_on()
                    except BegunAnew as error:
                        remembered, said = None, str(error)
        except LetGo:
            pass
        except (PlanError, NotKept) as error:
            one.trouble = str(error)
        except Exception as error:
            one.trouble = f"the keeper stopped: {error}"
            log.exception("elsewhere", group=kept.group)
        self.signal.tell()

    def _apply(self, one: Outpost) -> None:
        if one.afar is not None:
            one.afar.keeper.held, one.afar.keeper.dry = one.held, one.dry

    def steer(self, plan_id: int, group: str, held: bool | None, dry: bool | None) -> None:
        """Hold the group, or have the keeper only say what it would do, from the next instant on."""
        one = self.required(plan_id, group)
        held, dry = one.held if held is None else held, one.dry if dry is None else dry
        self.store.steer(plan_id, group, held, dry)
        one.held, one.dry = held, dry
        self._apply(one)
        self.signal.tell()

    def let_go(self, plan_id: int, group: str) -> None:
        """Keep it no more; its instances stay as they are."""
        one = self.required(plan_id, group)
        with self._lock:
            self.store.end(plan_id, group)
            self._known.pop((plan_id, group), None)
        one.stop()
        self.signal.tell()

    def again(self, plan_id: int, group: str) -> None:
        """Keep on where the keeper had stopped."""
        one = self.required(plan_id, group)
        if one.trouble is None:
            raise Refused(f"{group} is kept")
        with self._lock:
            kept = next(known for known in self.store.all() if (known.plan_id, known.group) == (plan_id, group))
            self._start(kept)
