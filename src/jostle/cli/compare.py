"""`jostle compare`: two plans side by side, for a pipeline and for whoever reviews a change."""

import json
from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.given import is_of_plan, read_plan_from, settings_of, write_file
from jostle.cli.refusal import refusal
from jostle.core.checks.review import Reviewed, refused, review
from jostle.core.plan.problem import PlanError
from jostle.core.plan.quantity import read_share
from jostle.formats.review_text import write_html, write_markdown, write_text

FORMS = ("text", "json", "markdown", "html")
DEARER_BY = "5 %"


def compare(
    old: Annotated[Path, typer.Argument(help="Plan file as it was; - for standard input", metavar="OLD")],
    new: Annotated[Path, typer.Argument(help="Plan file as it is to be", metavar="NEW")],
    group: Annotated[list[str] | None, typer.Option(help="Only these groups")] = None,
    seeds: Annotated[int, typer.Option(min=1, max=100, help="Rehearse each under so many seeds, the same for both")] = 5,
    form: Annotated[str, typer.Option("--format", help="text, json, markdown or html")] = "text",
    out: Annotated[Path | None, typer.Option(help="Write it to this file rather than to standard output")] = None,
    set_: Annotated[
        list[str] | None, typer.Option("--set", metavar="PATH=VALUE", help="Replace a value of NEW, groups.NAME.… for a group's")
    ] = None,
    gate: Annotated[
        bool, typer.Option("--gate", help="Refuse what costs too much more, breaks a promise, has new errors")
    ] = False,
    dearer_by: Annotated[str, typer.Option(help="By how much all of it may cost more, for --gate")] = DEARER_BY,
) -> None:
    """Say what differs between two plans: sentences, cost, counts, promises and findings, each over the same seeds.

    Ends with 0, with 1 where the gate refuses, with 2 where the input cannot be used.
    """
    if form not in FORMS:
        raise refusal(f'--format "{form}": write text, json, markdown or html')
    if str(old) == str(new) == "-":
        raise refusal("OLD and NEW: only one of them can come from standard input")
    try:
        limit = read_share(dearer_by)
    except ValueError as error:
        raise refusal(f'--dearer-by "{dearer_by}": {error}') from None
    try:
        settings = settings_of(set_)
        if strange := next((path for path in settings if not is_of_plan(path)), None):
            raise refusal(f"--set {strange}: write it whole, as groups.NAME.{strange}")
        found = review(read_plan_from(old, {}), read_plan_from(new, settings), range(1, seeds + 1), group)
    except PlanError as error:
        raise refusal(str(error)) from None
    against = refused(found.told, limit) if gate else None
    names = (new.name, old.name) if new.name != old.name else (str(new), str(old))
    text = _written(found, form, " against ".join(names), against)
    if out is None:
        typer.echo(text)
    else:
        write_file(out, text.encode())
    for one in against or ():
        typer.echo(f"refused: {one}", err=True)
    if against:
        raise typer.Exit(1)


def _written(found: Reviewed, form: str, title: str, against: list[str] | None) -> str:
    if form == "json":
        return json.dumps({**found.told.model_dump(mode="json"), "refused": against or []}, ensure_ascii=False)
    if form == "markdown":
        return write_markdown(found.told, against)
    return write_html(found, title, against) if form == "html" else write_text(found.told)
