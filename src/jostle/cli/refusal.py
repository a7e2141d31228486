"""How a command ends that cannot do what it was asked."""

import typer

UNUSABLE = 2


def refusal(message: str) -> typer.Exit:
    """Says why on standard error; to be raised."""
    typer.echo(message, err=True)
    return typer.Exit(UNUSABLE)
