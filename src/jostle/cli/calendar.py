"""`jostle calendar`: when the entries of a group's calendar hold."""

from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.given import given_group, known_group, write_file
from jostle.cli.option import OneGroup, PlanFile, Settings
from jostle.cli.refusal import refusal
from jostle.core.calendar.occurrence import stretches
from jostle.core.journal.event import say_time
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import clock_of
from jostle.formats.calendar_ics import write_calendar


def calendar(
    plan: PlanFile,
    group: OneGroup = None,
    set_: Settings = None,
    ics: Annotated[Path | None, typer.Option(help="Write the calendar to this file as iCalendar")] = None,
) -> None:
    """Say when the entries of a group's calendar hold within the plan's span."""
    try:
        read, name = given_group(plan, set_, group)
        known_group(read, name)
    except PlanError as error:
        raise refusal(str(error)) from None
    clock = clock_of(read)
    entries = read.groups[name].calendar
    held = [
        (begin - clock.first, end - clock.first, entry)
        for entry in entries
        if not entry.paused
        for begin, end in stretches(entry, clock.first, clock.first + clock.seconds, read.zone)
    ]
    for begin, end, entry in sorted(held, key=lambda one: one[:2]):
        until = f" to {say_time(clock, end)}" if end > begin else ""
        typer.echo(f"{say_time(clock, begin)}{until}  {entry.name}: {entry.in_short()}")
    if not held:
        typer.echo("No entry holds within the plan's span.")
    if ics is not None:
        write_file(ics, write_calendar(entries, name, read.zone))
