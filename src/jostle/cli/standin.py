"""`jostle standin` and `jostle provider`: a provider to try, and a trial of any provider."""

import json
from pathlib import Path
from typing import Annotated

import typer

from jostle import HOST
from jostle.cli.given import read_plan_from, settings_of, write_file
from jostle.cli.refusal import refusal
from jostle.core.plan.problem import PlanError
from jostle.demo import PLAN
from jostle.formats.cases_junit import write_cases
from jostle.provider.kit import check_provider
from jostle.provider.provider import Unusable
from jostle.provider.stream import ServeError, Service, check_port
from jostle.standin.server import create_standin
from jostle.standin.world import World

PORT = 8640
provider_app = typer.Typer(rich_markup_mode=None, help="Whatever instances run on.", no_args_is_help=True)


def standin(
    plan: Annotated[Path, typer.Option(help="The plan whose groups it runs; the demo's if left out")] = PLAN,
    port: Annotated[int, typer.Option(min=1, max=65535, help=f"Port on {HOST}")] = PORT,
    data: Annotated[Path | None, typer.Option(help="Folder in which it survives a stop; in memory only if left out")] = None,
    pace: Annotated[float, typer.Option(min=0, max=3600, help="Seconds of its time in one of ours; 0: as it is told to")] = 0.0,
    seed: Annotated[int, typer.Option(min=0, max=2**31 - 1, help="Its dice")] = 1,
) -> None:
    """Serve the stand-in for a cloud on 127.0.0.1, which speaks the provider protocol."""
    try:
        check_port(port)
        read = read_plan_from(plan, settings_of(None))
        bare = {name: group.model_copy(update={"hands": []}) for name, group in read.groups.items()}
        world = World(read.model_copy(update={"groups": bare}), seed, data)
    except (PlanError, ServeError) as error:
        raise refusal(str(error)) from None
    except OSError as error:
        raise refusal(f"{data}: cannot be used: {error}") from None
    world.set_clock(None, pace)
    typer.echo(f"The stand-in runs {', '.join(world.places)} at http://{HOST}:{port}/", err=True)
    Service(create_standin(world), port).run()


@provider_app.command()
def check(
    url: Annotated[str, typer.Argument(help="Where it answers, such as http://127.0.0.1:8640")],
    junit: Annotated[Path | None, typer.Option(help="Write the cases to this file as JUnit XML")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="JSON instead of text")] = False,
) -> None:
    """Try every promise of the provider protocol.

    Ends with 0 where all are kept, with 1 where one is broken, with 2 where nothing answers that speaks the protocol.
    """
    try:
        cases = check_provider(url)
    except (Unusable, ConnectionError) as error:
        raise refusal(str(error)) from None
    if as_json:
        typer.echo(json.dumps([case._asdict() for case in cases], ensure_ascii=False))
    else:
        for case in cases:
            mark = "skipped" if case.skipped else "broken" if case.broken else "kept"
            why = case.broken or case.skipped
            typer.echo(f"{mark:<8}{case.promise}{f': {why}' if why else ''}")
        kept = sum(not case.broken and not case.skipped for case in cases)
        skipped = sum(case.skipped is not None for case in cases)
        rest = f", {skipped} not tried" if skipped else ""
        typer.echo(f"{kept} of {len(cases) - skipped} promises kept{rest}")
    if junit is not None:
        write_file(junit, write_cases(url, cases))
    if any(case.broken for case in cases):
        raise typer.Exit(1)
