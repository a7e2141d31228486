"""The desk where an operator works on one group: takes, changes to them, and the rehearsals that follow."""

import json
import time
from dataclasses import dataclass
from threading import Lock
from typing import Annotated, Any

import numpy as np
from fastapi import Depends, Request
from numpy.typing import NDArray

from jostle.api.bounded import Ordinal
from jostle.core.change.change import Change
from jostle.core.change.group_change import changed_group
from jostle.core.journal.change import NO_CHANGE, say_change
from jostle.core.journal.sentence import Page, group_page
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import Rehearsal, crew_of
from jostle.core.rehearsal.rehearser import Rehearser, brisk
from jostle.core.rehearsal.shelf import Shelf
from jostle.core.rehearsal.verdict import Figures, Verdict, verdict
from jostle.records.store import KeptPlan, NotKept, Store, Take

PLAYED_BYTES = 11 * 2**20
PAGES_KEPT, CURVES_KEPT, FIGURES_KEPT = 128, 512, 512
Curves = tuple[Verdict, dict[str, tuple[NDArray[np.float64], NDArray[np.float64]]]]


@dataclass(frozen=True)
class Played:
    """A rehearsal, judged, with how long the engine took (ms; nothing where it was still at hand)."""

    rehearsal: Rehearsal
    verdict: Verdict
    page: Page
    engine_ms: float


class Desk:
    """Rehearses on demand and keeps the last at hand, bounded in bytes; keeps takes in the records."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.rehearser = Rehearser()
        self._played: Shelf[Played] = Shelf(PLAYED_BYTES, lambda one: one.rehearsal.result.nbytes)
        self._pages: Shelf[Page] = Shelf(PAGES_KEPT)
        self._figures: Shelf[Figures] = Shelf(FIGURES_KEPT)
        self.curves: Shelf[Curves] = Shelf(CURVES_KEPT)
        self._first_take = Lock()

    def play(self, kept: KeptPlan, group: str, document: dict[str, Any], seed: int, by_zone: bool = False) -> Played:
        """Rehearse a group as the document has it, with meters by zone if so asked. Raises PlanError."""
        key = json.dumps([kept.id, kept.revision, group, document, seed, by_zone], sort_keys=True)
        return self._played.get(key, lambda: self.look(with_group(kept.plan, group, document), group, seed, by_zone))

    def look(self, plan: Plan, group: str, seed: int, by_zone: bool = False) -> Played:
        """Rehearse a group of a plan that need not be kept."""
        began, plan = time.perf_counter(), brisk(plan)
        rehearsal = self.rehearser.rehearse(plan, group, seed, by_zone)
        judged = verdict(rehearsal, whole=False)
        spent = (time.perf_counter() - began) * 1000
        return Played(rehearsal, judged, group_page(rehearsal.crew, plan.currency), spent)

    def take(self, kept: KeptPlan, group: str, number: int | None) -> Take:
        """A take by number, or the newest; the first is made from the newest arrangement when there is none yet."""
        return self.take_and_star(kept, group, number)[0]

    def take_and_star(self, kept: KeptPlan, group: str, number: int | None) -> tuple[Take, Take | None]:
        """The same, and the starred take."""
        take, star = self.store.take_and_star(kept.id, group, number)
        if take is not None and group in kept.plan.groups:
            return take, star
        crew_of(kept.plan, group)
        with self._first_take:
            if self.store.newest_take(kept.id, group) is None:
                self.open_newest(kept, group)
        take, star = self.store.take_and_star(kept.id, group, number)
        if take is None:
            raise NotKept(f"{group} has no take {number}")
        return take, star

    def import_plan(self, kept: KeptPlan, plan: Plan, changed: list[str], note: str) -> None:
        """Put another plan in a plan's place, with a new arrangement of each changed group, opened as its newest take."""
        self.store.import_plan(kept, plan, changed, note)
        for name in changed:
            self.open_newest(self.store.plan(kept.id), name)

    def open_newest(self, kept: KeptPlan, group: str) -> Take:
        """A take of the newest arrangement, after the newest take; starred where it is the first."""
        newest = self.store.arrangements(kept.id, group)
        if not newest:
            raise NotKept(f"{group} has no arrangement")
        before = self.store.newest_take(kept.id, group)
        seed = before.seed if before else 1
        played = self.play(kept, group, newest[0].document, seed)
        return self.store.add_take(
            kept.id,
            group,
            arrangement=newest[0].number,
            came_from=before.number if before else None,
            document=newest[0].document,
            seed=seed,
            change=f"arrangement {newest[0].number}",
            figures=played.verdict.figures.model_dump(mode="json"),
            starred=before is None,
        )

    def changed(
        self, kept: KeptPlan, group: str, take: Take, changes: list[Change], seed: int | None, by_zone: bool = False
    ) -> tuple[Played, str | None]:
        """A take with changes applied, rehearsed, and what they are called; None where nothing differs. Raises PlanError."""
        document = changed_group(take.document, changes, kept.plan.start.astimezone(kept.plan.zone))
        seed = take.seed if seed is None else seed
        played = self.play(kept, group, document, seed, by_zone)
        name = say_change(self.page(kept, group, take), played.page) if changes else NO_CHANGE
        if seed != take.seed:
            return played, f"seed {seed}" if name == NO_CHANGE else f"{name}, seed {seed}"
        return played, None if name == NO_CHANGE else name

    def page(self, kept: KeptPlan, group: str, take: Take) -> Page:
        """A take as it is written."""
        key = (kept.id, kept.revision, group, take.number, take.created)
        return self._pages.get(
            key, lambda: group_page(crew_of(with_group(kept.plan, group, take.document), group), kept.plan.currency)
        )

    def beside(self, kept: KeptPlan, group: str, take: Take | None) -> tuple[int, Figures] | None:
        """The number of a take and its figures as the plan is now; None without one, or where the plan has no room for it any
        more."""
        if take is None:
            return None
        key = (kept.id, kept.revision, group, take.number, take.created)
        try:
            return take.number, self._figures.get(key, lambda: self.play(kept, group, take.document, take.seed).verdict.figures)
        except PlanError:
            return None

    def keep(self, kept: KeptPlan, group: str, take: Take, played: Played, change: str) -> Take:
        """Keep a changed take under the next number."""
        return self.store.add_take(
            kept.id,
            group,
            arrangement=take.arrangement,
            came_from=take.number,
            document=played.rehearsal.crew.group.model_dump(mode="json"),
            seed=played.rehearsal.seed,
            change=change,
            figures=played.verdict.figures.model_dump(mode="json"),
        )


def desk_of(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


def plan_of(plan_id: Ordinal, desk: Annotated[Desk, Depends(desk_of)]) -> KeptPlan:
    return desk.store.plan(plan_id)


DeskDep = Annotated[Desk, Depends(desk_of)]
PlanDep = Annotated[KeptPlan, Depends(plan_of)]
