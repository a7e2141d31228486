"""The `jostle` command."""

import json
import sys
import textwrap
import time
from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.compose import compose
from jostle.cli.costs import app as costs_app
from jostle.cli.fit import backtest, fit
from jostle.cli.given import (
    chosen_group,
    is_of_plan,
    read_plan_from,
    settings_of,
    with_calendar,
    with_changes,
    with_demand,
    write_file,
)
from jostle.cli.progress import watched
from jostle.cli.refusal import refusal
from jostle.cli.service import backup, demo, receive, restore, serve
from jostle.cli.standin import provider_app, standin
from jostle.cli.starts import new, starts
from jostle.cli.steer import hand, state
from jostle.cli.tune import tune
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.today import now

# s for which a provider that is away is waited for
PATIENCE = 600.0
app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help="Rehearse instance groups.")

PlanFile = Annotated[Path, typer.Argument(help="Plan file, YAML or JSON; - for standard input", metavar="PLAN")]
OneGroup = Annotated[str | None, typer.Option(help="Which group; needed where the plan has several")]
OtherDemand = Annotated[
    str | None, typer.Option(help="A demand of the plan by name, or a file: CSV or OpenMetrics text, - for standard input")
]
Unit = Annotated[str | None, typer.Option(help="Unit of the values of that file, where it does not name it")]
Column = Annotated[str | None, typer.Option(help="Column, or series, of the values in that file")]
FileClock = Annotated[str | None, typer.Option("--clock", help="Zone of its times without an offset; the plan's if left out")]
Seed = Annotated[int, typer.Option(help="Seed of all chance")]
Settings = Annotated[
    list[str] | None, typer.Option("--set", metavar="PATH=VALUE", help="Replace a value of the plan, or of the group")
]
AsJson = Annotated[bool, typer.Option("--json", help="One JSON object instead of text")]


@app.command()
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
    from jostle.cli.report import findings_text, json_report, spread_text, text_report
    from jostle.core.checks.check import check as findings_of
    from jostle.core.rehearsal.rehearser import Rehearser
    from jostle.core.rehearsal.spread import rehearse_seeds, spread
    from jostle.core.rehearsal.verdict import verdict
    from jostle.formats.promises_junit import write_promises

    try:
        settings = settings_of(set_)
        read = read_plan_from(plan, settings)
        name = chosen_group(read, group)
        read = with_changes(read, name, settings)
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


def _live_afar(
    plan: Plan, names: list[str], url: str, days: float | None, until: str | None, dry_run: bool, as_json: bool
) -> None:
    """Keep groups at a provider in another process, and say what its record says."""
    from jostle.cli.report import remarks_of
    from jostle.core.plan.clock import DAY
    from jostle.core.plan.place import companies
    from jostle.core.rehearsal.rehearsal import crew_of
    from jostle.live.afar import Afar, keep_together
    from jostle.live.patience import Patience
    from jostle.live.span import seconds_of
    from jostle.provider.client import HttpProvider
    from jostle.provider.provider import NotThere, Refused, Unusable

    def lost(said: str) -> None:
        typer.echo(f"{now().astimezone():%H:%M:%S}  {said}; it is asked again, and nothing else is done", err=True)

    try:
        seconds = seconds_of(plan, days, until) or plan.days * DAY
        for name in names:
            crew_of(plan, name)
        kept: dict[str, Afar] = {}
        wanted = [company for company in companies(plan) if not set(company).isdisjoint(names)]
        for company in watched("groups", wanted, len(wanted)):
            for name in company:
                kept[name] = Afar(plan, name, HttpProvider(url), patience=Patience(PATIENCE, lost))
                kept[name].keeper.dry = dry_run and name in names
            keep_together([kept[name] for name in company], seconds)
        told = {name: kept[name].figures() for name in names}
        remarks = {name: remarks_of(kept[name].clock, kept[name].remarks) for name in names}
    except (Refused, NotThere, Unusable, ConnectionError) as error:
        raise refusal(str(error)) from None
    if as_json:
        plain = {name: figures.model_dump(mode="json") | {"remarks": remarks[name]} for name, figures in told.items()}
        typer.echo(json.dumps(plain, ensure_ascii=False))
        return
    for name, figures in told.items():
        counts = f"{figures.changes} changes of the count, {figures.min_count} to {figures.max_count}"
        said = f"{figures.currency} {figures.cost:.2f}, {counts}"
        typer.echo(
            f"{name}: {said}; short for {figures.short_minutes:g} min, {figures.served:,.0f} served, {figures.failed:,.0f} failed"
        )
        typer.echo("".join(f"{line}\n" for line in remarks[name]), nl=False)


@app.command()
def live(
    plan: PlanFile,
    group: Annotated[list[str] | None, typer.Option(help="Which groups; all of them if left out")] = None,
    days: Annotated[float | None, typer.Option(min=0.01, max=31, help="So many days; the plan's span if left out")] = None,
    until: Annotated[str | None, typer.Option(help="Or until a time such as 2025-07-10T12:20, on the plan's wall clock")] = None,
    seed: Seed = 1,
    provider: Annotated[
        str | None, typer.Option(metavar="URL", help="Keep them there, over HTTP; the plan has to be the same")
    ] = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Say what the keeper would do, and order nothing")] = False,
    set_: Settings = None,
    as_json: AsJson = False,
) -> None:
    """Live through a span on the stand-in at full pace, a keeper deciding, and say what came of it, as `rehearse` does.

    Ends with 0 where all promises are kept, with 1 where one is broken, with 2 where the input cannot be used.
    """
    from jostle.cli.report import json_report, remarks_of, text_report
    from jostle.core.rehearsal.verdict import verdict
    from jostle.live.span import lived

    try:
        settings = settings_of(set_)
        read = read_plan_from(plan, settings)
        names = group or list(read.groups)
        if not all(map(is_of_plan, settings)):
            read = with_changes(read, chosen_group(read, names[0] if len(names) == 1 else None), settings)
        if provider is not None:
            _live_afar(read, names, provider, days, until, dry_run, as_json)
            return
        lives = {name: lived(read, name, seed, days, until, dry_run) for name in watched("groups", names, len(names))}
    except PlanError as error:
        raise refusal(str(error)) from None
    records = {name: life.record() for name, life in lives.items()}
    remarks = {name: remarks_of(life.clock, life.remarks) for name, life in lives.items()}
    if as_json:
        told = {name: json_report(record) | {"remarks": remarks[name]} for name, record in records.items()}
        typer.echo(json.dumps(told[names[0]] if len(names) == 1 else told, ensure_ascii=False))
    else:
        typer.echo("\n\n".join("\n".join([text_report(record), *remarks[name]]) for name, record in records.items()))
    if not all(one.kept for record in records.values() for one in verdict(record).promises):
        raise typer.Exit(1)


@app.command()
def check(
    plan: PlanFile,
    group: Annotated[str | None, typer.Option(help="Only this group")] = None,
    seed: Seed = 1,
    set_: Settings = None,
    as_json: AsJson = False,
    sarif: Annotated[Path | None, typer.Option(help="Write the findings to this file as SARIF 2.1.0")] = None,
) -> None:
    """Say what is worth a second look in a plan. Ends with 1 where a finding is an error."""
    from jostle.cli.report import findings_text
    from jostle.core.checks.check import check as findings_of
    from jostle.core.rehearsal.rehearser import Rehearser
    from jostle.formats.findings_sarif import write_findings
    from jostle.formats.plan_file import line_of

    try:
        settings = settings_of(set_)
        read = read_plan_from(plan, settings)
        if not all(map(is_of_plan, settings)):
            read = with_changes(read, chosen_group(read, group), settings)
        names = [group] if group is not None else list(read.groups)
        rehearser = Rehearser()
        found = {
            name: findings_of(one := rehearser.rehearse(read, name, seed), one.bounds)
            for name in watched("groups", names, len(names))
        }
    except PlanError as error:
        raise refusal(str(error)) from None
    if as_json:
        told = {name: [one.model_dump(mode="json") for one in findings] for name, findings in found.items()}
        typer.echo(json.dumps({"findings": told}, ensure_ascii=False))
    else:
        for name, findings in found.items():
            typer.echo(f"{name}: {len(findings) or 'no'} finding{'' if len(findings) == 1 else 's'}")
            for paragraph in findings_text(findings):
                typer.echo(paragraph)
    if sarif is not None:
        write_file(sarif, write_findings(found, plan.as_posix(), lambda place: line_of(plan, place)).encode())
    if any(one.severity == "error" for findings in found.values() for one in findings):
        raise typer.Exit(1)


@app.command()
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
    from jostle.core.journal.moment import moment
    from jostle.core.journal.outlook import outlook
    from jostle.core.rehearsal.rehearser import rehearse as run_rehearsal

    try:
        settings = settings_of(set_)
        read = read_plan_from(plan, settings)
        name = chosen_group(read, group)
        read = with_changes(read, name, settings)
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


@app.command()
def calendar(
    plan: PlanFile,
    group: OneGroup = None,
    set_: Settings = None,
    ics: Annotated[Path | None, typer.Option(help="Write the calendar to this file as iCalendar")] = None,
) -> None:
    """Say when the entries of a group's calendar hold within the plan's span."""
    from jostle.core.calendar.occurrence import stretches
    from jostle.core.journal.event import say_time
    from jostle.core.rehearsal.rehearsal import clock_of
    from jostle.formats.calendar_ics import write_calendar

    try:
        settings = settings_of(set_)
        read = read_plan_from(plan, settings)
        name = chosen_group(read, group)
        read = with_changes(read, name, settings)
        if name not in read.groups:
            raise PlanError([Problem(("group",), name, f"no group has this name; there is: {', '.join(read.groups)}")])
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


@app.command()
def templates(
    plan: PlanFile,
    compare: Annotated[str | None, typer.Option(metavar="NAME", help="Say how the versions of this template differ")] = None,
    set_: Settings = None,
) -> None:
    """Say what versions of launch templates there are, which groups use them, and how they differ."""
    from jostle.core.journal.template_line import difference_lines, template_lines

    try:
        read = read_plan_from(plan, settings_of(set_))
        if compare is not None and compare not in read.templates:
            names = ", ".join(read.templates) or "none"
            raise PlanError([Problem(("compare",), compare, f"no launch template has this name; there is: {names}")])
    except PlanError as error:
        raise refusal(str(error)) from None
    lines = template_lines(read) if compare is None else difference_lines(read.templates[compare])
    for line in lines:
        typer.echo(textwrap.fill(line, 80, subsequent_indent="    "))


@app.command()
def schema() -> None:
    """Print the JSON Schema of the plan document."""
    typer.echo(json.dumps(Plan.model_json_schema(), indent=2, ensure_ascii=False))


for command in (compose, fit, backtest, starts, new, tune, state, hand, serve, demo, standin, receive, backup, restore):
    app.command()(command)
app.add_typer(costs_app, name="costs")
app.add_typer(provider_app, name="provider")


if __name__ == "__main__":
    sys.exit(app())
