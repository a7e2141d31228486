"""Documents have a sum beside them, by which damage is found; see `records.table.Sealed`."""

TABLES = ("plan", "arrangement", "take", "live", "live_act", "search", "elsewhere")


def migrate(migrator, database, *, fake=False):
    for table in TABLES:
        migrator.sql(f"ALTER TABLE {table} ADD COLUMN seal TEXT")


def rollback(migrator, database, *, fake=False):
    for table in TABLES:
        migrator.sql(f"ALTER TABLE {table} DROP COLUMN seal")
