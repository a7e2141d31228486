"""The tables, as peewee sees them. They are created and changed by the migrations only."""

from threading import local

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


class PlanRow(Table):
    id = AutoField()
    name = TextField()
    document = TextField()
    revision = IntegerField(default=1)
    created = TextField()

    class Meta:
        table_name = "plan"


class ArrangementRow(Table):
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    document = TextField()
    note = TextField(default="")
    created = TextField()

    class Meta:
        table_name = "arrangement"


class TakeRow(Table):
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

    class Meta:
        table_name = "take"


class LiveRow(Table):
    """A plan that lives: the plan as it began, and where its clock stood when that was last kept (s since 1970)."""

    id = AutoField()
    plan = ForeignKeyField(PlanRow, unique=True)
    document = TextField()
    begun = TextField()
    clock = FloatField()
    pace = FloatField()
    running = BooleanField(default=False)
    told = FloatField(default=0.0)

    class Meta:
        table_name = "live"


class LiveActRow(Table):
    id = AutoField()
    live = ForeignKeyField(LiveRow)
    done = TextField()

    class Meta:
        table_name = "live_act"


class SearchRow(Table):
    id = AutoField()
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    asked = TextField()
    found = TextField()
    created = TextField()

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


class ElsewhereRow(Table):
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

    class Meta:
        table_name = "elsewhere"
        primary_key = CompositeKey("plan", "group_name")
