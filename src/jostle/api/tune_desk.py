"""Searches while the service runs: one thread for each, what they found kept in the records."""

import threading
from dataclasses import dataclass, field

import structlog
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import Desk
from jostle.api.signal import Signal
from jostle.core.plan.plan import Plan, with_group
from jostle.core.tuning.goal import Goal, Judged, Under
from jostle.core.tuning.search import Found, search
from jostle.core.tuning.space import Varied
from jostle.provider.provider import Refused
from jostle.records.search_store import KeptSearch, SearchStore

# Sets after which what was found so far is kept
KEPT_EVERY = 40
# Sets of one search
MOST_SETS = 2000
# Searches side by side: each keeps two processors busy
MOST_AT_ONCE = 2
log = structlog.get_logger()


class Asked(BaseModel):
    """What is searched: from which take, what may vary, under how many seeds, for how many sets."""

    take: Ordinal | None = None
    vary: list[Varied] | None = Field(default=None, max_length=20, description="What its policies have if left out")
    seeds: int = Field(default=3, ge=1, le=20)
    sets: int = Field(default=200, ge=2, le=MOST_SETS)
    margin: float = Field(default=0.1, ge=0, le=1)
    under: list[Under] = Field(default_factory=list, max_length=5, description="Demands; the take's own if left out")


class FoundKept(BaseModel):
    """What was found, as it is kept."""

    document: dict[str, object]
    take: int
    space: list[Varied]
    as_is: Judged | None = None
    sets: list[Judged] = Field(default_factory=list)
    chosen: Judged | None = None
    confirmed: Judged | None = None
    as_is_confirmed: Judged | None = None
    seconds: float = 0.0
    ended: bool = False


@dataclass
class Running:
    """A search under way, or that was."""

    asked: Asked
    found: FoundKept
    signal: Signal = field(default_factory=Signal)
    stop: bool = False
    trouble: str | None = None


def _as_kept(kept: KeptSearch) -> Running:
    """A search that no longer runs; one that a stop of the service cut short has ended too. One from before there were
    seeds that choose nothing does not say how it did under those that chose."""
    found = FoundKept.model_validate_json(kept.found)
    confirmed = found.confirmed if found.as_is_confirmed else None
    return Running(Asked.model_validate_json(kept.asked), found.model_copy(update={"ended": True, "confirmed": confirmed}))


def _goal(plan: Plan, group: str, asked: Asked, found: FoundKept) -> Goal:
    return Goal.over(with_group(plan, group, found.document), group, asked.seeds, asked.margin, asked.under)


class TuneDesk:
    """Owns the searches that run, one thread for each."""

    def __init__(self, desk: Desk) -> None:
        self.store = SearchStore(desk.store)
        self._known: dict[tuple[int, str, int], Running] = {}

    def of(self, plan_id: int, group: str, number: int) -> Running:
        """A search under way, or as it was kept."""
        known = self._known.get((plan_id, group, number))
        if known is not None:
            return known
        return _as_kept(self.store.one(plan_id, group, number))

    def all(self, plan_id: int, group: str) -> list[tuple[KeptSearch, FoundKept]]:
        """Searches of a group with what they found, newest first."""
        kept = self.store.all(plan_id, group)
        return [(one, (self._known.get((plan_id, group, one.number)) or _as_kept(one)).found) for one in kept]

    def _room(self) -> None:
        if len(self._known) >= MOST_AT_ONCE:
            under_way = ", ".join(f"search {number} of {name}" for _, name, number in self._known)
            raise Refused(f"{under_way} is under way; stop one first, or wait for it")

    def begin(self, plan: Plan, plan_id: int, group: str, asked: Asked, found: FoundKept) -> int:
        """Raises Refused where others are under way, PlanError where a demand is not there."""
        self._room()
        goal = _goal(plan, group, asked, found)
        number = self.store.add(plan_id, group, asked.model_dump_json(), found.model_dump_json())
        self._start(goal, plan_id, group, number, Running(asked, found))
        return number

    def go_on(self, plan: Plan, plan_id: int, group: str, number: int, sets: int) -> None:
        """Look at so many sets more. Raises Refused where it is under way, or would be too many; PlanError as `begin` does."""
        running = self.of(plan_id, group, number)
        if (plan_id, group, number) in self._known:
            raise Refused(f"search {number} is under way")
        self._room()
        most = len(running.found.sets) + sets
        if most > MOST_SETS:
            raise Refused(f"search {number} has looked at {len(running.found.sets)} sets; {MOST_SETS} are the most")
        asked = running.asked.model_copy(update={"sets": most})
        found = running.found.model_copy(update={"ended": False})
        goal = _goal(plan, group, asked, found)
        self.store.keep(plan_id, group, number, found.model_dump_json(), asked.model_dump_json())
        self._start(goal, plan_id, group, number, Running(asked, found))

    def _start(self, goal: Goal, plan_id: int, group: str, number: int, running: Running) -> None:
        self._known[plan_id, group, number] = running
        threading.Thread(target=self._run, args=(goal, plan_id, group, number, running), daemon=True, name="search").start()

    def _run(self, goal: Goal, plan_id: int, group: str, number: int, running: Running) -> None:
        def tell(found: Found) -> bool:
            running.found = running.found.model_copy(update={**vars(found), "sets": list(found.sets)})
            if found.ended or len(found.sets) % KEPT_EVERY == 0:
                self.store.keep(plan_id, group, number, running.found.model_dump_json())
            running.signal.tell()
            return not running.stop

        try:
            begun = running.found
            known = Found(begun.as_is, list(begun.sets), seconds=begun.seconds) if begun.as_is else None
            search(goal, begun.space, running.asked.sets, tell=tell, known=known)
        except Exception as error:
            running.trouble = f"the search stopped: {error}"
            running.found = running.found.model_copy(update={"ended": True})
            log.error("search", said=str(error))
        running.signal.tell()
        self._known.pop((plan_id, group, number), None)
