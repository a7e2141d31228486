"""`jostle schema`: what a plan document may hold."""

import json

import typer

from jostle.core.plan.plan import Plan


def schema() -> None:
    """Print the JSON Schema of the plan document."""
    typer.echo(json.dumps(Plan.model_json_schema(), indent=2, ensure_ascii=False))
