"""Documents that are kept, written anew under what is said now; arrangements too, which otherwise never change."""

import json
from collections.abc import Callable, Mapping
from typing import Any

from peewee import Database


def rewrite(database: Database, columns: Mapping[str, str], anew: Callable[[Any], Any]) -> None:
    """Put `anew` of each document in its place, in a column of each of some tables."""
    database.execute_sql("DROP TRIGGER IF EXISTS arrangement_stays_update")
    for table, column in columns.items():
        for row, document in database.execute_sql(f"SELECT rowid, {column} FROM {table}").fetchall():
            written = json.dumps(anew(json.loads(document)), ensure_ascii=False)
            database.execute_sql(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (written, row))
            # The store seals it again
            if any(name == "seal" for _, name, *_ in database.execute_sql(f"PRAGMA table_info({table})")):
                database.execute_sql(f"UPDATE {table} SET seal = NULL WHERE rowid = ?", (row,))
    database.execute_sql(
        """CREATE TRIGGER arrangement_stays_update BEFORE UPDATE OF plan_id, number, document, note, created ON arrangement
            BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
    )
