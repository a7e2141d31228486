"""`jostle fit` and `jostle backtest`: the model of a group held against what was observed of it."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

import typer

from jostle.cli.given import chosen_group, known_group, read_bytes, read_plan_from, write_file
from jostle.cli.option import OneGroup
from jostle.cli.refusal import refusal
from jostle.core.fitting.backtest import backtest as tried
from jostle.core.fitting.estimate import Estimate
from jostle.core.fitting.fit import fit as fitted
from jostle.core.fitting.observed import Observed
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError
from jostle.core.plan.setting import setting, with_setting
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.formats.observed_file import read_observed
from jostle.formats.plan_file import write_plan
from jostle.formats.series_error import SeriesError

PlanFile = Annotated[Path, typer.Argument(help="Plan file", metavar="PLAN")]
SeriesFile = Annotated[Path, typer.Argument(help="CSV or OpenMetrics file with a column for each quantity", metavar="FILE")]
Columns = Annotated[
    list[str] | None,
    typer.Option(metavar="COLUMN=QUANTITY[:UNIT]", help="What a column is: arrivals, instances, wanted, cpu, latency, …"),
]
PerInstance = Annotated[bool, typer.Option(help="Arrivals are told of one instance rather than of the group")]
AsJson = Annotated[bool, typer.Option("--json", help="JSON instead of text")]


def fit(
    plan: PlanFile,
    file: SeriesFile,
    group: OneGroup = None,
    column: Columns = None,
    per_instance: PerInstance = False,
    as_json: AsJson = False,
    write: Annotated[Path | None, typer.Option(help="Write the plan with what was found to a file")] = None,
) -> None:
    """Estimate what a rehearsal is told of a group from what was observed of it, each with its interval of 90 %."""
    read, name, observed, notes = _given(plan, file, group, column, per_instance)
    found = fitted(observed, crew_of(read, name))
    document = read.groups[name].model_dump(mode="json", by_alias=True)
    if as_json:
        told: dict[str, Any] = {"estimates": [_plain(one) for one in found.estimates]}
        typer.echo(json.dumps(told | {"not_told": found.not_told, "notes": notes}, ensure_ascii=False))
    else:
        for note in notes:
            typer.echo(note, err=True)
        for one in found.estimates:
            has = f", the plan has {one.say(setting(document, one.path))}" if one.path else ""
            typer.echo(f"{one.name}: {one.say(one.value)} ({one.say(one.low)} to {one.say(one.high)}){has}")
            typer.echo(f"  {one.beside}")
        for said in found.not_told:
            typer.echo(f"not told: {said}")
    if not found.estimates:
        raise refusal("nothing can be told from these columns")
    if write is not None:
        for one in found.estimates:
            if one.path:
                document = with_setting(document, one.path, float(f"{one.value:.4g}"))
        try:
            write_file(write, write_plan(with_group(read, name, document)).encode())
        except PlanError as error:
            raise refusal(str(error)) from None


def backtest(
    plan: PlanFile,
    file: SeriesFile,
    group: OneGroup = None,
    column: Columns = None,
    per_instance: PerInstance = False,
    seed: Annotated[int, typer.Option(help="Seed of chance")] = 1,
    as_json: AsJson = False,
) -> None:
    """Rehearse the past with the demand that came, and say how far the rehearsal is from what was."""
    read, name, observed, notes = _given(plan, file, group, column, per_instance)
    try:
        found = tried(read, name, observed, seed)
    except PlanError as error:
        raise refusal(str(error)) from None
    if not found.apart:
        raise refusal("no column says how many instances there were, their CPU or the latency: there is nothing to compare with")
    if as_json:
        typer.echo(json.dumps({"apart": [asdict(one) for one in found.apart], "notes": notes}, ensure_ascii=False))
        return
    for note in notes:
        typer.echo(note, err=True)
    for said in found.said:
        typer.echo(said)


def _given(
    plan: Path, file: Path, group: str | None, column: list[str] | None, per_instance: bool
) -> "tuple[Plan, str, Observed, list[str]]":

    try:
        read = read_plan_from(plan, {})
        name = chosen_group(read, group)
        known_group(read, name)
        observed, notes = read_observed(read_bytes(file, "file"), read.zone, column, per_instance)
    except SeriesError as error:
        raise refusal(f"{file}: {error}") from None
    except PlanError as error:
        raise refusal(str(error)) from None
    return read, name, observed, [note.text for note in notes]


def _plain(one: "Estimate") -> dict[str, Any]:
    return {field: value for field, value in asdict(one).items() if field != "scatter"}
