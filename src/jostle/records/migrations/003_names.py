"""Plans, arrangements and takes take the names that settings have now."""

import json

KEYS = {"machine_types": "machines", "machine_type": "machine", "base_size": "owned"}
VALUES = {
    "mode": {"both_ways": "grow_and_shrink", "out_only": "grow", "held": "stay"},
    "criteria": {"nearest_paid_hour": "least_paid_left"},
}


def renamed(part, key=""):
    """A document, or a part of one that stands under a key, with the names of now."""
    if isinstance(part, dict):
        return {KEYS.get(name, name): renamed(value, name) for name, value in part.items()}
    if isinstance(part, list):
        return [renamed(one, key) for one in part]
    return VALUES.get(key, {}).get(part, part) if isinstance(part, str) else part


def migrate(migrator, database, *, fake=False):
    if fake:
        return
    database.execute_sql("DROP TRIGGER IF EXISTS arrangement_stays_update")
    for table in ("plan", "arrangement", "take"):
        for row, document in database.execute_sql(f"SELECT id, document FROM {table}").fetchall():
            written = json.dumps(renamed(json.loads(document)), ensure_ascii=False)
            database.execute_sql(f"UPDATE {table} SET document = ? WHERE id = ?", (written, row))
    database.execute_sql(
        """CREATE TRIGGER arrangement_stays_update BEFORE UPDATE OF plan_id, number, document, note, created ON arrangement
            BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
    )


def rollback(migrator, database, *, fake=False):
    """Names of now are not taken back: what is written stays readable."""
