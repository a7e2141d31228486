"""Groups that are kept at a provider in another process, as they are kept: where, and what the keeper remembers."""

import json
from collections.abc import Iterator
from dataclasses import dataclass

import structlog

from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import PlanError
from jostle.live.afar import Answered
from jostle.records.store import NameTaken, NotKept, Store
from jostle.records.table import Damaged, ElsewhereRow

log = structlog.get_logger()


@dataclass(frozen=True)
class KeptElsewhere:
    """A group as it is kept; `plan` is what was put to work."""

    plan_id: int
    group: str
    url: str
    plan: Plan
    arrangement: int
    held: bool
    dry: bool
    answered: Answered | None


class ElsewhereStore:
    """The part of the records that is about what is kept elsewhere."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def all(self) -> Iterator[KeptElsewhere]:
        """What is kept elsewhere; what of it cannot be read is logged, and keeps nothing else from going on."""
        with self._store.reading():
            rows = list(ElsewhereRow.select().order_by(ElsewhereRow.plan, ElsewhereRow.group_name))
        for row in rows:
            try:
                yield _kept(row)
            except (Damaged, PlanError, ValueError) as error:
                log.error("elsewhere not kept on", group=row.group_name, said=str(error))

    def begin(self, plan_id: int, group: str, url: str, plan: Plan, arrangement: int) -> KeptElsewhere:
        """Keep that a group is kept at an address from now on. Raises NameTaken where it is kept elsewhere already."""
        with self._store.transaction():
            if ElsewhereRow.select().where(_is(plan_id, group)).exists():
                raise NameTaken(f"{group} is kept elsewhere already; let it go first")
            document = plan.model_dump_json()
            made = ElsewhereRow.create(plan=plan_id, group_name=group, url=url, document=document, arrangement=arrangement)
            return _kept(made)

    def answer(self, plan_id: int, group: str, answered: Answered) -> None:
        """Keep what a keeper remembered around an instant, before it is answered."""
        row = {"answered": answered.time, "before": answered.before, "after": answered.after}
        self._change(plan_id, group, row)

    def steer(self, plan_id: int, group: str, held: bool, dry: bool) -> None:
        self._change(plan_id, group, {"held": held, "dry": dry})

    def end(self, plan_id: int, group: str) -> None:
        with self._store.transaction():
            _found(ElsewhereRow.delete().where(_is(plan_id, group)).execute(), group)

    def _change(self, plan_id: int, group: str, row: dict[str, object]) -> None:
        with self._store.transaction():
            _found(ElsewhereRow.update(row).where(_is(plan_id, group)).execute(), group)


def _is(plan_id: int, group: str) -> object:
    return (ElsewhereRow.plan == plan_id) & (ElsewhereRow.group_name == group)


def _found(changed: int, group: str) -> None:
    if not changed:
        raise NotKept(f"{group} is not kept elsewhere")


def _kept(row: ElsewhereRow) -> KeptElsewhere:
    answered = None
    if row.answered is not None and row.before is not None and row.after is not None:
        answered = Answered(row.answered, bytes(row.before), bytes(row.after))
    plan = read_plan(json.loads(row.text("document")))
    return KeptElsewhere(row.plan.id, row.group_name, row.url, plan, row.arrangement, bool(row.held), bool(row.dry), answered)
