"""The tables, as peewee sees them. They are created and changed by the migrations only."""

from peewee import AutoField, BooleanField, ForeignKeyField, IntegerField, Model, TextField


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


TABLES = (PlanRow, ArrangementRow, TakeRow)
