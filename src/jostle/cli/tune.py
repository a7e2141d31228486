"""`jostle tune`: the best settings are looked for."""

import json
import re
from pathlib import Path
from typing import Annotated, Any

import typer

from jostle.cli.given import given_group, known_group, with_demand, write_file
from jostle.cli.option import AsJson, OneGroup, PlanFile
from jostle.cli.progress import meter
from jostle.cli.refusal import refusal
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import read_duration, read_share, say_duration, say_money
from jostle.core.plan.setting import setting
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.tuning.front import front, matters
from jostle.core.tuning.goal import Goal, Judged, Under
from jostle.core.tuning.judges import Threads
from jostle.core.tuning.nudge import nudges
from jostle.core.tuning.search import chosen_group as group_of
from jostle.core.tuning.search import search
from jostle.core.tuning.space import Varied, among_choices, applied, checked_space, said, usual_space
from jostle.formats.plan_file import write_plan

_RANGE = re.compile(r"(.+?)\.\.(.+?)(?::(.+))?")


def tune(
    plan: PlanFile,
    group: OneGroup = None,
    vary: Annotated[
        list[str] | None, typer.Option(metavar="PATH=LOW..HIGH[:STEP]", help="What may vary; what the policies have if left out")
    ] = None,
    keep: Annotated[str, typer.Option(help="What stays: margin=10 % of a threshold to add above one to remove")] = "margin=10 %",
    seeds: Annotated[int, typer.Option(min=1, max=50, help="Each set is rehearsed under so many seeds")] = 3,
    demand: Annotated[
        list[str] | None,
        typer.Option(metavar="NAME[*TIMES]", help="A demand of the plan, or a file; *1.2 for a fifth more. May be said again"),
    ] = None,
    sets: Annotated[int, typer.Option(min=2, max=5000, help="Look at so many sets")] = 200,
    for_: Annotated[str | None, typer.Option("--for", help="Or for so long, such as 60s")] = None,
    scheduler: Annotated[
        str | None,
        typer.Option(metavar="tcp://…", envvar="JOSTLE_SCHEDULER", help="Have the workers of this Dask scheduler do the work"),
    ] = None,
    at_once: Annotated[int, typer.Option(min=1, max=64, help="Sets drawn together: as many as there are workers")] = 2,
    set_: Annotated[list[str] | None, typer.Option("--set", metavar="PATH=VALUE", help="Replace a value first")] = None,
    as_json: AsJson = False,
    write: Annotated[Path | None, typer.Option(help="Write the plan with the chosen settings to this file")] = None,
) -> None:
    """Look for the settings that keep all promises at the least cost.

    Ends with 0 where a set keeps all promises, with 1 where none does, with 2 where the input cannot be used.
    """
    from jostle.cluster.dask import NoCluster, Workers

    try:
        read, name = given_group(plan, set_, group)
        under = [_under(text) for text in demand or []]
        for met in reversed(under):
            read = with_demand(read, name, met.demand)
        known_group(read, name)
        space = [_varied(read, name, one) for one in vary] if vary else usual_space(read.groups[name])
        space = checked_space(space, read, name)
        seconds = None if for_ is None else read_duration(for_)
        goal = Goal.over(read, name, seeds, _margin(keep), under)
        judges = Threads() if scheduler is None else Workers(scheduler)
        with meter("sets", sets) as advance:
            found = search(
                goal, space, sets, seconds, tell=lambda so_far: advance(len(so_far.sets)), judges=judges, at_once=at_once
            )
        if isinstance(judges, Workers):
            judges.close()
    except (PlanError, NoCluster) as error:
        raise refusal(str(error)) from None
    except ValueError as error:
        raise refusal(f'--for "{for_}": {error}') from None
    chosen, currency = found.chosen, read.currency
    trouble = [] if chosen is None else nudges(with_group(read, name, group_of(read, name, chosen)), name, Rehearser())
    if as_json:
        told: dict[str, Any] = {
            "chosen": None if chosen is None else chosen.model_dump(mode="json") | {"confirmed": _confirmed(found.confirmed)},
            "as_is": found.as_is.model_dump(mode="json") | {"confirmed": _confirmed(found.as_is_confirmed)},
            "front": [one.model_dump(mode="json") for one in front(found.sets)],
            "sets": [one.model_dump(mode="json") for one in found.sets],
            "matters": [one.model_dump(mode="json") for one in matters(found.sets, space)],
            "trouble": [one.model_dump(mode="json") for one in trouble],
            "looked_at": len(found.sets),
            "seconds": round(found.seconds, 3),
        }
        typer.echo(json.dumps(told, ensure_ascii=False))
    else:
        typer.echo(f"{name}: {len(found.sets)} sets under {say_count(seeds, 'seed')} in {say_duration(round(found.seconds))}")
        typer.echo(f"{'as it is':<10}{_line(found.as_is, currency)}{_again(found.as_is_confirmed)}")
        best = chosen or found.nearest
        if best is None:
            typer.echo("No set could be rehearsed: " + (found.sets[0].refused or "") if found.sets else "No set was looked at.")
        else:
            typer.echo(f"{'chosen' if chosen else 'nearest':<10}{_line(best, currency)}{_again(found.confirmed)}")
            for path, text in said(read, name, best.values).items():
                typer.echo(f"  {path} {text}")
        for one in matters(found.sets, space)[:5]:
            typer.echo(f"  {one.path} explains {one.on_cost:.0%} of the cost, {one.on_short:.0%} of the shortfall")
        for nudge in trouble:
            typer.echo(f"  {nudge.text}")
    if write is not None and chosen is not None:
        write_file(write, write_plan(with_group(read, name, group_of(read, name, chosen))).encode())
    if chosen is None:
        raise typer.Exit(1)


def _line(one: "Judged", currency: str) -> str:
    return f"{say_money(one.cost, currency)}, kept in {one.kept} of {one.seeds}, short for {one.short_minutes:.3g} min"


def _again(confirmed: "Judged | None") -> str:
    return "" if confirmed is None or confirmed.refused else f"; in {confirmed.said_of_others()}"


def _confirmed(confirmed: "Judged | None") -> dict[str, float] | None:
    if confirmed is None:
        return None
    low, high = confirmed.share
    return {"kept": confirmed.kept, "seeds": confirmed.seeds, "low": round(low, 4), "high": round(high, 4)}


def _varied(plan: "Plan", group: str, text: str) -> "Varied":
    """A setting that may vary, its ends read as the plan file reads them. Raises PlanError."""

    path, equals, span = text.partition("=")
    document = plan.groups[group].model_dump(mode="json")
    if (chosen := among_choices(path, document)) is not None and span.strip() in ("", "any"):
        return chosen
    match = _RANGE.fullmatch(span.strip())
    if not equals or match is None:
        raise PlanError([Problem(("--vary",), text, "write PATH=LOW..HIGH, such as policies.add.threshold=40 %..75 %")])

    def read(end: str) -> float:
        given: Any = float(end) if re.fullmatch(r"-?\d+(\.\d+)?", end) else end
        if isinstance(given, float) and given == int(given):
            given = int(given)
        made = with_group(plan, group, applied(document, {path: given}))
        return float(setting(made.groups[group].model_dump(mode="json"), path))

    value = setting(document, path)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise PlanError([Problem(("--vary", path), value, "is no number, and cannot vary over a range")])
    step = read(match[3].strip()) if match[3] else (1.0 if isinstance(value, int) else 0.0)
    return Varied(path=path, low=read(match[1].strip()), high=read(match[2].strip()), step=step)


def _under(text: str) -> "Under":
    """A demand, and how many times as high: `summer-week*1.2`. Raises PlanError."""

    name, star, times = text.rpartition("*")
    if not star:
        return Under(demand=text)
    try:
        return Under(demand=name, times=float(times))
    except ValueError:
        raise PlanError([Problem(("--demand",), text, "write NAME, or NAME*1.2 for a fifth more, up to NAME*100")]) from None


def _margin(text: str) -> float:

    name, equals, share = text.partition("=")
    if name.strip() != "margin" or not equals:
        raise refusal(f'--keep "{text}": write margin=10 %')
    try:
        return read_share(share.strip())
    except ValueError as error:
        raise refusal(f'--keep "{text}": {error}') from None
