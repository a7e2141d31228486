"""What instances are called, wherever one is spoken of."""

from jostle.core.engine.name import name_of
from jostle.core.engine.result import Result
from jostle.core.rehearsal.rehearsal import Rehearsal


def given_name(rehearsal: Rehearsal, who: int, stood: Result | None = None) -> str:
    """The name of an instance, counted from 0, empty where it has none; as it was then, of how the rehearsal stood at a time."""
    row = (stood or rehearsal.result).instances[who]
    return name_of(rehearsal.crew, rehearsal.group_name, rehearsal.seed, row, who)


def named(rehearsal: Rehearsal, who: int, stood: Result | None = None) -> str:
    """`instance 12`, or its name."""
    return given_name(rehearsal, who, stood) or f"instance {who + 1}"
