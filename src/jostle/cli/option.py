"""What several commands are given by options."""

from pathlib import Path
from typing import Annotated

import typer

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
