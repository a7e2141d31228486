"""`jostle rehearse`: what comes of a group over the plan's span."""

import json
import time
from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.given import given_group, with_calendar, with_demand, write_file
from jostle.cli.option import AsJson, Column, FileClock, OneGroup, OtherDemand, PlanFile, Seed, Settings, Unit
from jostle.cli.progress import watched
from jostle.cli.refusal import refusal
from jostle.cli.report import findings_text, json_report, spread_text, text_report
from jostle.core.checks.check import check as findings_of
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.spread import rehearse_seeds, spread
from jostle.core.rehearsal.verdict import verdict
from jostle.formats.promises_junit import write_promises


def rehearse(
    plan: PlanFile,
    group: OneGroup = None,
    demand: OtherDemand = None,
    unit: Unit = None,
    column: Column = None,
    clock: FileClock = None,
    seed: Seed = 1,
    seeds: Annotated[int, typer.Option(min=1, max=1000, help="Under so many seeds, from --seed on: says the spread")] = 1,
    calendar: Annotated[Path | None, typer.Option(help="An iCalendar file in place of the group's calendar")] = None,
    junit: Annotated[Path | None, typer.Option(help="Write the promises to this file as a JUnit report")] = None,
    set_: Settings = None,
    as_json: AsJson = False,
) -> None:
    """Rehearse a group over the plan's span and say what comes of it.

    Ends with 0 where all promises are kept, with 1 where one is broken or a finding is an error, with 2 where the input
    cannot be used.
    """
    try:
        read, name = given_group(plan, set_, group)
        read = with_calendar(with_demand(read, name, demand, unit, column, clock), name, calendar)
        rehearser = Rehearser()
        rehearsal = rehearser.rehearse(read, name, seed)
        verdicts, took = {}, {}
        for one in watched("seeds", range(seed, seed + seeds), seeds):
            began = time.perf_counter()
            told = verdict(rehearsal) if one == seed else rehearse_seeds(rehearser, read, name, range(one, one + 1))[one]
            verdicts[one], took[one] = told, time.perf_counter() - began
    except PlanError as error:
        raise refusal(str(error)) from None
    errors = [one for one in findings_of(rehearsal, rehearsal.bounds) if one.severity == "error"]
    if as_json:
        by_seed = {"seeds": {str(one): told.model_dump(mode="json") for one, told in verdicts.items()}} if seeds > 1 else {}
        typer.echo(json.dumps(json_report(rehearsal) | by_seed, ensure_ascii=False))
    elif seeds > 1:
        typer.echo(spread_text(name, spread(verdicts)))
    else:
        typer.echo(text_report(rehearsal))
    if errors and not as_json:
        typer.echo("\n".join(["", "Findings that are errors", *findings_text(errors)]))
    if junit is not None:
        judged = {one: told.promises for one, told in verdicts.items()}
        write_file(junit, write_promises(name, judged, took, errors))
    if errors or not all(promise.kept for told in verdicts.values() for promise in told.promises):
        raise typer.Exit(1)
