"""The life of one instance, told from its request to its end."""

import numpy as np
from pydantic import BaseModel

from jostle.core.engine.carrying import host_of
from jostle.core.journal.event import Event, events, host_text, say_time
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.word import listed
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
    facts = [
        ("Launched", say_time(clock, max(0.0, float(one["requested"]))) if one["requested"] >= 0 else "before the first instant"),
        ("Where", _where(rehearsal, instance)),
        *_waited(rehearsal, instance),
        *_carried(rehearsal, instance),
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


def _where(rehearsal: Rehearsal, instance: int) -> str:
    """Zone, machine and version of an instance; of a copy the zone and the host."""
    one = rehearsal.result.instances[instance]
    zone = rehearsal.crew.launch.zones[int(one["zone"])]
    if rehearsal.crew.group.host is None:
        return f"{zone}, {rehearsal.crew.machine_of(int(one['kind']))}, version {int(one['version'])}"
    host = host_of(rehearsal.result, instance)
    return "nowhere: it never had a place" if host is None else f"{zone}, on {host_text(rehearsal, host)}"


def _waited(rehearsal: Rehearsal, instance: int) -> list[tuple[str, str]]:
    """How long a copy waited for its place, where it did."""
    result = rehearsal.result
    begins = result.spells["begin"][result.spells["instance"] == instance]
    asked = float(result.instances["requested"][instance])
    if rehearsal.crew.group.host is None or not len(begins) or begins[0] <= asked:
        return []
    return [("Waited", f"{say_duration(float(begins[0]) - asked)} for a place")]


def _carried(rehearsal: Rehearsal, instance: int) -> list[tuple[str, str]]:
    """The most copies of each guest that an instance of a host had at once."""
    aboard = rehearsal.aboard
    if aboard is None or not rehearsal.crew.group.hosts:
        return []
    most = {}
    for name, result in zip(aboard.names[1:], aboard.results[1:], strict=True):
        spells = result.spells[result.instances["host"][result.spells["instance"]] == instance]
        ends = np.where(np.isnan(spells["end"]), result.elapsed, spells["end"])
        changes = sorted([*((float(at), 1) for at in spells["begin"]), *((float(at), -1) for at in ends)])
        most[name] = max(np.cumsum([step for _, step in changes]), default=0)
    there = listed(f"{number} {name}" for name, number in most.items() if number)
    return [("Carried", f"up to {there}" if there else "nothing")]


def _served(rehearsal: Rehearsal, row: np.void) -> float:
    """Seconds in which a start served."""
    ends = [float(t) for t in (row["drains"], row["end"], rehearsal.result.elapsed) if t == t]
    begin = max(0.0, float(row["serves"]))
    return max(0.0, min(ends) - begin) if np.isfinite(begin) else 0.0
