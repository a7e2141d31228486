"""A group may be given another name; what its arrangements say still never changes."""


def migrate(migrator, database, *, fake=False):
    migrator.sql("DROP TRIGGER arrangement_stays_update")
    migrator.sql(
        """CREATE TRIGGER arrangement_stays_update BEFORE UPDATE OF plan_id, number, document, note, created ON arrangement
            BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
    )


def rollback(migrator, database, *, fake=False):
    migrator.sql("DROP TRIGGER arrangement_stays_update")
    migrator.sql(
        """CREATE TRIGGER arrangement_stays_update BEFORE UPDATE ON arrangement
            BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
    )
