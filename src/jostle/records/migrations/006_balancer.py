"""What spreads requests, and clients that stay, belong to the load balancer."""

import json


def moved(part):
    """A document, or a part of one, whose groups' work says nothing of a load balancer."""
    if isinstance(part, list):
        return [moved(one) for one in part]
    if not isinstance(part, dict):
        return part
    found = {name: moved(value) for name, value in part.items()}
    if isinstance(work := found.get("work"), dict) and "maximum" in found:
        own = {name: work.pop(name) for name in ("spread", "sticky") if name in work}
        kept = found.get("load_balancer")
        if kept is True or own.get("sticky") or own.get("spread", "by_chance") != "by_chance":
            found["load_balancer"] = own
        elif kept is False:
            found["load_balancer"] = None
    return found


def migrate(migrator, database, *, fake=False):
    if fake:
        return
    database.execute_sql("DROP TRIGGER IF EXISTS arrangement_stays_update")
    for table in ("plan", "arrangement", "take", "live"):
        for row, document in database.execute_sql(f"SELECT id, document FROM {table}").fetchall():
            written = json.dumps(moved(json.loads(document)), ensure_ascii=False)
            database.execute_sql(f"UPDATE {table} SET document = ? WHERE id = ?", (written, row))
    database.execute_sql(
        """CREATE TRIGGER arrangement_stays_update BEFORE UPDATE OF plan_id, number, document, note, created ON arrangement
            BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
    )


def rollback(migrator, database, *, fake=False):
    """What is written stays readable."""
