"""The ledger of what lives: hours and amounts as they were entered, corrections as rows of their own, and what they add up to by
day and, for all groups together, by hour.

An amount is told in whole units of the currency, billionths, and billionths of those, all whole numbers, so that sums are exact.
"""


def migrate(migrator, database, *, fake=False):
    migrator.sql(
        """CREATE TABLE ledger_part (
            id INTEGER PRIMARY KEY,
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            what TEXT NOT NULL,
            machine TEXT NOT NULL,
            zone TEXT NOT NULL,
            version INTEGER NOT NULL,
            overflow INTEGER NOT NULL,
            spot INTEGER NOT NULL,
            UNIQUE (plan_id, group_name, what, machine, zone, version, overflow, spot))"""
    )
    migrator.sql(
        """CREATE TABLE ledger_hour (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            begin INTEGER NOT NULL,
            group_name TEXT NOT NULL,
            ends INTEGER NOT NULL,
            serving_low INTEGER NOT NULL,
            serving REAL NOT NULL,
            serving_high INTEGER NOT NULL,
            billed_low INTEGER NOT NULL,
            billed REAL NOT NULL,
            billed_high INTEGER NOT NULL,
            stopped_low INTEGER NOT NULL,
            stopped REAL NOT NULL,
            stopped_high INTEGER NOT NULL,
            demand REAL NOT NULL,
            served REAL NOT NULL,
            failed REAL NOT NULL,
            short_minutes REAL NOT NULL,
            late REAL NOT NULL,
            seen_late INTEGER NOT NULL,
            PRIMARY KEY (plan_id, begin, group_name)) WITHOUT ROWID"""
    )
    migrator.sql(
        """CREATE TABLE ledger_amount (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            begin INTEGER NOT NULL,
            part_id INTEGER NOT NULL REFERENCES ledger_part (id),
            correction INTEGER NOT NULL,
            micros INTEGER NOT NULL,
            whole INTEGER NOT NULL,
            billionths INTEGER NOT NULL,
            rest INTEGER NOT NULL,
            PRIMARY KEY (plan_id, begin, part_id, correction)) WITHOUT ROWID"""
    )
    migrator.sql(
        """CREATE TABLE ledger_day (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            part_id INTEGER NOT NULL REFERENCES ledger_part (id),
            day INTEGER NOT NULL,
            micros INTEGER NOT NULL,
            whole INTEGER NOT NULL,
            billionths INTEGER NOT NULL,
            rest INTEGER NOT NULL,
            PRIMARY KEY (plan_id, part_id, day)) WITHOUT ROWID"""
    )
    migrator.sql(
        """CREATE TABLE ledger_whole_day (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            day INTEGER NOT NULL,
            group_name TEXT NOT NULL,
            serving_low INTEGER NOT NULL,
            serving_high INTEGER NOT NULL,
            served REAL NOT NULL,
            demand REAL NOT NULL,
            late REAL NOT NULL,
            seen_late INTEGER NOT NULL,
            corrected INTEGER NOT NULL,
            whole INTEGER NOT NULL,
            billionths INTEGER NOT NULL,
            rest INTEGER NOT NULL,
            PRIMARY KEY (plan_id, day, group_name)) WITHOUT ROWID"""
    )
    migrator.sql(
        """CREATE TABLE ledger_course (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            begin INTEGER NOT NULL,
            billed REAL NOT NULL,
            PRIMARY KEY (plan_id, begin)) WITHOUT ROWID"""
    )
    migrator.sql(
        """CREATE TABLE ledger_group (
            plan_id INTEGER NOT NULL REFERENCES plan (id),
            group_name TEXT NOT NULL,
            template TEXT NOT NULL,
            work TEXT NOT NULL,
            PRIMARY KEY (plan_id, group_name)) WITHOUT ROWID"""
    )


def rollback(migrator, database, *, fake=False):
    for name in ("course", "whole_day", "day", "amount", "hour", "part", "group"):
        migrator.sql(f"DROP TABLE ledger_{name}")
