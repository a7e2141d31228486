"""What an instance is called."""

from typing import Any

from jostle.core.decide.code import NOBODY
from jostle.core.engine.compile import Crew


def name_of(crew: Crew, group: str, seed: int, row: Any, who: int) -> str:
    """The name of an instance, counted from 0, by its row of INSTANCE; empty where the group has no names for them."""
    identity = crew.group.identity
    if identity is None:
        return ""
    number = who if int(row["post"]) == NOBODY else int(row["post"])
    return identity.name(group, crew.launch.zones[int(row["zone"])], number + 1, seed, who)
