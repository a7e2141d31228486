"""What a template says of its host, of nearness and of instances that stop has the names that it has now."""

import json

NAMES = {"tenancy": "host_use", "placement": "nearness", "on_shutdown": "if_it_stops"}
WHERE = {
    "plan": "document",
    "arrangement": "document",
    "take": "document",
    "live": "document",
    "live_act": "done",
    "elsewhere": "document",
}


def renamed(part):
    """A document, or a part of one, whose launch fields have the names of now."""
    if isinstance(part, list):
        return [renamed(one) for one in part]
    if not isinstance(part, dict):
        return part
    found = {name: renamed(value) for name, value in part.items()}
    for fields in (found.get("launch"), *(versions if isinstance(versions := found.get("versions"), list) else [])):
        if isinstance(fields, dict):
            for was in NAMES.keys() & fields.keys():
                fields[NAMES[was]] = fields.pop(was)
    return found


def migrate(migrator, database, *, fake=False):
    if fake:
        return
    database.execute_sql("DROP TRIGGER IF EXISTS arrangement_stays_update")
    for table, column in WHERE.items():
        for row, document in database.execute_sql(f"SELECT rowid, {column} FROM {table}").fetchall():
            written = json.dumps(renamed(json.loads(document)), ensure_ascii=False)
            database.execute_sql(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (written, row))
    database.execute_sql(
        """CREATE TRIGGER arrangement_stays_update BEFORE UPDATE OF plan_id, number, document, note, created ON arrangement
            BEGIN SELECT RAISE(ABORT, 'a saved arrangement never changes'); END"""
    )


def rollback(migrator, database, *, fake=False):
    """What is written stays readable."""
