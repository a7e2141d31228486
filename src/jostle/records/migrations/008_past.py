"""Hours of groups that were paid for before they lived here: their begin in s since 1970, amounts in billionths."""


def migrate(migrator, database, *, fake=False):
    migrator.sql(
        """CREATE TABLE past_hour (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            begin INTEGER NOT NULL,
            instances REAL NOT NULL,
            billionths INTEGER NOT NULL,
            PRIMARY KEY (plan_id, group_name, begin)) WITHOUT ROWID"""
    )


def rollback(migrator, database, *, fake=False):
    migrator.sql("DROP TABLE past_hour")
