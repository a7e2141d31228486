"""Plans, arrangements and takes take the names that settings have now."""

from jostle.records.rewritten import rewrite

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
    rewrite(database, dict.fromkeys(("plan", "arrangement", "take"), "document"), renamed)


def rollback(migrator, database, *, fake=False):
    """Names of now are not taken back: what is written stays readable."""
