"""What spreads requests, and clients that stay, belong to the load balancer."""

from jostle.records.rewritten import rewrite


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
    rewrite(database, dict.fromkeys(("plan", "arrangement", "take", "live"), "document"), moved)


def rollback(migrator, database, *, fake=False):
    """What is written stays readable."""
