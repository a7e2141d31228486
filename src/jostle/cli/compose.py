"""`jostle compose`: a demand of layers that can be edited, from a series that was observed."""

import json
from pathlib import Path
from typing import Annotated

import typer

from jostle.cli.given import brought_demand, read_plan_from, write_file
from jostle.cli.refusal import refusal
from jostle.core.fitting.composed import composed
from jostle.core.journal.demand_line import demand_sentences
from jostle.core.plan.layer import Brought
from jostle.core.plan.plan import read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.formats.plan_file import write_plan


def compose(
    plan: Annotated[Path, typer.Argument(help="Plan file", metavar="PLAN")],
    series: Annotated[Path, typer.Argument(help="CSV or OpenMetrics file with what arrived", metavar="FILE")],
    name: Annotated[str, typer.Option(help="What the demand is called")] = "composed",
    unit: Annotated[str | None, typer.Option(help="Unit of the values where their heading names none")] = None,
    column: Annotated[str | None, typer.Option(help="Column of the values")] = None,
    clock: Annotated[str | None, typer.Option(help="Time zone of times without an offset")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="JSON instead of text")] = False,
    write: Annotated[Path | None, typer.Option(help="Write the plan with this demand to a file")] = None,
) -> None:
    """Compose a demand from what arrived: its level, day, weekdays, growth, unevenness and rushes, as layers."""
    try:
        read = read_plan_from(plan, {})
        (layer,) = brought_demand(series, read, unit, column, clock).layers
        assert isinstance(layer, Brought)
        assert layer.samples is not None
        found = composed(layer.samples, read.zone, read.start)
        if name in read.demands:
            raise PlanError([Problem(("name",), name, "is a demand of the plan already; choose another with --name")])
        made = read_plan(read.model_copy(update={"demands": {**read.demands, name: found.demand}}).model_dump(mode="json"))
    except PlanError as error:
        raise refusal(str(error)) from None
    if as_json:
        trial = None if found.trial is None else {"composed": found.trial.composed, "week_before": found.trial.week_before}
        told = {"name": name, "demand": found.demand.model_dump(mode="json"), "notes": found.notes, "held_out": trial}
        typer.echo(json.dumps(told, ensure_ascii=False))
    else:
        for sentence, one in zip(demand_sentences(found.demand), found.demand.layers, strict=True):
            muted = " Muted: it was before the last week." if one.muted else ""
            typer.echo("".join(word.text for word in sentence.words) + muted)
        for note in found.said:
            typer.echo(note)
    if write is not None:
        write_file(write, write_plan(made).encode())
