"""What was spent while a plan lived, from the records, while the service runs or not."""

import json
from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from jostle.cli.given import write_file
from jostle.cli.refusal import refusal
from jostle.cli.service import Folder, PlanNumber, records_of

if TYPE_CHECKING:
    from jostle.formats.costs_csv import Spent
    from jostle.live.live import Live

app = typer.Typer(no_args_is_help=False, help="What was spent.")
DIMENSIONS = ("group", "type", "purchase", "zone", "version", "owned", "what", "day")


@app.callback(invoke_without_command=True)
def costs(
    context: typer.Context,
    data: Folder = None,
    plan: PlanNumber = None,
    begin: Annotated[str | None, typer.Option("--from", help="First day, such as 2025-07-01")] = None,
    end: Annotated[str | None, typer.Option("--to", help="Last day")] = None,
    by: Annotated[str, typer.Option(help=f"One or more of {', '.join(DIMENSIONS)}, by commas")] = "group",
    as_json: Annotated[bool, typer.Option("--json", help="JSON instead of a table")] = False,
    as_csv: Annotated[bool, typer.Option("--csv", help="CSV instead of a table")] = False,
) -> None:
    """Say what was spent from one day to another, both included, by what is asked."""
    if context.invoked_subcommand is not None:
        return
    dimensions = [one.strip() for one in by.split(",")]
    for one in dimensions:
        if one not in DIMENSIONS:
            raise refusal(f'--by "{one}": write one of {", ".join(DIMENSIONS)}')
    first, last = _day(begin, "--from"), _day(end, "--to")
    live = _lived(data, plan)
    summed: dict[tuple[str, ...], Decimal] = {}
    for row in _rows(live):
        day = date.fromisoformat(row.day)
        if (first is None or day >= first) and (last is None or day <= last):
            key = tuple(_of(row, one) for one in dimensions)
            summed[key] = summed.get(key, Decimal()) + row.amount
    currency = live.plan.currency
    if as_json:
        rows = [dict(zip(dimensions, key, strict=True)) | {"amount": str(amount)} for key, amount in summed.items()]
        typer.echo(json.dumps({"currency": currency, "rows": rows, "total": str(sum(summed.values(), Decimal()))}))
    elif as_csv:
        typer.echo(",".join([*dimensions, f"amount_{currency}"]))
        for key, amount in summed.items():
            typer.echo(",".join([*key, str(amount)]))
    else:
        width = max((len(" ".join(key)) for key in summed), default=5)
        for key, amount in sorted(summed.items(), key=lambda one: -one[1]):
            typer.echo(f"{' '.join(key):<{width}}  {amount:>14,.6f}")
        typer.echo(f"{'in all':<{width}}  {sum(summed.values(), Decimal()):>14,.6f} {currency}")


@app.command()
def export(
    file: Annotated[Path, typer.Argument(help="File to write; - for standard output")],
    form: Annotated[str, typer.Option("--format", help="hours, days, instances or focus")] = "days",
    data: Folder = None,
    plan: PlanNumber = None,
) -> None:
    """Write all that was spent as CSV; `focus` is the open cost and usage format."""
    from jostle.formats.costs_csv import write_costs

    if form not in ("hours", "days", "instances", "focus"):
        raise refusal(f'--format "{form}": write hours, days, instances or focus')
    live = _lived(data, plan)
    text = write_costs(_rows(live), form, live.plan.name, live.plan.currency)  # type: ignore[arg-type]
    if str(file) == "-":
        typer.echo(text, nl=False)
    else:
        write_file(file, text.encode())


def _lived(data: Path | None, number: int | None) -> "Live":
    from jostle.core.rehearsal.rehearser import Rehearser
    from jostle.live.live import Live
    from jostle.records.live_store import LiveStore

    store = records_of(data)
    plans = [one for one, _ in store.plans()]
    if not plans or (number is not None and number not in plans):
        raise refusal(f"there is no plan {number or ''} in {store.path}".replace("  ", " "))
    kept = LiveStore(store).of(number or plans[0])
    if kept is None:
        raise refusal("this plan does not live yet: nothing was spent")
    live = Live.begin(kept.plan, kept.begun, Rehearser())
    live.replay(kept.log, kept.clock)
    return live


def _rows(live: "Live") -> "Iterator[Spent]":
    from jostle.live.spent import spent

    return spent(live)


def _of(row: "Spent", dimension: str) -> str:
    own = row.instance is None
    return {
        "group": row.group,
        "type": row.machine or "the group",
        "purchase": row.purchase or "the group",
        "zone": row.zone or "the group",
        "version": "the group" if own else str(row.version),
        "owned": "the group" if own else "overflow" if row.overflow else "owned",
        "what": row.what,
        "day": row.day,
    }[dimension]


def _day(text: str | None, option: str) -> date | None:
    try:
        return None if text is None else date.fromisoformat(text)
    except ValueError:
        raise refusal(f'{option} "{text}": write a day such as 2025-07-01') from None
