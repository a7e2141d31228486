"""Plans that live, as they are kept: what is needed to come to where they stood."""

import json
from dataclasses import dataclass

from peewee import fn

from jostle.core.plan.plan import Plan, read_plan
from jostle.live.live import Begun, Done
from jostle.records.store import NameTaken, NotKept, Store
from jostle.records.table import ArrangementRow, LiveActRow, LiveRow, NoticeRow


@dataclass(frozen=True)
class KeptLive:
    """A plan that lives, with where its clock stood (s since 1970)."""

    id: int
    plan: Plan
    begun: Begun
    clock: float
    pace: float
    running: bool
    log: list[Done]


class LiveStore:
    """The part of the records that is about what lives."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def of(self, plan_id: int) -> KeptLive | None:
        with self._store.reading():
            row = LiveRow.select().where(LiveRow.plan == plan_id).first()
            if row is None:
                return None
            acts = LiveActRow.select().where(LiveActRow.live == row.id).order_by(LiveActRow.id)
            log = [Done.model_validate_json(one.text("done")) for one in acts]
            plan, begun = read_plan(json.loads(row.text("document"))), Begun.model_validate_json(row.begun)
            return KeptLive(row.id, plan, begun, row.clock, row.pace, bool(row.running), log)

    def newest(self, plan_id: int) -> dict[str, int]:
        """The number of each group's newest arrangement."""
        with self._store.reading():
            of_plan = ArrangementRow.select(ArrangementRow.group_name, fn.MAX(ArrangementRow.number).alias("number"))
            rows = of_plan.where(ArrangementRow.plan == plan_id).group_by(ArrangementRow.group_name)
            return {row.group_name: row.number for row in rows}

    def begin(self, plan_id: int, plan: Plan, begun: Begun, clock: float, pace: float) -> int:
        """Keep that a plan lives from now on. Raises NameTaken where it does already."""
        with self._store.transaction():
            if LiveRow.select().where(LiveRow.plan == plan_id).exists():
                raise NameTaken(f"{plan.name} lives already; end that first")
            row = LiveRow.create(
                plan=plan_id,
                document=plan.model_dump_json(),
                begun=begun.model_dump_json(),
                clock=clock,
                pace=pace,
                running=False,
            )
            return int(row.id)

    def act(self, live_id: int, done: Done, clock: float) -> None:
        """Keep what a hand did, and where the clock stood then."""
        with self._store.transaction():
            LiveActRow.create(live=live_id, done=done.model_dump_json())
            self._found(LiveRow.update(clock=clock).where(LiveRow.id == live_id).execute())

    def keep_clock(self, live_id: int, clock: float, pace: float, running: bool) -> None:
        with self._store.transaction():
            changed = LiveRow.update(clock=clock, pace=pace, running=running).where(LiveRow.id == live_id).execute()
            self._found(changed)

    def end(self, plan_id: int) -> None:
        with self._store.transaction():
            row = LiveRow.select().where(LiveRow.plan == plan_id).first()
            self._found(int(row is not None))
            LiveActRow.delete().where(LiveActRow.live == row.id).execute()
            NoticeRow.delete().where(NoticeRow.plan == plan_id).execute()
            row.delete_instance()

    def _found(self, changed: int) -> None:
        if not changed:
            raise NotKept("this plan does not live; begin it first")
