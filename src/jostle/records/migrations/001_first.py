"""Plans, arrangements that never change once saved, and takes."""


def migrate(migrator, database, *, fake=False):
    migrator.sql(
        """CREATE TABLE plan (
            id INTEGER PRIMARY KEY,
            name TEXT NOT NULL,
            document TEXT NOT NULL,
            revision INTEGER NOT NULL DEFAULT 1,
            created TEXT NOT NULL)"""
    )
    migrator.sql(
        """CREATE TABLE arrangement (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            number INTEGER NOT NULL,
            document TEXT NOT NULL,
            note TEXT NOT NULL DEFAULT '',
            created TEXT NOT NULL,
            UNIQUE (plan_id, group_name, number))"""
    )
    for act in ("UPDATE", "DELETE"):
        migrator.sql(
            f"""CREATE TRIGGER arrangement_stays_{act.lower()} BEFORE {act} ON arrangement
                BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
        )
    migrator.sql(
        """CREATE TABLE take (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            number INTEGER NOT NULL,
            arrangement INTEGER NOT NULL,
            "from" INTEGER,
            document TEXT NOT NULL,
            seed INTEGER NOT NULL,
            change TEXT NOT NULL,
            figures TEXT NOT NULL,
            starred INTEGER NOT NULL DEFAULT 0,
            created TEXT NOT NULL,
            UNIQUE (plan_id, group_name, number))"""
    )


def rollback(migrator, database, *, fake=False):
    for table in ("take", "arrangement", "plan"):
        migrator.sql(f"DROP TABLE {table}")
