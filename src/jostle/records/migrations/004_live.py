"""Plans that live: how each began, and what hands did."""


def migrate(migrator, database, *, fake=False):
    migrator.sql(
        """CREATE TABLE live (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL UNIQUE REFERENCES plan (id),
            document TEXT NOT NULL,
            begun TEXT NOT NULL,
            clock REAL NOT NULL,
            pace REAL NOT NULL,
            running INTEGER NOT NULL DEFAULT 0)"""
    )
    migrator.sql(
        """CREATE TABLE live_act (
            id INTEGER PRIMARY KEY,
            live_id INTEGER NOT NULL REFERENCES live (id),
            done TEXT NOT NULL)"""
    )
    migrator.sql("CREATE INDEX live_act_of ON live_act (live_id)")


def rollback(migrator, database, *, fake=False):
    for table in ("live_act", "live"):
        migrator.sql(f"DROP TABLE {table}")
