"""The `jostle` command: what it can do. Each command is loaded when it is asked for, so that none waits for another."""

import sys
from importlib import import_module
from typing import Any, NamedTuple

import typer
from typer.core import TyperCommand, TyperGroup


class Listed(NamedTuple):
    """Where a command stands, `jostle.cli.MODULE:NAME`, and what it does, as its own help begins."""

    where: str
    does: str
    # Whether -1 is a number of its, rather than an option
    below_zero: bool = False


COMMANDS = {
    "rehearse": Listed("rehearse:rehearse", "Rehearse a group over the plan's span and say what comes of it."),
    "live": Listed(
        "live:live",
        "Live through a span on the stand-in at full pace, a keeper deciding, and say what came of it, as `rehearse` does.",
    ),
    "check": Listed("check:check", "Say what is worth a second look in a plan."),
    "compare": Listed(
        "compare:compare",
        "Say what differs between two plans: sentences, cost, counts, promises and findings, each over the same seeds.",
    ),
    "explain": Listed("explain:explain", "Say why the count is what it is at a time, and not more or less."),
    "calendar": Listed("calendar:calendar", "Say when the entries of a group's calendar hold within the plan's span."),
    "templates": Listed(
        "templates:templates", "Say what versions of launch templates there are, which groups use them, and how they differ."
    ),
    "schema": Listed("schema:schema", "Print the JSON Schema of the plan document."),
    "compose": Listed(
        "compose:compose",
        "Compose a demand from what arrived: its level, day, weekdays, growth, unevenness and rushes, as layers.",
    ),
    "fit": Listed(
        "fit:fit", "Estimate what a rehearsal is told of a group from what was observed of it, each with its interval of 90 %."
    ),
    "backtest": Listed(
        "fit:backtest", "Rehearse the past with the demand that came, and say how far the rehearsal is from what was."
    ),
    "starts": Listed("starts:starts", "List the arrangements to begin from, with the reason of each choice."),
    "new": Listed("starts:new", "Write a plan with one group, made from a start, against a demand that it suits."),
    "tune": Listed("tune:tune", "Look for the settings that keep all promises at the least cost."),
    "state": Listed("steer:state", "Say how the groups stand that the running service keeps."),
    "hand": Listed("steer:hand", "Do one thing by hand to a group that the running service keeps.", below_zero=True),
    "serve": Listed("service:serve", "Serve the workbench on 127.0.0.1."),
    "demo": Listed("service:demo", "Serve the workbench with the demo data, which is loaded the first time."),
    "standin": Listed("standin:standin", "Serve the stand-in for a cloud on 127.0.0.1, which speaks the provider protocol."),
    "receive": Listed("service:receive", "Take notices and say what is in them: a receiver to try them with."),
    "backup": Listed("service:backup", "Write a copy of the records to a file, while the service runs or not."),
    "restore": Listed("service:restore", "Put a backup in the place of the records, once it has been checked."),
    "costs": Listed("costs:app", "What was spent."),
    "provider": Listed("standin:provider_app", "Whatever instances run on."),
}


class Commands(TyperGroup):
    """Commands by what is listed of them; the one that is asked for is loaded."""

    def __init__(self, **given: Any) -> None:
        super().__init__(**given)
        self.commands = {name: TyperCommand(name, short_help=listed.does) for name, listed in COMMANDS.items()}

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        name, listed, rest = super().resolve_command(ctx, args)
        return name, loaded(name) if name in COMMANDS else listed, rest


def loaded(name: str) -> Any:
    """The command itself, or the group of commands."""
    listed = COMMANDS[name]
    module, _, noun = listed.where.partition(":")
    found = getattr(import_module(f"jostle.cli.{module}"), noun)
    if isinstance(found, typer.Typer):
        return typer.main.get_group(found)
    alone = typer.Typer(add_completion=False, rich_markup_mode=None)
    alone.command(name, context_settings={"ignore_unknown_options": listed.below_zero})(found)
    return typer.main.get_command(alone)


app = typer.Typer(cls=Commands, add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, rich_markup_mode=None)


@app.callback()
def main() -> None:
    """Rehearse instance groups."""


if __name__ == "__main__":
    sys.exit(app())
