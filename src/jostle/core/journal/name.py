"""What instances are called, wherever one is spoken of."""

from jostle.core.engine.name import name_of
from jostle.core.engine.result import Result
from jostle.core.rehearsal.rehearsal import Rehearsal


def given_name(rehearsal: Rehearsal, who: int) -> str:
    """The name of an instance, counted from 0; empty where it has none."""
    return name_of(rehearsal.crew, rehearsal.group_name, rehearsal.seed, rehearsal.result.instances[who], who)


def named(rehearsal: Rehearsal, who: int, stood: Result | None = None) -> str:
    """`instance 12`, or its name; as it was then, of how the rehearsal stood at a time."""
    rows = (stood or rehearsal.result).instances
    name = name_of(rehearsal.crew, rehearsal.group_name, rehearsal.seed, rows[who], who)
    return name or f"instance {who + 1}"
