"""`jostle live`: a span lived through, on the stand-in or at a provider."""

import json
from typing import Annotated, Any

import typer

from jostle.cli.given import chosen_group, is_of_plan, read_plan_from, settings_of, with_changes
from jostle.cli.option import AsJson, PlanFile, Seed, Settings
from jostle.cli.progress import watched
from jostle.cli.refusal import refusal
from jostle.cli.report import json_report, remarks_of, text_report
from jostle.core.plan.clock import DAY
from jostle.core.plan.place import companies
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.verdict import verdict
from jostle.core.today import now
from jostle.live.afar import Afar, BegunAnew, keep_together
from jostle.live.patience import Patience
from jostle.live.span import lived, seconds_of
from jostle.provider.client import HttpProvider
from jostle.provider.provider import AMISS

# s for which a provider that is away is waited for
PATIENCE = 600.0


def _live_afar(
    plan: Plan, names: list[str], url: str, days: float | None, until: str | None, dry_run: bool, as_json: bool
) -> None:
    """Keep groups at a provider in another process, and say what its record says."""

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
                kept[name] = Afar(plan, name, HttpProvider(url), patience=Patience(PATIENCE, lost, bears=AMISS))
                kept[name].keeper.dry = dry_run and name in names
            together = [kept[name] for name in company]
            # A clock that cannot be told is now wherever it is.
            begin = 0.0 if until or together[0].provider.can("clock") else together[0].seen
            keep_together(together, begin + seconds)
        said = {name: _came_to(kept[name]) for name in names}
    except (*AMISS, BegunAnew) as error:
        raise refusal(str(error)) from None
    if as_json:
        typer.echo(json.dumps({name: plain for name, (plain, _) in said.items()}, ensure_ascii=False))
        return
    for name, (plain, text) in said.items():
        typer.echo(f"{name}: {text}")
        typer.echo("".join(f"{line}\n" for line in plain["remarks"]), nl=False)


def _came_to(one: Afar) -> tuple[dict[str, Any], str]:
    """What a group came to, as data and in a line: by the record of its provider, or by what came and what was decided."""
    remarks = remarks_of(one.clock, one.remarks)
    if (figures := one.figures()) is not None:
        counts = f"{figures.changes} changes of the count, {figures.min_count} to {figures.max_count}"
        said = f"{figures.currency} {figures.cost:.2f}, {counts}; short for {figures.short_minutes:g} min"
        text = f"{said}, {figures.served:,.0f} served, {figures.failed:,.0f} failed"
        return figures.model_dump(mode="json") | {"remarks": remarks}, text
    load = one.provider.load(one.group)
    lines = [f"{one.said(at)}: {text}" for at, text in one.lines]
    text = f"{one.keeper.wanted} wanted; {load.arrived:,.0f} came, {load.served:,.0f} served, {load.failed:,.0f} failed"
    plain = {"wanted": one.keeper.wanted, "load": load.model_dump(), "lines": lines, "remarks": remarks}
    return plain, "\n  ".join([text, *lines])


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
