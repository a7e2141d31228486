"""Plans as they stand in the records, whether or not they can be read."""

from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError
from jostle.records.store import NameTaken, NotKept, Store, add_arrangement, next_arrangement, written
from jostle.records.table import Damaged, PlanRow


class StoredPlans:
    """The part of the records that is about plans of which nothing is known but their number."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def text(self, plan_id: int) -> str:
        """A plan's document as it was last written. Raises NotKept."""
        with self._store.reading():
            row = PlanRow.get_or_none(PlanRow.id == plan_id)
            if row is None:
                raise NotKept(f"there is no plan {plan_id}")
            return str(row.document)

    def is_sound(self, plan_id: int) -> bool:
        """Whether a plan can be read. Raises NotKept."""
        try:
            self._store.plan(plan_id)
        except (Damaged, PlanError):
            return False
        return True

    def mend(self, plan_id: int, plan: Plan) -> None:
        """Put a plan in the place of one that cannot be read, with an arrangement of each of its groups.

        Raises NotKept, and NameTaken where it can be read.
        """
        with self._store.transaction():
            if self.is_sound(plan_id):
                raise NameTaken(f"plan {plan_id} can be read; take the file in as its next state, which says what that changes")
            changed = {"document": written(plan), "name": plan.name, "revision": PlanRow.revision + 1}
            PlanRow.update(changed).where(PlanRow.id == plan_id).execute()
            for name, group in plan.groups.items():
                number = next_arrangement(plan_id, name)
                add_arrangement(plan_id, name, number, group.model_dump(mode="json"), "mended as a file")

    def drop(self, plan_id: int) -> None:
        """Take a plan out with all that was ever kept of it. Raises NotKept."""
        asked = self._store.asked
        with self._store.transaction():
            self.text(plan_id)
            # What never changes goes all the same where the whole plan does
            kept = asked("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'")
            for name, _ in kept:
                asked(f"DROP TRIGGER {name}")
            self._drop("plan", "id = ?", plan_id)
            for _, trigger in kept:
                asked(trigger)

    def _drop(self, table: str, which: str, plan_id: int) -> None:
        """Take rows out, those first that are about them."""
        asked = self._store.asked
        for (other,) in asked("SELECT name FROM sqlite_master WHERE type = 'table'"):
            for key in asked(f"PRAGMA foreign_key_list({other})"):
                if key[2] == table:
                    self._drop(other, f"{key[3]} IN (SELECT {key[4]} FROM {table} WHERE {which})", plan_id)
        asked(f"DELETE FROM {table} WHERE {which}", plan_id)
