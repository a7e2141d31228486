"""What the instances of a host carry now, and where the copies of a guest run."""

import numpy as np
from pydantic import BaseModel

from jostle.core.costs.sharing import part_of
from jostle.core.journal.event import host_text
from jostle.core.plan.quantity import say_number
from jostle.core.plan.word import listed
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.live.life import Life


class Carried(BaseModel):
    """The copies of a guest on an instance of its host, and how much of its room they hold."""

    guest: str
    copies: int
    share: float


def carried_by(life: Life) -> dict[int, list[Carried]]:
    """The copies on each instance that carries some, in the order of the guests."""
    found: dict[int, list[Carried]] = {}
    if not life.leg.crew.group.hosts:
        return found
    deck = life.state.deck
    for g, guest in enumerate(life.company.lives[1:]):
        there, parts = deck.held[:, g] - deck.back[:, g], part_of(life.result, guest.result)
        for number in np.flatnonzero(there).tolist():
            copies = int(there[number])
            one = Carried(guest=guest.group, copies=copies, share=round(copies * float(parts[number]), 4))
            found.setdefault(number, []).append(one)
    return found


def carried_text(life: Life, number: int, carried: list[Carried]) -> str:
    """`carries 3 of chat and 1 of weather, 1.5 vCPUs and 4 GiB free`; empty where nothing could be carried."""
    if not life.leg.crew.group.hosts:
        return ""
    room = life.state.deck.rooms.view(np.ndarray)[number]
    if not room["open"]:
        free = ""
    else:
        free = f", {say_number(float(room['vcpus']))} vCPUs and {say_number(float(room['memory']))} GiB free"
    named = listed(f"{one.copies} of {one.guest}" for one in carried) or "nothing"
    return f"carries {named}{free}"


def place_text(record: Rehearsal, host: int | None) -> str:
    """`on instance 3 of deck`; empty of what is no copy."""
    if not record.crew.group.host:
        return ""
    return "without a place" if host is None else f"on {host_text(record, host)}"
