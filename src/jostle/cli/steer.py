"""`jostle state` and `jostle hand`: what lives in the running service, seen and steered from a terminal."""

import json
import urllib.error
import urllib.request
from datetime import datetime
from typing import Annotated, Any
from zoneinfo import ZoneInfo

import typer

from jostle import HOST, PORT
from jostle.cli.refusal import refusal
from jostle.cli.service import PlanNumber

Port = Annotated[int, typer.Option(help=f"Port of the running service on {HOST}", envvar="JOSTLE_PORT")]
TIMEOUT = 30.0
ACTS = (
    "set", "change-count", "kill", "drain", "restart", "pin", "unpin", "load", "pause", "resume", "act-as", "begin-entry",
    "end-entry", "hold", "release", "dry-run", "act-again", "leave-alone", "keep-again", "end-group", "begin-again", "silence",
    "speak", "stop-load",
)  # fmt: skip


def state(
    group: Annotated[str | None, typer.Option(help="One group, with its instances and policies")] = None,
    port: Port = PORT,
    plan: PlanNumber = None,
    as_json: Annotated[bool, typer.Option("--json", help="JSON instead of text")] = False,
) -> None:
    """Say how the groups stand that the running service keeps."""
    live = f"/api/plans/{_plan(port, plan)}/live"
    view = _ask(port, live)
    if view is None:
        raise refusal("nothing is kept: begin it on the page, under Live")
    if group is None:
        for one in view["groups"]:
            one.pop("tape")
        if as_json:
            instants = {name: _iso(view[name], view["time_zone"]) for name in ("now", "ends")}
            typer.echo(json.dumps({**view, **instants}, ensure_ascii=False))
            return
        typer.echo(f"{view['clock']}, {'at ' + format(view['pace'], 'g') + 'x' if view['running'] else 'paused'}; {view['cost']}")
        for one in view["groups"]:
            said = one["state"] and f"{one['state']['name']} {one['state']['outcome']}"
            parts = [part for part in (one["note"], said) if part]
            typer.echo(f"{one['name']:<20}{one['wanted']:>4} wanted {one['serving']:>4} serve  {'; '.join(parts)}")
        return
    life = _ask(port, f"{live}/groups/{group}")
    if as_json:
        typer.echo(json.dumps(life, ensure_ascii=False))
        return
    typer.echo(f"{life['name']}: {life['summary']}")
    for policy in life["policies"]:
        typer.echo(f"  {policy['name']}: {policy['text']}: {policy['outcome']}")
    typer.echo(f"  {life['decision']}")
    for tile in life["tiles"]:
        cpu = "" if tile["cpu"] is None else f"{tile['cpu']:.0%}"
        typer.echo(f"  {tile['number']:>6} {tile['zone']:<12}{cpu:>5}  {tile['said']}{', pinned' if tile['pinned'] else ''}")


def hand(
    group: Annotated[str, typer.Argument(help="Which group")],
    act: Annotated[
        str,
        typer.Argument(help=", ".join(ACTS)),
    ],
    number: Annotated[
        int | None, typer.Argument(help="The count to set, how many more (or fewer: -1), or the number of the instance")
    ] = None,
    policy: Annotated[str | None, typer.Option(help="For act-as, and for pause and resume one policy rather than all")] = None,
    entry: Annotated[str | None, typer.Option(help="For begin-entry and end-entry: which of the calendar")] = None,
    for_: Annotated[str | None, typer.Option("--for", help="For pause and load: how long, such as 30min")] = None,
    cpu: Annotated[str | None, typer.Option(help="For load: how much of the CPU, such as 90%")] = None,
    one_fewer: Annotated[bool, typer.Option("--one-fewer", help="For kill and drain: without another in its place")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="JSON instead of text")] = False,
    port: Port = PORT,
    plan: PlanNumber = None,
) -> None:
    """Do one thing by hand to a group that the running service keeps."""
    from jostle.core.plan.quantity import read_duration, read_share

    if act not in ACTS:
        raise refusal(f"{act}: is not done by hand; there is: {', '.join(ACTS)}")
    body: dict[str, Any] = {"act": act.replace("-", " ")}
    try:
        if for_ is not None:
            body["for"] = read_duration(for_)
        if cpu is not None:
            body["cpu"] = read_share(cpu)
    except ValueError as error:
        raise refusal(f"{for_ or cpu}: {error}") from None
    if number is not None:
        body[{"set": "count", "change-count": "by"}.get(act, "instance")] = number
    if policy is not None:
        body["policy"] = policy
    if entry is not None:
        body["entry"] = entry
    if one_fewer:
        body["one_fewer"] = True
    done = _ask(port, f"/api/plans/{_plan(port, plan)}/live/groups/{group}/hands", body)
    if as_json:
        typer.echo(json.dumps({**done, "at": _iso(done["at"], "UTC")}, ensure_ascii=False))
        return
    typer.echo(f"{done['group']}: {done['said']}")


def _iso(ms: float, zone: str) -> str:
    return datetime.fromtimestamp(ms / 1000, ZoneInfo(zone)).isoformat()


def _plan(port: int, number: int | None) -> int:
    if number is not None:
        return number
    plans = _ask(port, "/api/plans")
    if not plans:
        raise refusal("the service has no plan yet")
    return int(plans[0]["id"])


def _ask(port: int, path: str, body: dict[str, Any] | None = None) -> Any:
    """The answer of the service; ends with its words where it refuses, or where it is not there."""
    url = f"http://{HOST}:{port}{path}"
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(url, data, {"Content-Type": "application/json"})
    try:
        with urllib.request.urlopen(request, timeout=TIMEOUT) as answer:
            return json.load(answer)
    except urllib.error.HTTPError as error:
        told = json.load(error)
        raise refusal(told.get("detail", str(error))) from None
    except (urllib.error.URLError, TimeoutError) as error:
        raise refusal(f"no service answers at {HOST}:{port} ({error}); start it with jostle serve, or name its --port") from None
