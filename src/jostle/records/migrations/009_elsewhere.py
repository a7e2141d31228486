"""Groups that are kept at a provider in another process, with what their keeper remembered before and after the instant that it
answered last (s from the provider's first)."""


def migrate(migrator, database, *, fake=False):
    migrator.sql(
        """CREATE TABLE elsewhere (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            url TEXT NOT NULL,
            document TEXT NOT NULL,
            arrangement INTEGER NOT NULL,
            held INTEGER NOT NULL DEFAULT 0,
            dry INTEGER NOT NULL DEFAULT 0,
            answered REAL,
            before BLOB,
            after BLOB,
            PRIMARY KEY (plan_id, group_name))"""
    )


def rollback(migrator, database, *, fake=False):
    migrator.sql("DROP TABLE elsewhere")
