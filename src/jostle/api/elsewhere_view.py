"""A group kept at a provider in another process, as the screen shows it."""

from datetime import datetime

from pydantic import BaseModel, Field

from jostle.api.elsewhere_desk import Outpost
from jostle.api.live_view import PolicyState, policy_state
from jostle.core.journal.event import say_time
from jostle.core.journal.explanation import expected_by
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import say_count

LINES_SHOWN = 12


class ElsewhereLine(BaseModel):
    clock: str
    text: str


class ElsewhereGroup(BaseModel):
    """`away` says since when its keeper waits, and for what; `trouble` why the group is kept no more."""

    group: str
    url: str
    arrangement: int
    held: bool
    dry: bool
    away: str | None
    trouble: str | None
    clock: str = Field(description="The provider's, at the instant that was answered last")
    summary: str
    policies: list[PolicyState]
    lines: list[ElsewhereLine] = Field(description="What was decided, the newest first")


def elsewhere_view(one: Outpost) -> ElsewhereGroup:
    """How a group stood at the instant that was answered last."""
    kept, afar = one.kept, one.afar
    stood = None if afar is None else afar.stood
    policies, clock, summary = [], "", "nothing was answered yet"
    if afar is not None and stood is not None:
        group, counts = afar.crew.group, stood.counts
        clock = say_moment(afar.clock.at(afar.clock.first + stood.time))
        parts = [f"{int(stood.decision['decided'])} wanted", f"{counts.serving} serve"]
        parts += [f"{counts.present - counts.serving} on their way or broken"] if counts.present > counts.serving else []
        parts += [f"{say_count(counts.waiting, 'launch')} not taken"] if counts.waiting else []
        summary = ", ".join(parts)
        desired = int(stood.decision["desired"])
        policies = [
            policy_state(policy, view, desired, group.work, expected=expected_by(view, stood.time, afar.clock))
            for policy, view in zip(group.policies, stood.views, strict=True)
        ]
    return ElsewhereGroup(
        group=kept.group,
        url=kept.url,
        arrangement=kept.arrangement,
        held=one.held,
        dry=one.dry,
        away=_away(one),
        trouble=one.trouble,
        clock=clock,
        summary=summary,
        policies=policies,
        lines=[
            ElsewhereLine(clock=say_time(afar.clock, time), text=text) for time, text in list(afar.lines)[: -LINES_SHOWN - 1 : -1]
        ]
        if afar is not None
        else [],
    )


def _away(one: Outpost) -> str | None:
    away = one.patience.away
    if away is None:
        return None
    since = datetime.fromtimestamp(away.since).astimezone()
    return f"Since {since:%H:%M:%S} {away.said}. It is tried again, and nothing else is done."
