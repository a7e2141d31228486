"""The tables, as peewee sees them. They are created and changed by the migrations only."""

from peewee import AutoField, BlobField, BooleanField, CompositeKey, FloatField, ForeignKeyField, IntegerField, Model, TextField


class PlanRow(Model):
    id = AutoField()
    name = TextField()
    document = TextField()
    revision = IntegerField(default=1)
    created = TextField()

    class Meta:
        table_name = "plan"


class ArrangementRow(Model):
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    document = TextField()
    note = TextField(default="")
    created = TextField()

    class Meta:
        table_name = "arrangement"


class TakeRow(Model):
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


class LiveRow(Model):
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


class LiveActRow(Model):
    id = AutoField()
    live = ForeignKeyField(LiveRow)
    done = TextField()

    class Meta:
        table_name = "live_act"


class SearchRow(Model):
    id = AutoField()
    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    number = IntegerField()
    asked = TextField()
    found = TextField()
    created = TextField()

    class Meta:
        table_name = "search"


class NoticeRow(Model):
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


class TargetRow(Model):
    """Where a plan's notices are sent."""

    id = AutoField()
    plan = ForeignKeyField(PlanRow)
    url = TextField()
    secret = TextField()

    class Meta:
        table_name = "target"


class DeliveryRow(Model):
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


class PastHourRow(Model):
    """An hour of a group that was paid for before it lived here; `begin` is s since 1970."""

    plan = ForeignKeyField(PlanRow)
    group_name = TextField()
    begin = IntegerField()
    instances = FloatField()
    billionths = IntegerField()

    class Meta:
        table_name = "past_hour"
        primary_key = CompositeKey("plan", "group_name", "begin")


class ElsewhereRow(Model):
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


TABLES = (
    PlanRow,
    ArrangementRow,
    TakeRow,
    LiveRow,
    LiveActRow,
    SearchRow,
    NoticeRow,
    TargetRow,
    DeliveryRow,
    PastHourRow,
    ElsewhereRow,
)
