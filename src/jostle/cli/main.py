"""The `jostle` command."""

import json
import sys
import textwrap
from pathlib import Path
from typing import Annotated, Any

import typer
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help="Rehearse instance groups.")

UNUSABLE = 2

PlanFile = Annotated[Path, typer.Argument(help="Plan file, YAML or JSON", metavar="PLAN")]
OneGroup = Annotated[str | None, typer.Option(help="Which group; needed where the plan has several")]
OtherDemand = Annotated[str | None, typer.Option(help="A demand of the plan by name, or a CSV file")]
Seed = Annotated[int, typer.Option(help="Seed of all chance")]
Settings = Annotated[list[str] | None, typer.Option("--set", metavar="PATH=VALUE", help="Replace a value of the plan")]
AsJson = Annotated[bool, typer.Option("--json", help="One JSON object instead of text")]
Port = Annotated[int | None, typer.Option(help="Port on 127.0.0.1; JOSTLE_PORT, or else 8470")]
Folder = Annotated[Path | None, typer.Option(help="Folder of the records; JOSTLE_DATA, or else the user's own")]


def _fail(message: str) -> typer.Exit:
    typer.echo(message, err=True)
    return typer.Exit(UNUSABLE)


def _settings(pairs: list[str]) -> dict[str, Any]:
    settings = {}
    for pair in pairs:
        path, equals, text = pair.partition("=")
        if not equals or not path:
            raise _fail(f'--set "{pair}": write PATH=VALUE, such as groups.booking-web.maximum=30')
        try:
            settings[path] = YAML(typ="safe", pure=True).load(text)
        except YAMLError:
            settings[path] = text
    return settings


@app.command()
def rehearse(
    plan: PlanFile,
    group: OneGroup = None,
    demand: OtherDemand = None,
    seed: Seed = 1,
    set_: Settings = None,
    as_json: AsJson = False,
) -> None:
    """Rehearse a group over the plan's span and say what comes of it."""
    from jostle.cli.report import json_report, text_report
    from jostle.core.compiled import is_warm
    from jostle.core.rehearsal.rehearsal import rehearse as run_rehearsal

    try:
        read = _read(plan, _settings(set_ or []))
        name = _chosen_group(read, group)
        read = _with_demand(read, name, demand)
        if not is_warm():
            typer.echo("Compiling the engine; this happens once and takes about half a minute.", err=True)
        rehearsal = run_rehearsal(read, name, seed)
    except PlanError as error:
        raise _fail(str(error)) from None
    if as_json:
        typer.echo(json.dumps(json_report(rehearsal), ensure_ascii=False))
    else:
        typer.echo(text_report(rehearsal))


def _read(path: Path, settings: dict[str, Any]) -> Plan:
    from jostle.formats.plan_file import read_plan_file

    return read_plan_file(path, settings)


def _chosen_group(plan: Plan, group: str | None) -> str:
    if group is not None:
        return group
    if len(plan.groups) != 1:
        names = ", ".join(plan.groups) or "none"
        raise PlanError([Problem(("group",), None, f"say which with --group; there is: {names}")])
    return next(iter(plan.groups))


def _with_demand(plan: Plan, group: str, demand: str | None) -> Plan:
    """The plan with another demand for one group: one of its own, or a CSV file."""
    if demand is None or group not in plan.groups:
        return plan
    demands = dict(plan.demands)
    if demand not in demands:
        path = Path(demand)
        if path.suffix.lower() != ".csv":
            names = ", ".join(demands)
            raise PlanError([Problem(("demand",), demand, f"is neither a demand of the plan ({names}) nor a CSV file")])
        demands[demand] = _brought(path, plan)
    changed = plan.groups[group].model_copy(update={"demand": demand})
    return plan.model_copy(update={"demands": demands, "groups": {**plan.groups, group: changed}})


def _brought(path: Path, plan: Plan) -> Any:
    from jostle.core.plan.demand import Brought, Demand
    from jostle.formats.series_csv import SeriesError, read_series

    try:
        series = read_series(path.read_bytes(), plan.zone)
    except OSError as error:
        raise PlanError([Problem(("demand",), str(path), f"cannot be opened: {error.strerror}")]) from None
    except SeriesError as error:
        raise PlanError([Problem((str(path),), None, str(fault)) for fault in error.faults]) from None
    for note in series.notes:
        typer.echo(f"{path}: {note}", err=True)
    return Demand(layers=[Brought(kind="brought", file=path.name, samples=series.samples)])


@app.command()
def check(
    plan: PlanFile,
    group: Annotated[str | None, typer.Option(help="Only this group")] = None,
    seed: Seed = 1,
    set_: Settings = None,
    as_json: AsJson = False,
) -> None:
    """Say what is worth a second look in a plan. Ends with 1 where a finding is an error."""
    from jostle.core.checks.check import check as findings_of
    from jostle.core.rehearsal.rehearsal import rehearse as run_rehearsal

    try:
        read = _read(plan, _settings(set_ or []))
        names = [group] if group is not None else list(read.groups)
        found = {name: findings_of(run_rehearsal(read, name, seed)) for name in names}
    except PlanError as error:
        raise _fail(str(error)) from None
    if as_json:
        told = {name: [one.model_dump(mode="json") for one in findings] for name, findings in found.items()}
        typer.echo(json.dumps({"findings": told}, ensure_ascii=False))
    else:
        for name, findings in found.items():
            typer.echo(f"{name}: {len(findings) or 'no'} finding{'' if len(findings) == 1 else 's'}")
            for one in findings:
                mend = f" Mend: {one.mend.text}." if one.mend else ""
                text = f"{one.severity} {one.code} at {one.path}: {one.text}{mend}"
                typer.echo(textwrap.fill(text, 80, initial_indent="  ", subsequent_indent="    "))
    if any(one.severity == "error" for findings in found.values() for one in findings):
        raise typer.Exit(1)


@app.command()
def explain(
    plan: PlanFile,
    at: Annotated[str, typer.Option(help="A time such as 2025-07-10T12:20, on the plan's wall clock")],
    group: OneGroup = None,
    demand: OtherDemand = None,
    seed: Seed = 1,
    set_: Settings = None,
) -> None:
    """Say why the count is what it is at a time, and not more or less."""
    from jostle.core.journal.moment import moment
    from jostle.core.rehearsal.rehearsal import rehearse as run_rehearsal

    try:
        read = _read(plan, _settings(set_ or []))
        name = _chosen_group(read, group)
        rehearsal = run_rehearsal(_with_demand(read, name, demand), name, seed)
        try:
            seconds = rehearsal.clock.epoch_of(at) - rehearsal.clock.first
        except ValueError:
            raise PlanError([Problem(("at",), at, "write a time such as 2025-07-10T12:20")]) from None
        found = moment(rehearsal, seconds)
        if found is None or not 0 <= seconds <= rehearsal.clock.seconds:
            last = rehearsal.clock.at(rehearsal.clock.first + rehearsal.clock.seconds).isoformat()
            raise PlanError([Problem(("at",), at, f"lies outside the plan: {read.start.isoformat()} to {last}")])
    except PlanError as error:
        raise _fail(str(error)) from None
    typer.echo(found.title)
    for reason in found.reasons:
        typer.echo(textwrap.fill(f"{reason.text}: {reason.outcome}", 80, initial_indent="  ", subsequent_indent="    "))
    typer.echo(found.decision)


@app.command()
def schema() -> None:
    """Print the JSON Schema of the plan document."""
    typer.echo(json.dumps(Plan.model_json_schema(), indent=2, ensure_ascii=False))


@app.command()
def serve(port: Port = None, data: Folder = None) -> None:
    """Serve the workbench on 127.0.0.1."""
    _serve(port, data, with_demo=False)


@app.command()
def demo(port: Port = None, data: Folder = None) -> None:
    """Serve the workbench with the demo data, which is loaded the first time."""
    _serve(port, data, with_demo=True)


def _serve(port: int | None, data: Path | None, with_demo: bool) -> None:
    from jostle.api.server import ServeError
    from jostle.api.server import serve as run_server

    try:
        run_server(port=port, data=data, with_demo=with_demo)
    except ServeError as error:
        raise _fail(str(error)) from None


if __name__ == "__main__":
    sys.exit(app())
