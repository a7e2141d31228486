"""The drawer in which everything kept lies: one SQLite file, each write one transaction."""

import json
import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager, nullcontext
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from peewee import DatabaseError, DoesNotExist, OperationalError, SqliteDatabase, fn
from peewee_migrate import Router

from jostle.core.plan.plan import Plan, read_plan, versions_lost, with_group
from jostle.core.rehearsal.shelf import Shelf
from jostle.core.today import stamp
from jostle.records.table import RECORDS, SEALED, ArrangementRow, Damaged, PlanRow, TakeRow, seal_of

MIGRATIONS = Path(__file__).parent / "migrations"
# How a file of SQLite begins; after it, how long its pages are
SQLITE = b"SQLite format 3\0"
# Text that is damaged is read too, to be told by its seal
AS_WRITTEN = partial(str, encoding="utf-8", errors="surrogateescape")
# Plans that are kept as they were read
PLANS_READ = 32
# The number of the records' form: how many migrations made it
VERSION = len(list(MIGRATIONS.glob("[0-9]*.py")))
# Asked for with each edit, and so not put together anew each time
_TAKE_AND_STAR = """
    SELECT * FROM take WHERE plan_id = ? AND group_name = ? AND (
        starred OR number = COALESCE(?, (SELECT MAX(number) FROM take WHERE plan_id = ? AND group_name = ?))
    )
"""


class NotKept(LookupError):
    """What was asked for is not in the records."""


class NameTaken(ValueError):
    """Something of this name is there already."""


@dataclass(frozen=True)
class KeptPlan:
    id: int
    revision: int
    plan: Plan


@dataclass(frozen=True)
class Arrangement:
    number: int
    document: dict[str, Any]
    note: str
    created: str


@dataclass(frozen=True)
class Take:
    """A rehearsal kept by number: its inputs and its figures. `came_from` is the take that was changed into it."""

    number: int
    arrangement: int
    came_from: int | None
    document: dict[str, Any]
    seed: int
    change: str
    figures: dict[str, Any]
    starred: bool
    created: str


class RecordsError(RuntimeError):
    """The records cannot be used; the message says why and what to do."""


class RecordsDamaged(RecordsError):
    """The file is not as it was written."""


class Records(SqliteDatabase):
    """A file of SQLite of which text that is damaged can be read, to be told by its seal."""

    def _connect(self) -> sqlite3.Connection:
        made: sqlite3.Connection = super()._connect()  # type: ignore[misc]
        made.text_factory = AS_WRITTEN
        return made


class Store:
    """The records in one file. Opening it brings its tables up to date. Raises RecordsError where that cannot be."""

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            self._open(path)
        except (DatabaseError, OSError) as error:
            raise as_records_error(path, error) from None

    def _open(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        if path.is_dir():
            raise RecordsError(f"{path} is a folder; move it away, or name another folder for the records with --data")
        _refuse_cut(path)
        self._database: Any = Records(
            str(path), pragmas={"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "synchronous": "normal"}
        )
        RECORDS.obj = self._database
        with self._database.connection_context():
            # Of what is written where, not of what it says
            self._refuse_damage(path, "quick_check")
            self._bring_up_to_date(path)
        self._plans: Shelf[KeptPlan] = Shelf(PLANS_READ)

    def _bring_up_to_date(self, path: Path) -> None:
        version = int(self._database.execute_sql("PRAGMA user_version").fetchone()[0])
        if version > VERSION:
            said = f"{path} was written by a newer Jostle (records {version}, this one knows {VERSION})"
            raise RecordsError(f"{said}; use that one, or another folder with --data")
        if Router(self._database, migrate_dir=str(MIGRATIONS)).run():
            self._seal()
        self._database.execute_sql(f"PRAGMA user_version = {VERSION}")

    def _refuse_damage(self, path: Path, check: str) -> None:
        found = self._database.execute_sql(f"PRAGMA {check}(1)").fetchone()[0]
        if found != "ok":
            raise RecordsDamaged(f"{path} is damaged ({found.splitlines()[0]})")

    def _seal(self) -> None:
        """Seal what was written before there were seals, or anew by a migration."""
        for table in SEALED:
            columns = ", ".join(f'"{name}"' for name in table.documents)
            name = table._meta.table_name
            rows = self._database.execute_sql(f'SELECT rowid, {columns} FROM "{name}" WHERE seal IS NULL').fetchall()
            for number, *documents in rows:
                self._database.execute_sql(f'UPDATE "{name}" SET seal = ? WHERE rowid = ?', (seal_of(documents), number))

    def damage(self) -> list[str]:
        """What is damaged, by name: all of the file and each document are looked at. Nothing where all is sound."""
        with self.reading():
            try:
                said = [row[0] for row in self.asked("PRAGMA integrity_check(10)")]
                found = [] if said == ["ok"] else [f"{self.path} is damaged ({line.splitlines()[0]})" for line in said]
                for table in SEALED:
                    for row in table.select().iterator():
                        try:
                            row.text(table.documents[0])
                        except Damaged as error:
                            found.append(str(error))
            except DatabaseError as error:
                return [str(as_records_error(self.path, error))]
        return found

    def reading(self) -> nullcontext[None]:
        """A connection of this thread's own, which stays open: to open one costs as much as what is read."""
        RECORDS.obj = self._database
        self._database.connect(reuse_if_open=True)
        return nullcontext()

    def asked(self, query: str, *given: Any) -> list[tuple[Any, ...]]:
        """The rows that a query gives, all at once: for many rows, of which none is an object of its own."""
        rows: list[tuple[Any, ...]] = self._database.execute_sql(query, given).fetchall()
        return rows

    def put_many(self, statement: str, rows: Iterable[tuple[Any, ...]]) -> None:
        """Do the same with each of many rows; within a transaction."""
        try:
            self._database.connection().executemany(statement, rows)
        except sqlite3.OperationalError as error:
            raise OperationalError(*error.args) from error

    def backup(self, to: Path, sound: bool = True) -> None:
        """Write a copy as the records are at this moment to a file, which is there once it was found `sound`, or at once. Raises
        RecordsError, OSError."""
        beside = to.with_name(f".{to.name}.part")
        with self.reading(), closing(sqlite3.connect(beside)) as copy:
            self._database.connection().backup(copy)
            if sound:
                check_records(copy, beside)
        beside.replace(to)

    def restore(self, source: Path) -> None:
        """Put a backup in the place of all that is kept, once it has been checked. Raises RecordsError."""
        check_file(source)
        with closing(read_only(source)) as copy, self.reading():
            copy.backup(self._database.connection())
            self._bring_up_to_date(source)
        self._plans = Shelf(PLANS_READ)

    @contextmanager
    def transaction(self) -> Iterator[None]:
        try:
            with self.reading(), self._database.atomic("IMMEDIATE"):
                yield
        except OperationalError as error:
            # A full disk ends the transaction by itself, and there is nothing left to be taken back.
            first: BaseException | None = error
            while first is not None and not (isinstance(first, DatabaseError) and is_full(first)):
                first = first.__context__
            if first is None:
                raise
            self._database.close()
            raise first from None

    def plans(self) -> list[tuple[int, str]]:
        """Number and name of each plan, newest first."""
        with self.reading():
            return [(row.id, row.name) for row in PlanRow.select(PlanRow.id, PlanRow.name).order_by(PlanRow.id.desc())]

    def plan(self, plan_id: int) -> KeptPlan:
        with self.reading():
            row = self._database.execute_sql("SELECT revision FROM plan WHERE id = ?", (plan_id,)).fetchone()
            if row is None:
                raise NotKept(f"there is no plan {plan_id}")

            def read() -> KeptPlan:
                full = PlanRow.get_by_id(plan_id)
                try:
                    document = json.loads(full.text("document"))
                except ValueError:
                    raise Damaged(f"{full} is damaged") from None
                return KeptPlan(plan_id, full.revision, read_plan(document))

            return self._plans.get((plan_id, row[0]), read)

    def add_plan(self, plan: Plan) -> int:
        """Keep a new plan, with arrangement 1 of each of its groups."""
        with self.transaction():
            row = PlanRow.create(name=plan.name, document=written(plan), created=stamp())
            for name, group in plan.groups.items():
                add_arrangement(row.id, name, 1, group.model_dump(mode="json"), "as imported")
            return int(row.id)

    def change_plan(self, kept: KeptPlan, plan: Plan, new_group: str | None = None, lost: str | None = None) -> KeptPlan:
        """Replace a plan's document, for additions to it; `lost` is a template that is taken out with all its versions. Returns
        the plan as it is kept now.

        Raises NameTaken where another change came first, or where a saved version of a template would change.
        """
        for name in versions_lost(kept.plan, plan):
            if name != lost:
                raise NameTaken(f"the saved versions of {name} never change; add a version")
        with self.transaction():
            self._replace(kept, plan)
            if new_group is not None:
                add_arrangement(kept.id, new_group, 1, plan.groups[new_group].model_dump(mode="json"), "new group")
        return KeptPlan(kept.id, kept.revision + 1, plan)

    def rename_group(self, kept: KeptPlan, plan: Plan, group: str, name: str) -> None:
        """Put a plan in which a group has another name in a plan's place; its arrangements and takes take the name too."""
        with self.transaction():
            self._replace(kept, plan)
            for table in (ArrangementRow, TakeRow):
                table.update(group_name=name).where((table.plan == kept.id) & (table.group_name == group)).execute()

    def _replace(self, kept: KeptPlan, plan: Plan) -> None:
        changed = (
            PlanRow.update(document=written(plan), name=plan.name, revision=kept.revision + 1)
            .where((PlanRow.id == kept.id) & (PlanRow.revision == kept.revision))
            .execute()
        )
        if not changed:
            raise NameTaken("the plan was changed by another at the same time; try again")

    def arrangements(self, plan_id: int, group: str) -> list[Arrangement]:
        """All saved ones, newest first."""
        with self.reading():
            rows = of_group(ArrangementRow, plan_id, group).order_by(ArrangementRow.number.desc())
            return [Arrangement(r.number, json.loads(r.text("document")), r.note, r.created) for r in rows]

    def arrangement(self, plan_id: int, group: str, number: int) -> Arrangement:
        found = next((one for one in self.arrangements(plan_id, group) if one.number == number), None)
        if found is None:
            raise NotKept(f"{group} has no arrangement {number}")
        return found

    def save_arrangement(
        self,
        plan_id: int,
        group: str,
        document: dict[str, Any],
        note: str,
        after: int | None = None,
        take: int | None = None,
    ) -> int:
        """Save a group as its next arrangement, in the plan as it is now; it runs so from then on. Returns its number, which
        `take`, the one that was saved, bears from then on.

        Raises NameTaken where an arrangement was saved after number `after`, PlanError where the plan has no room for it.
        """
        with self.transaction():
            newest = self.arrangements(plan_id, group)[0]
            if after is not None and newest.number != after:
                said = f"arrangement {newest.number} of {group} was saved in another window since ({newest.note})"
                raise NameTaken(f"{said}; look at it first, then save again")
            kept = self.plan(plan_id)
            self._replace(kept, with_group(kept.plan, group, document))
            add_arrangement(plan_id, group, newest.number + 1, document, note)
            if take is not None:
                TakeRow.update(arrangement=newest.number + 1).where(
                    (TakeRow.plan == plan_id) & (TakeRow.group_name == group) & (TakeRow.number == take)
                ).execute()
            return newest.number + 1

    def drop_plan(self, kept: KeptPlan) -> None:
        """Take a plan out in which nothing was ever kept. Raises NameTaken where something was."""
        with self.transaction():
            for table in (ArrangementRow, TakeRow):
                if table.select().where(table.plan == kept.id).exists():
                    raise NameTaken(f"{kept.plan.name} has groups or had them, and stays")
            PlanRow.delete().where((PlanRow.id == kept.id) & (PlanRow.revision == kept.revision)).execute()

    def retired(self, kept: KeptPlan) -> list[str]:
        """Groups that have arrangements and are no longer in a plan."""
        with self.reading():
            rows = ArrangementRow.select(ArrangementRow.group_name).where(ArrangementRow.plan == kept.id).distinct()
            return sorted(row.group_name for row in rows if row.group_name not in kept.plan.groups)

    def import_plan(self, kept: KeptPlan, plan: Plan, changed: list[str], note: str) -> None:
        """Put another plan in a plan's place, with a new arrangement of each changed group, and a note of why."""
        with self.transaction():
            self._replace(kept, plan)
            for name in changed:
                document = plan.groups[name].model_dump(mode="json")
                add_arrangement(kept.id, name, next_arrangement(kept.id, name), document, note)

    def takes(self, plan_id: int, group: str) -> list[Take]:
        """All takes of a group, oldest first."""
        with self.reading():
            return [_take(row) for row in of_group(TakeRow, plan_id, group).order_by(TakeRow.number)]

    def newest_take(self, plan_id: int, group: str) -> Take | None:
        with self.reading():
            row = of_group(TakeRow, plan_id, group).order_by(TakeRow.number.desc()).first()
            return None if row is None else _take(row)

    def take_and_star(self, plan_id: int, group: str, number: int | None) -> tuple[Take | None, Take | None]:
        """A take by its number, the newest if left out, and the starred one; None for what there is not."""
        with self.reading():
            found = [_take(row) for row in TakeRow.raw(_TAKE_AND_STAR, plan_id, group, number, plan_id, group)]
        starred = next((take for take in found if take.starred), None)
        chosen = [take for take in found if number in (None, take.number)]
        return max(chosen, key=lambda take: take.number, default=None), starred

    def take(self, plan_id: int, group: str, number: int) -> Take:
        with self.reading():
            try:
                return _take(of_group(TakeRow, plan_id, group).where(TakeRow.number == number).get())
            except DoesNotExist:
                raise NotKept(f"{group} has no take {number}") from None

    def add_take(
        self,
        plan_id: int,
        group: str,
        *,
        arrangement: int,
        came_from: int | None,
        document: dict[str, Any],
        seed: int,
        change: str,
        figures: dict[str, Any],
        starred: bool = False,
    ) -> Take:
        with self.transaction():
            number = 1 + (of_group(TakeRow, plan_id, group, fn.MAX(TakeRow.number)).scalar() or 0)
            row = TakeRow.create(
                plan=plan_id,
                group_name=group,
                number=number,
                arrangement=arrangement,
                from_number=came_from,
                document=json.dumps(document),
                seed=seed,
                change=change,
                figures=json.dumps(figures),
                starred=starred,
                created=stamp(),
            )
            return _take(row)

    def drop_take(self, plan_id: int, group: str, number: int) -> None:
        """Take a take out; those that were made from it were made from what it was made from. Raises NameTaken where it stays."""
        take = self.take(plan_id, group, number)
        if take.starred:
            raise NameTaken(f"take {number} is starred, the others are compared with it; take its star away first")
        newest = self.newest_take(plan_id, group)
        if newest is not None and newest.number == number:
            raise NameTaken(f"take {number} is the newest, the group opens with it; it stays")
        with self.transaction():
            of_group = (TakeRow.plan == plan_id) & (TakeRow.group_name == group)
            TakeRow.update(from_number=take.came_from).where(of_group & (TakeRow.from_number == number)).execute()
            TakeRow.delete().where(of_group & (TakeRow.number == number)).execute()

    def star(self, plan_id: int, group: str, number: int | None) -> None:
        """Star one take in place of whichever was starred, or none."""
        if number is not None:
            self.take(plan_id, group, number)
        with self.transaction():
            TakeRow.update(starred=(TakeRow.number == (number or 0))).where(
                (TakeRow.plan == plan_id) & (TakeRow.group_name == group)
            ).execute()


def _refuse_cut(path: Path) -> None:
    """Refuse a file that ends within a page, which SQLite would fill up with nothing."""
    if not path.exists():
        return
    with path.open("rb") as file:
        head, size = file.read(len(SQLITE)), int.from_bytes(file.read(2), "big")
    if head != SQLITE:
        return
    # As SQLite's file format has it: 1 stands for 65,536
    page = 65_536 if size == 1 else size
    if page and path.stat().st_size % page:
        raise RecordsDamaged(f"{path} is damaged (it was cut: it ends within a page)")


def as_records_error(path: Path, error: Exception) -> RecordsError:
    """What is wrong with a file of records, and what to do."""
    said = str(error)
    if "not a database" in said:
        return RecordsDamaged(f"{path} is no file of records; move it away, or restore a backup with jostle restore FILE")
    if "malformed" in said:
        return RecordsDamaged(f"{path} is damaged; restore a backup with jostle restore FILE")
    if "readonly" in said or "unable to open" in said or isinstance(error, PermissionError):
        return RecordsError(f"{path} cannot be written; give this user the right to, or name another folder with --data")
    return RecordsError(f"{path} cannot be used: {said}")


def is_full(error: DatabaseError) -> bool:
    """Whether a write failed for want of room."""
    return "full" in str(error) or "disk I/O" in str(error)


def read_only(file: Path) -> sqlite3.Connection:
    return sqlite3.connect(f"file:{file}?mode=ro", uri=True)


def check_file(file: Path) -> None:
    """Refuse what is no sound file of records. Raises RecordsError."""
    if not file.is_file():
        raise RecordsError(f"{file} is not a file")
    try:
        with closing(read_only(file)) as copy:
            check_records(copy, file)
    except sqlite3.DatabaseError as error:
        raise as_records_error(file, error) from None


def check_records(copy: sqlite3.Connection, path: Path) -> None:
    """Refuse a file that is damaged, that is none of ours, or that a newer Jostle wrote. Raises RecordsError."""
    found = copy.execute("PRAGMA integrity_check").fetchone()[0]
    if found != "ok":
        raise RecordsDamaged(f"{path} is damaged: {found.splitlines()[0]}")
    tables = {name for (name,) in copy.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if not {"plan", "arrangement", "take"} <= tables:
        raise RecordsError(f"{path} is no file of records")
    if copy.execute("PRAGMA user_version").fetchone()[0] > VERSION:
        raise RecordsError(f"{path} was written by a newer Jostle")
    copy.text_factory = AS_WRITTEN
    for table in SEALED:
        name, documents = table._meta.table_name, ", ".join(table.documents)
        if any(column == "seal" for _, column, *_ in copy.execute(f'PRAGMA table_info("{name}")')):
            for number, seal, *texts in copy.execute(f'SELECT rowid, seal, {documents} FROM "{name}" WHERE seal IS NOT NULL'):
                if seal != seal_of(texts):
                    raise RecordsDamaged(f"{path} is damaged: {name} number {number} is not as it was written")


def of_group(table: Any, plan_id: int, group: str, *fields: Any) -> Any:
    return table.select(*fields).where((table.plan == plan_id) & (table.group_name == group))


def next_arrangement(plan_id: int, group: str) -> int:
    return 1 + (of_group(ArrangementRow, plan_id, group, fn.MAX(ArrangementRow.number)).scalar() or 0)


def written(plan: Plan) -> str:
    """A plan's document. Raises PlanError where it could not be read again: a text may look like the use of a parameter."""
    text = plan.model_dump_json()
    if "${" in text:
        read_plan(json.loads(text))
    return text


def add_arrangement(plan_id: int, group: str, number: int, document: dict[str, Any], note: str) -> None:
    ArrangementRow.create(
        plan=plan_id, group_name=group, number=number, document=json.dumps(document), note=note, created=stamp()
    )


def _take(row: TakeRow) -> Take:
    return Take(
        number=row.number,
        arrangement=row.arrangement,
        came_from=row.from_number,
        document=json.loads(row.text("document")),
        seed=row.seed,
        change=row.change,
        figures=json.loads(row.figures),
        starred=bool(row.starred),
        created=row.created,
    )
