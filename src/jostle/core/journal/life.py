"""The life of one instance, told from its request to its end."""

import numpy as np
from pydantic import BaseModel

from jostle.core.journal.event import Event, events, say_time
from jostle.core.plan.quantity import say_duration
from jostle.core.rehearsal.name import given_name
from jostle.core.rehearsal.rehearsal import Rehearsal


class Fact(BaseModel):
    heading: str
    text: str


class Life(BaseModel):
    """What is so about an instance, and the events that name it."""

    title: str
    facts: list[Fact]
    events: list[Event]


def life_of(rehearsal: Rehearsal, instance: int) -> Life | None:
    """The life of an instance, counted from 0; None where there never was one of this number."""
    result, clock = rehearsal.result, rehearsal.clock
    if not 0 <= instance < len(result.instances):
        return None
    one, lives = result.instances[instance], result.lives
    starts = lives[lives["instance"] == instance]
    launch = rehearsal.crew.launch
    machine = rehearsal.crew.machine_of(int(one["kind"]))
    facts = [
        ("Launched", say_time(clock, max(0.0, float(one["requested"]))) if one["requested"] >= 0 else "before the first instant"),
        ("Where", f"{launch.zones[int(one['zone'])]}, {machine}, version {int(one['version'])}"),
    ]
    if one["overflow"]:
        facts.append(("Owned", "no, it is overflow"))
    if one["pinned"]:
        facts.append(("Pinned", "scale in never picks it"))
    first = starts[0] if len(starts) else one
    if np.isfinite(first["booted"]) and first["booted"] > first["requested"] >= 0:
        facts.append(("Booted", f"in {say_duration(round(float(first['booted'] - first['requested'])))}"))
        if np.isfinite(first["serves"]):
            facts.append(("First served", f"{say_duration(round(float(first['serves'] - first['requested'])))} after its launch"))
    served = sum(_served(rehearsal, row) for row in starts)
    facts.append(("Served", say_duration(round(served / 60) * 60.0) if served else "never"))
    if len(starts) > 1:
        facts.append(("Started", f"{len(starts)} times"))
    ended = float(one["gone"])
    facts.append(("Gone", say_time(clock, ended) if ended == ended else "still there at the end"))
    told = [Fact(heading=heading, text=text) for heading, text in facts]
    title = given_name(rehearsal, instance) or f"Instance {instance + 1}"
    return Life(title=title, facts=told, events=list(events(rehearsal, who=instance)))


def _served(rehearsal: Rehearsal, row: np.void) -> float:
    """Seconds in which a start served."""
    ends = [float(t) for t in (row["drains"], row["end"], rehearsal.result.elapsed) if t == t]
    begin = max(0.0, float(row["serves"]))
    return max(0.0, min(ends) - begin) if np.isfinite(begin) else 0.0
