"""`jostle explain`: why the count is what it is at a time."""

import textwrap
from typing import Annotated

import typer

from jostle.cli.given import given_group, with_demand
from jostle.cli.option import Column, FileClock, OneGroup, OtherDemand, PlanFile, Seed, Settings, Unit
from jostle.cli.refusal import refusal
from jostle.core.journal.moment import moment
from jostle.core.journal.outlook import outlook
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.rehearsal.rehearser import rehearse as run_rehearsal


def explain(
    plan: PlanFile,
    at: Annotated[str, typer.Option(help="A time such as 2025-07-10T12:20, on the plan's wall clock")],
    group: OneGroup = None,
    demand: OtherDemand = None,
    unit: Unit = None,
    column: Column = None,
    clock: FileClock = None,
    seed: Seed = 1,
    set_: Settings = None,
) -> None:
    """Say why the count is what it is at a time, and not more or less."""
    try:
        read, name = given_group(plan, set_, group)
        rehearsal = run_rehearsal(with_demand(read, name, demand, unit, column, clock), name, seed)
        try:
            seconds = rehearsal.clock.epoch_of(at) - rehearsal.clock.first
        except ValueError:
            raise PlanError([Problem(("at",), at, "write a time such as 2025-07-10T12:20")]) from None
        found = moment(rehearsal, seconds)
        if found is None or not 0 <= seconds <= rehearsal.clock.seconds:
            last = rehearsal.clock.at(rehearsal.clock.first + rehearsal.clock.seconds).isoformat()
            raise PlanError([Problem(("at",), at, f"lies outside the plan: {read.start.isoformat()} to {last}")])
    except PlanError as error:
        raise refusal(str(error)) from None
    typer.echo(found.title)
    for reason in found.reasons:
        typer.echo(textwrap.fill(f"{reason.text}: {reason.outcome}", 80, initial_indent="  ", subsequent_indent="    "))
    for line in (
        found.decision,
        f"Not more: {found.not_more}",
        f"Not fewer: {found.not_fewer}",
        outlook(rehearsal, found.seconds),
    ):
        typer.echo(textwrap.fill(line, 80, subsequent_indent="  "))
