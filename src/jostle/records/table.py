"""The tables, as peewee sees them. They are created and changed by the migrations only."""

from hashlib import blake2b
from threading import local
from typing import Any, ClassVar

from peewee import (
    AutoField,
    BlobField,
    BooleanField,
    CompositeKey,
    Database,
    DatabaseProxy,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
)


class _Records(DatabaseProxy):
    """The records that the tables are of, for each thread by itself: of two in one process, none is written into the other."""

    _of_thread = local()

    @property
    def obj(self) -> Database | None:
        return getattr(self._of_thread, "database", None)

    @obj.setter
    def obj(self, database: Database | None) -> None:
        self._of_thread.database = database


RECORDS = _Records()


class Table(Model):
    class Meta:
        database = RECORDS


class Damaged(Exception):
    """What is kept is not what was written; the message names it."""


class Sealed(Table):
    """Rows whose documents have a sum beside them, written with them and looked at whenever they are read."""

    documents: ClassVar[tuple[str, ...]] = ("document",)
    seal = TextField(null=True)

    @classmethod
    def insert(cls, data: Any = None, **given: Any) -> Any:
        return super().insert(cls._with_seal(data, given))

    @classmethod
    def update(cls, data: Any = None, **given: Any) -> Any:
        return super().update(cls._with_seal(data, given))

    @classmethod
    def _with_seal(cls, data: Any, given: dict[str, Any]) -> dict[Any, Any]:
        row = {getattr(field, "name", field): value for field, value in {**(data or {}), **given}.items()}
        if cls.documents[0] in row:
            row["seal"] = seal_of([row[name] for name in cls.documents])
        return row

    def text(self, document: str) -> str:
        """One of its documents. Raises Damaged."""
        if self.seal is not None and self.seal != seal_of([getattr(self, name) for name in self.documents]):
            raise Damaged(f"{self} is damaged")
        return str(getattr(self, document))


def seal_of(documents: list[str]) -> str:
    return blake2b("\x1f".join(documents).encode(errors="surrogatepass"), digest_size=8).hexdigest()


class PlanRow(Sealed):
    id = AutoField()
    name = TextField()
    document = TextField()
    revision = IntegerField(default=1)
    created = TextField()

    def __str__(self) -> str:
        return f"plan {self.id}, {self.name},"

    class Meta:
        table_name = "plan"


class ArrangementRow(Sealed):
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    document = TextField()
    note = TextField(default="")
    created = TextField()

    def __str__(self) -> str:
        return f"arrangement {self.number} of {self.group_name} of plan {self.__data__['plan']}"

    class Meta:
        table_name = "arrangement"


class TakeRow(Sealed):
    documents = ("document", "figures")
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    arrangement = IntegerField()
    from_number = IntegerField(null=True, column_name="from")
    document = TextField()
    seed = IntegerField()
    change = TextField()
    figures = TextField()
    starred = BooleanField(default=False)
    created = TextField()

    def __str__(self) -> str:
        return f"take {self.number} of {self.group_name} of plan {self.__data__['plan']}"

    class Meta:
        table_name = "take"


class LiveRow(Sealed):
    """A plan that lives: the plan as it began, and where its clock stood when that was last kept (s since 1970)."""

    documents = ("document", "begun")
    id = AutoField()
    plan = ForeignKeyField(PlanRow, unique=True)
    document = TextField()
    begun = TextField()
    clock = FloatField()
    pace = FloatField()
    running = BooleanField(default=False)
    told = FloatField(default=0.0)

    def __str__(self) -> str:
        return f"what lives of plan {self.__data__['plan']}"

    class Meta:
        table_name = "live"


class LiveActRow(Sealed):
    documents = ("done",)
    id = AutoField()
    live = ForeignKeyField(LiveRow)
    done = TextField()

    def __str__(self) -> str:
        return f"act {self.id} of a hand on what lives"

    class Meta:
        table_name = "live_act"


class SearchRow(Sealed):
    documents = ("found",)
    id = AutoField()
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    asked = TextField()
    found = TextField()
    created = TextField()

    def __str__(self) -> str:
        return f"search {self.number} of {self.group_name} of plan {self.__data__['plan']}"

    class Meta:
        table_name = "search"


class NoticeRow(Table):
    """Something told of a plan that lives; times are s since 1970 on its clock."""

    id = AutoField()
    plan = ForeignKeyField(PlanRow)
    at = FloatField()
    since = FloatField()
    group_name = TextField()
    kind = TextField()
    over = BooleanField()
    text = TextField()

    class Meta:
        table_name = "notice"


class TargetRow(Table):
    """Where a plan's notices are sent."""

    id = AutoField()
    plan = ForeignKeyField(PlanRow)
    url = TextField()
    secret = TextField()

    class Meta:
        table_name = "target"


class DeliveryRow(Table):
    """A notice on its way to a target; `due` is when it is sent next, s since 1970 by our clock, null once it is done or given
    up."""

    id = AutoField()
    target = ForeignKeyField(TargetRow, on_delete="CASCADE")
    number = TextField()
    text = TextField()
    body = TextField()
    tries = IntegerField(default=0)
    due = FloatField(null=True)
    done = BooleanField(default=False)
    said = TextField(default="")

    class Meta:
        table_name = "delivery"


class PastHourRow(Table):
    """An hour of a group that was paid for before it lived here; `begin` is s since 1970."""

    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    begin = IntegerField()
    instances = FloatField()
    billionths = IntegerField()

    class Meta:
        table_name = "past_hour"
        primary_key = CompositeKey("plan", "group_name", "begin")


class ElsewhereRow(Sealed):
    """A group that is kept at a provider in another process; see `live.afar.Answered`."""

    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    url = TextField()
    document = TextField()
    arrangement = IntegerField()
    held = BooleanField(default=False)
    dry = BooleanField(default=False)
    answered = FloatField(null=True)
    before = BlobField(null=True)
    after = BlobField(null=True)

    def __str__(self) -> str:
        return f"{self.group_name} of plan {self.__data__['plan']}, which is kept elsewhere,"

    class Meta:
        table_name = "elsewhere"
        primary_key = CompositeKey("plan", "group_name")


SEALED: tuple[type[Sealed], ...] = (PlanRow, ArrangementRow, TakeRow, LiveRow, LiveActRow, SearchRow, ElsewhereRow)
