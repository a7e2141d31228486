"""`jostle templates`: versions of launch templates."""

import textwrap
from typing import Annotated

import typer

from jostle.cli.given import read_plan_from, settings_of
from jostle.cli.option import PlanFile, Settings
from jostle.cli.refusal import refusal
from jostle.core.journal.template_line import difference_lines, template_lines
from jostle.core.plan.problem import PlanError, Problem


def templates(
    plan: PlanFile,
    compare: Annotated[str | None, typer.Option(metavar="NAME", help="Say how the versions of this template differ")] = None,
    set_: Settings = None,
) -> None:
    """Say what versions of launch templates there are, which groups use them, and how they differ."""
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
