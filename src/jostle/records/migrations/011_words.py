"""What a template says of its host, of nearness and of instances that stop has the names that it has now."""

from jostle.records.rewritten import rewrite

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
    rewrite(database, WHERE, renamed)


def rollback(migrator, database, *, fake=False):
    """What is written stays readable."""
