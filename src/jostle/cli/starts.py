"""`jostle starts` and `jostle new`: arrangements to begin from."""

import json
import textwrap
from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.given import write_file
from jostle.cli.refusal import refusal
from jostle.core.change.starts import STARTS, plan_of_start
from jostle.core.plan.plan import read_plan
from jostle.core.plan.problem import PlanError
from jostle.core.today import this_monday
from jostle.formats.plan_file import write_plan
from jostle.formats.shipped import starter_plan


def starts(as_json: Annotated[bool, typer.Option("--json", help="JSON instead of text")] = False) -> None:
    """List the arrangements to begin from, with the reason of each choice."""
    if as_json:
        told = [
            {"name": name, "title": one.title, "what": one.what, "reasons": dict(one.reasons)} for name, one in STARTS.items()
        ]
        typer.echo(json.dumps(told, ensure_ascii=False))
        return
    for name, one in STARTS.items():
        typer.echo(f"{name}: {one.title.lower()}; {one.what}")
        for what, why in one.reasons.items():
            typer.echo(textwrap.fill(f"{what}: {why}", 80, initial_indent="  ", subsequent_indent="    "))


def new(
    start: Annotated[str, typer.Option(help=f"What to begin from: {', '.join(STARTS)}")],
    file: Annotated[
        Path | None, typer.Argument(help="Where to write the plan; standard output if left out", metavar="FILE")
    ] = None,
    name: Annotated[str | None, typer.Option(help="Name of the group; that of the start if left out")] = None,
    time_zone: Annotated[str, typer.Option(help="Where it works")] = "UTC",
) -> None:
    """Write a plan with one group, made from a start, against a demand that it suits."""
    if file is not None and file.exists():
        raise refusal(f"{file}: is there already; name another file")
    try:
        document = starter_plan().model_dump(mode="json") | {"time_zone": time_zone}
        begun = document | {"start": f"{this_monday(read_plan(document).zone)}T00:00"}
        made = plan_of_start(begun, start, name or start)
    except PlanError as error:
        raise refusal(str(error)) from None
    if file is None:
        typer.echo(write_plan(made), nl=False)
        return
    write_file(file, write_plan(made).encode())
    typer.echo(f"{file} has {name or start}; rehearse it: jostle rehearse {file}")
