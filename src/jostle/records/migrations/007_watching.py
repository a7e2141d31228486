"""What was told of what lives, where it is sent, and each delivery."""


def migrate(migrator, database, *, fake=False):
    migrator.sql("ALTER TABLE live ADD COLUMN told REAL NOT NULL DEFAULT 0")
    migrator.sql(
        """CREATE TABLE notice (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            at REAL NOT NULL,
            since REAL NOT NULL,
            group_name TEXT NOT NULL,
            kind TEXT NOT NULL,
            over INTEGER NOT NULL,
            text TEXT NOT NULL)"""
    )
    migrator.sql("CREATE INDEX notice_of_plan ON notice (plan_id, id)")
    migrator.sql(
        """CREATE TABLE target (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            url TEXT NOT NULL,
            secret TEXT NOT NULL,
            UNIQUE (plan_id, url))"""
    )
    migrator.sql(
        """CREATE TABLE delivery (
            id INTEGER PRIMARY KEY,
            target_id INTEGER NOT NULL REFERENCES target (id) ON DELETE CASCADE,
            number TEXT NOT NULL,
            text TEXT NOT NULL,
            body TEXT NOT NULL,
            tries INTEGER NOT NULL,
            due REAL,
            done INTEGER NOT NULL,
            said TEXT NOT NULL)"""
    )
    migrator.sql("CREATE INDEX delivery_due ON delivery (due)")


def rollback(migrator, database, *, fake=False):
    for table in ("delivery", "target", "notice"):
        migrator.sql(f"DROP TABLE {table}")
    migrator.sql("ALTER TABLE live DROP COLUMN told")
