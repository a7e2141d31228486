"""What does not go well between a host and its guests."""

import math

import numpy as np

from jostle.core.checks.finding import Finding, Mend
from jostle.core.decide.rules import metric_row
from jostle.core.engine.compile import Crew
from jostle.core.engine.room import CRUMB
from jostle.core.journal.event import say_time
from jostle.core.plan.metric import Metric
from jostle.core.plan.place import room_of
from jostle.core.plan.promise import RoomPromise
from jostle.core.plan.quantity import say_duration, say_number, say_share
from jostle.core.plan.word import listed, say_count
from jostle.core.rehearsal.rehearsal import Rehearsal

# Share of the time without room for the loss of a host from which on it is worth saying
OFTEN = 0.01


def check_host(crew: Crew) -> list[Finding]:
    """A host without guests, one that can never carry their minima, and drains that do not fit."""
    if not crew.group.hosts:
        return []
    if not crew.guests:
        text = "No group runs on it, so it carries nothing; a guest names it as its host."
        return [Finding(code="host-empty", severity="note", path="work.kind", text=text)]
    return [*_too_small(crew), *_drains(crew)]


def _too_small(crew: Crew) -> list[Finding]:
    """Minima of all guests that do not fit even where all instances serve."""
    vcpus, memory = room_of(crew.group, crew.machine)
    wants = [(one.minimum, one.place) for one in crew.guests.values() if one.place is not None]
    asked = [sum(many * place.vcpus for many, place in wants), sum(many * place.memory_gib for many, place in wants)]
    least = max(math.ceil(asked[0] / vcpus - CRUMB), math.ceil(asked[1] / memory - CRUMB))
    if least <= crew.group.maximum:
        return []
    text = (
        f"The minima of {listed(crew.guests)} come to {say_number(asked[0])} vCPUs and {say_number(asked[1])} GiB, which takes "
        f"{say_count(least, 'instance')} at the least, and the maximum is {crew.group.maximum}: some copies never have a place."
    )
    mend = Mend(text=f"maximum {least}", settings={"maximum": least})
    return [Finding(code="host-too-small", severity="error", path="maximum", text=text, mend=mend)]


def _drains(crew: Crew) -> list[Finding]:
    """Guests that leave more slowly than the host that they are on."""
    slow = {name: one.drain for name, one in crew.guests.items() if one.drain > crew.group.drain}
    if not slow:
        return []
    longest = max(slow.values())
    text = (
        f"A leaving instance waits {say_duration(crew.group.drain)} for its copies, and those of {listed(slow)} drain for up to "
        f"{say_duration(longest)}: what they still do then is lost with it."
    )
    mended = 60.0 * math.ceil((longest + 120.0) / 60)
    mend = Mend(text=f"drain {say_duration(mended)}", settings={"drain": mended})
    return [Finding(code="host-drain-short", severity="warning", path="drain", text=text, mend=mend)]


def check_hosting(rehearsal: Rehearsal) -> list[Finding]:
    """No room for the loss of a host, and copies without a place although there is as much in all."""
    if not rehearsal.crew.guests:
        return []
    return [*_loss(rehearsal), *_crumbs(rehearsal)]


def _loss(rehearsal: Rehearsal) -> list[Finding]:
    stranded, part = rehearsal.result.series["taken"], rehearsal.result.unborne_share
    if part < OFTEN or any(isinstance(promise, RoomPromise) for promise in rehearsal.crew.group.promises):
        return []
    at = float(np.argmax(stranded)) * rehearsal.clock.tick
    copies = int(stranded.max())
    text = (
        f"For {say_share(part)} of the time the copies of one instance would not all find room on the others were it lost; the "
        f"worst is {say_time(rehearsal.clock, at)}, with {say_count(copies, 'copy')} without a place."
    )
    return [Finding(code="loss-unborne", severity="warning", path="policies", text=text, at=at)]


def _crumbs(rehearsal: Rehearsal) -> list[Finding]:
    """As much free in all as one of those that wait wants, in pieces that are too small."""
    result, aboard = rehearsal.result, rehearsal.aboard
    assert aboard is not None
    free, largest = (result.state.sight.samples[0, metric_row(one)] for one in (Metric.FREE_GIB, Metric.LARGEST_PLACE))
    waiting = result.state.sight.samples[0, metric_row(Metric.WITHOUT_PLACE)]
    least = min(one.setup.of("place_memory") for one in aboard.results[1:])
    broken = (waiting > 0) & (free >= least) & (largest < least)
    if not broken.any():
        return []
    period = result.setup.of("period_ticks") * rehearsal.clock.tick
    sample = int(np.argmax(broken))
    at, lasted = (sample + 1.0) * period, say_duration(float(broken.sum()) * period)
    text = (
        f"At {say_time(rehearsal.clock, at)} and for {lasted} in all {say_number(free[sample])} GiB are free and no copy fits: "
        f"the largest place is {say_number(largest[sample])} GiB. Fewer, larger machines, or copies packed, leave larger ones."
    )
    return [Finding(code="room-in-pieces", severity="note", path="work.kind", text=text, at=at)]
