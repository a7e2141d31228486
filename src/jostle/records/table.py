"""The tables, as peewee sees them. They are created and changed by the migrations only."""

from peewee import AutoField, BooleanField, FloatField, ForeignKeyField, IntegerField, Model, TextField


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


TABLES = (PlanRow, ArrangementRow, TakeRow, LiveRow, LiveActRow, SearchRow)
