"""What was spent while a plan lived, from the ledger in the records, while the service runs or not."""

import json
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from jostle.cli.given import write_file
from jostle.cli.refusal import refusal
from jostle.cli.service import Folder, PlanNumber, records_of

if TYPE_CHECKING:
    from jostle.core.costs.part import By
    from jostle.live.live import Live
    from jostle.records.ledger_store import LedgerStore
    from jostle.records.store import KeptPlan

app = typer.Typer(rich_markup_mode=None, help="What was spent.")
DIMENSIONS = ("group", "type", "purchase", "zone", "version", "owned", "what", "day")
# What the ways of parting an amount are called where they differ
_WAYS: "dict[str, By]" = {
    "type": "machine",
    "purchase": "purchase",
    "zone": "zone",
    "version": "version",
    "owned": "owned",
    "what": "for",
}


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
    """Say what was spent in the hours that have ended, from one day to another, both included, by what is asked."""
    if context.invoked_subcommand is not None:
        return
    dimensions = [one.strip() for one in by.split(",")]
    for one in dimensions:
        if one not in DIMENSIONS:
            raise refusal(f'--by "{one}": write one of {", ".join(DIMENSIONS)}')
    first, last = _day(begin, "--from"), _day(end, "--to")
    ledger, kept = _kept(data, plan)
    summed: dict[tuple[str, ...], Decimal] = {}
    for day, group, part, found in ledger.days(kept.id):
        if (first is None or day >= first) and (last is None or day <= last):
            key = tuple({"group": group, "day": day.isoformat()}.get(one) or part.named(_WAYS[one]) for one in dimensions)
            summed[key] = summed.get(key, Decimal()) + found.amount
    currency = kept.plan.currency
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
    """Write what was spent in the hours that have ended as CSV; `focus` is the open cost and usage format."""
    from jostle.formats.costs_csv import BY_INSTANCE, write_costs
    from jostle.records.store import NotKept

    if form not in ("hours", "days", "instances", "focus"):
        raise refusal(f'--format "{form}": write hours, days, instances or focus')
    ledger, kept = _kept(data, plan)
    try:
        rows = ledger.told(kept.id, kept.plan.zone, form, _lived(ledger, kept) if form in BY_INSTANCE else None)  # type: ignore[arg-type]
    except NotKept as error:
        raise refusal(str(error)) from None
    text = write_costs(rows, form, kept.plan.name, kept.plan.currency)  # type: ignore[arg-type]
    if str(file) == "-":
        typer.echo(text, nl=False)
    else:
        write_file(file, text.encode())


def _kept(data: Path | None, number: int | None) -> "tuple[LedgerStore, KeptPlan]":
    from jostle.records.ledger_store import LedgerStore

    store = records_of(data)
    plans = [one for one, _ in store.plans()]
    if not plans or (number is not None and number not in plans):
        raise refusal(f"there is no plan {number or ''} in {store.path}".replace("  ", " "))
    ledger, kept = LedgerStore(store), store.plan(number or plans[0])
    if ledger.span(kept.id) is None:
        raise refusal("nothing was spent yet: no hour of this plan has been lived to its end")
    return ledger, kept


def _lived(ledger: "LedgerStore", kept: "KeptPlan") -> "Live | None":
    """The plan as it has lived, played again; None where it lives no more."""
    from jostle.core.rehearsal.rehearser import Rehearser
    from jostle.live.live import Live
    from jostle.records.live_store import LiveStore

    lives = LiveStore(ledger.store).of(kept.id)
    if lives is None:
        return None
    live = Live.begin(lives.plan, lives.begun, Rehearser())
    live.replay(lives.log, lives.clock)
    return live


def _day(text: str | None, option: str) -> date | None:
    try:
        return None if text is None else date.fromisoformat(text)
    except ValueError:
        raise refusal(f'{option} "{text}": write a day such as 2025-07-01') from None
