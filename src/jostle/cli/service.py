"""Commands for the service and its records."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from jostle import HOST, PORT
from jostle.cli.refusal import refusal

if TYPE_CHECKING:
    from jostle.records.store import Store

RECEIVER_PORT = 8650
Port = Annotated[int | None, typer.Option(help=f"Port on {HOST}; JOSTLE_PORT, or else {PORT}")]
PlanNumber = Annotated[int | None, typer.Option("--plan", help="Which plan, by number; the newest if left out")]
RecordsFile = Annotated[Path, typer.Argument(help="File of the backup", metavar="FILE")]
Folder = Annotated[Path | None, typer.Option(help="Folder of the records; JOSTLE_DATA, or else the user's own")]


def serve(port: Port = None, data: Folder = None) -> None:
    """Serve the workbench on 127.0.0.1."""
    _serve(port, data, with_demo=False)


def demo(port: Port = None, data: Folder = None) -> None:
    """Serve the workbench with the demo data, which is loaded the first time."""
    _serve(port, data, with_demo=True)


def backup(file: RecordsFile, data: Folder = None) -> None:
    """Write a copy of the records to a file, while the service runs or not."""
    from jostle.records.store import RecordsError

    store = records_of(data)
    try:
        store.backup(file)
    except (RecordsError, OSError) as error:
        raise refusal(f"{file}: cannot be written: {error}") from None
    typer.echo(f"{len(store.plans())} plans are in {file}")


def restore(file: RecordsFile, data: Folder = None) -> None:
    """Put a backup in the place of the records, once it has been checked. What was there is kept beside as a backup too."""
    from jostle.api.server import Settings
    from jostle.records.backups import put_in_place
    from jostle.records.in_use import InUse, alone_with
    from jostle.records.store import RecordsDamaged, RecordsError, Store

    path = (data or Settings().data) / "jostle.sqlite"
    try:
        with alone_with(path.parent):
            try:
                store, before = Store(path), path.with_name("before-restore.sqlite")
            except RecordsDamaged:
                before = put_in_place(file, path)
                store = Store(path)
            else:
                store.backup(before, sound=False)
                store.restore(file)
    except (InUse, RecordsError, OSError) as error:
        raise refusal(str(error)) from None
    typer.echo(f"{len(store.plans())} plans were restored from {file}; what was there before is in {before}")


def receive(
    secret: Annotated[str, typer.Option(help="The secret that the target has on the page of notices")],
    port: Annotated[int, typer.Option(min=1, max=65535, help=f"Port on {HOST}")] = RECEIVER_PORT,
    failures: Annotated[int, typer.Option(min=0, max=100, help="Refuse the first so many, to see them come again")] = 0,
) -> None:
    """Take notices and say what is in them: a receiver to try them with.

    The service sends to this machine only where it was started with JOSTLE_PRIVATE_TARGETS=1.
    """
    from jostle.provider.stream import ServeError, Service, check_port
    from jostle.telling.receiver import create_receiver
    from jostle.telling.webhook import is_secret

    if not is_secret(secret):
        raise refusal(f'--secret "{secret}": it is whsec_ and base64 after it, as the page of notices shows it')
    try:
        check_port(port)
    except ServeError as error:
        raise refusal(str(error)) from None
    typer.echo(f"Notices are taken at http://{HOST}:{port}/", err=True)
    Service(create_receiver(secret, typer.echo, failures), port).run()


def records_of(data: Path | None) -> "Store":
    from jostle.api.server import Settings, open_records
    from jostle.provider.stream import ServeError

    try:
        return open_records(data or Settings().data)
    except ServeError as error:
        raise refusal(str(error)) from None


def _serve(port: int | None, data: Path | None, with_demo: bool) -> None:
    # Said before what takes seconds to load is loaded
    demo = ", and the demo data where there are none" if with_demo else ""
    typer.echo(f"Opening the records{f' in {data}' if data else ''}{demo}; the address of the page follows.", err=True)
    from jostle.api.server import serve as run_server
    from jostle.provider.stream import ServeError

    try:
        run_server(port=port, data=data, with_demo=with_demo)
    except ServeError as error:
        raise refusal(str(error)) from None
