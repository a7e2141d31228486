"""`jostle check`: what is worth a second look in a plan."""

import json
from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.given import chosen_group, is_of_plan, read_plan_from, settings_of, with_changes, write_file
from jostle.cli.option import AsJson, PlanFile, Seed, Settings
from jostle.cli.progress import watched
from jostle.cli.refusal import refusal
from jostle.cli.report import findings_text
from jostle.core.checks.check import check as findings_of
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.formats.findings_sarif import write_findings
from jostle.formats.plan_file import line_of


def check(
    plan: PlanFile,
    group: Annotated[str | None, typer.Option(help="Only this group")] = None,
    seed: Seed = 1,
    set_: Settings = None,
    as_json: AsJson = False,
    sarif: Annotated[Path | None, typer.Option(help="Write the findings to this file as SARIF 2.1.0")] = None,
) -> None:
    """Say what is worth a second look in a plan. Ends with 1 where a finding is an error."""
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
