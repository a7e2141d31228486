"""Searches for the best settings: what was asked, and what was found."""


def migrate(migrator, database, *, fake=False):
    migrator.sql(
        """CREATE TABLE search (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            number INTEGER NOT NULL,
            asked TEXT NOT NULL,
            found TEXT NOT NULL,
            created TEXT NOT NULL,
            UNIQUE (plan_id, group_name, number))"""
    )


def rollback(migrator, database, *, fake=False):
    migrator.sql("DROP TABLE search")
