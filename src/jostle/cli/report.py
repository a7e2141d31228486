"""A rehearsal as text of 80 columns, and as one JSON object."""

import textwrap
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import numpy as np

from jostle.core.checks.finding import Finding
from jostle.core.journal.event import Kind, events, say_time
from jostle.core.journal.headline import headline
from jostle.core.journal.rollout_line import rollout_line
from jostle.core.journal.sentence import group_line
from jostle.core.journal.spread_line import NO_CHANCE
from jostle.core.plan.clock import Clock
from jostle.core.plan.metric import Metric
from jostle.core.plan.quantity import say_duration, say_money, say_number
from jostle.core.rehearsal.reach import reach
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.spread import Spread
from jostle.core.rehearsal.strip import Span, metric_series
from jostle.core.rehearsal.verdict import Figures, attribution, verdict

if TYPE_CHECKING:
    from jostle.keeper.keeper import Remark

WIDTH = 80
_TOLD: frozenset[Kind] = frozenset({"count", "limit", "refused", "taken", "incident", "incident over", "hand", "rollout"})
JSON_BUCKETS = 1500


def text_report(rehearsal: Rehearsal) -> str:
    """The verdict, then every change of the count with its reason."""
    judged = verdict(rehearsal)
    figures, group = judged.figures, rehearsal.crew.group
    currency = figures.currency
    lines = [f"{rehearsal.group_name}: {group_line(rehearsal.crew)}"]
    span = f"{say_time(rehearsal.clock, 0)}, {say_duration(rehearsal.clock.seconds)}, {rehearsal.plan.time_zone}"
    lines += [f"{group.demand}, seed {rehearsal.seed}, from {span}", ""]
    rows: list[tuple[str, str]] = [
        ("Cost", say_money(figures.cost, currency)),
        *([] if rehearsal.aboard is not None else _bounds(figures)),
        *((f"  {name}", say_money(part, currency)) for name, part in figures.shared_out.items()),
        ("Short of capacity", f"{say_number(figures.short_minutes)} min"),
        *([("Fewer than the minimum", f"{say_number(figures.under_minutes)} min")] if figures.under_minutes else []),
        *_service(figures),
        *([("  that may be", told_reach)] if (told_reach := reach(rehearsal)) else []),
        ("Count", f"{figures.min_count} to {figures.max_count}, {figures.changes} changes"),
    ]
    lines += [f"{name:<26}{value}" for name, value in rows]
    for promise in judged.promises:
        lines.append(f"{'kept  ' if promise.kept else 'BROKEN'} {promise.text}: {promise.measured}")
    for one in judged.rollouts:
        lines += textwrap.wrap(f"Rollout {rollout_line(one, currency, group.work.done)}", WIDTH, subsequent_indent="  ")
    lines += ["", "Changes of the count"]
    told = 0
    for event in events(rehearsal, _TOLD):
        at = say_time(rehearsal.clock, _seconds(rehearsal, event.time))
        lines += textwrap.wrap(f"{at}  {event.text}", WIDTH, initial_indent="  ", subsequent_indent=" " * 20)
        told += 1
    if not told:
        lines.append(f"  none: it stays at {group.first_count} throughout")
    return "\n".join(line for part in lines for line in (textwrap.wrap(part, WIDTH) if len(part) > WIDTH else [part]))


def _service(figures: Figures) -> list[tuple[str, str]]:
    """How the work was done, in the terms of its kind."""
    told = headline(figures)
    rows = [(told.name, ", ".join(part for part in (told.figure, told.beside) if part))]
    came = [] if figures.work == "hosting" else [f"{figures.arrived:,.0f} in"]
    rows.append((figures.work.capitalize(), ", ".join([*came, *told.lost])))
    if figures.repeated_jobs:
        rows.append(("  done twice", f"{figures.repeated_jobs:,.1f}"))
    if figures.stopped_hours:
        rows.append(("Stopped", f"{say_number(figures.stopped_hours)} instance hours"))
    if figures.spot_hours:
        kept = (
            "" if figures.kept_back_by_spot is None else f", keeps back {say_money(figures.kept_back_by_spot, figures.currency)}"
        )
        rows.append(("Spot", f"{say_number(figures.spot_hours)} instance hours, {figures.reclaims} reclaimed{kept}"))
        if figures.reclaim_minutes:
            rows.append(("  missing", f"{say_number(figures.reclaim_minutes)} min since some were taken back"))
    if figures.kept_back_by_swaps is not None:
        rows.append(("Swaps", f"{figures.swaps}, keep back {say_money(figures.kept_back_by_swaps, figures.currency)}"))
    if figures.copies_moved or figures.copies_lost:
        rows.append(("With their host", f"{figures.copies_moved} copies moved, {figures.copies_lost} lost"))
    if figures.overflow_hours:
        rows.append(("Overflow", f"{say_number(figures.overflow_hours)} instance hours"))
    return rows


def findings_text(findings: list[Finding]) -> list[str]:
    """Each finding in a paragraph of 80 columns."""
    lines = []
    for one in findings:
        mend = f" Mend: {one.mend.text}." if one.mend else ""
        text = f"{one.severity} {one.code} at {one.path}: {one.text}{mend}"
        lines.append(textwrap.fill(text, WIDTH, initial_indent="  ", subsequent_indent="    "))
    return lines


def spread_text(name: str, found: Spread) -> str:
    """The spread of the figures over several seeds, and under how many of them each promise was kept."""
    lines = [f"{name}: seeds {found.seeds[0]} to {found.seeds[-1]}", "", f"{'':<26}{'lowest':>14}{'median':>14}{'highest':>14}"]
    for figure, (label, say) in _SPREAD_ROWS.items():
        if figure in found.figures:
            values = found.figures[figure]
            shown = [say(value, found.currency) for value in (values.lowest, values.median, values.highest)]
            lines.append(f"{label:<26}" + "".join(f"{value:>14}" for value in shown))
    if not found.chance:
        lines += textwrap.wrap(NO_CHANCE, WIDTH)
    for promise in found.promises:
        verdict_word = "kept  " if promise.kept == promise.of else "BROKEN"
        lines.append(f"{verdict_word} {promise.text}: kept under {promise.kept} of {promise.of} seeds")
    return "\n".join(lines)


def _plain_number(value: float, currency: str) -> str:
    return say_number(value)


def _whole(value: float, currency: str) -> str:
    return f"{value:,.0f}"


_SPREAD_ROWS: dict[str, tuple[str, Callable[[float, str], str]]] = {
    "cost": ("Cost", lambda value, currency: say_money(round(value, 2), currency)),
    "short_minutes": ("Short of capacity, min", _plain_number),
    "latency_p95_ms": ("95 % answered in, ms", _plain_number),
    "wait_p95_s": ("95 % taken up in, s", _plain_number),
    "failed": ("Failed or refused", _whole),
    "changes": ("Changes of the count", _whole),
}


def json_report(rehearsal: Rehearsal) -> dict[str, Any]:
    """The documented object: figures, promises, events, series."""
    judged = verdict(rehearsal)
    ticks = rehearsal.clock.ticks
    span = Span.of(ticks, 0, ticks, JSON_BUCKETS)
    series, weighed = rehearsal.result.series, rehearsal.result.setup.of("weighed")
    rows = {
        "demand_per_second": rehearsal.demand_rate,
        "capacity": series["capacity"],
        "waiting": series["waiting"],
        "failed": series["failed"],
        "in_use": series["in_use"],
        "age_of_oldest_s": series["age"],
        "cpu_percent": 100 * metric_series(rehearsal, Metric.CPU),
        "latency_p95_ms": 1000 * series["latency"].astype(float),
        "serving_instances": series["serving"],
        **(
            {"serving_units": series["units"], "desired_units": series["desired"]}
            if weighed
            else {"desired_instances": series["desired"]}
        ),
        "billed_instances": series["billed"],
        "stopped_instances": series["stopped"],
    }
    cut = {}
    for name, values in rows.items():
        buckets = span.buckets(values)
        cut[name] = {"min": _plain(buckets.low), "max": _plain(buckets.high), "mean": _plain(buckets.mean)}
    times = [rehearsal.clock.at(float(epoch)).isoformat() for epoch in rehearsal.clock.epochs[span.edges]]
    return {
        "figures": judged.figures.model_dump(mode="json"),
        "promises": [promise.model_dump(mode="json") for promise in judged.promises],
        "rollouts": [one.model_dump(mode="json") for one in judged.rollouts],
        "attribution": attribution(rehearsal).model_dump(mode="json"),
        "events": [event.model_dump(mode="json") for event in events(rehearsal)],
        "series": {"time": times, **cut},
    }


def remarks_of(clock: Clock, remarks: "list[tuple[float, Remark, str]]") -> list[str]:
    """What a keeper said besides what it decided, each with its time (s from the beginning)."""
    return [f"{say_time(clock, time)}  {text}" for time, _, text in remarks]


def _bounds(figures: Figures) -> list[tuple[str, str]]:
    named = (("  with perfect foresight", figures.foresight_cost), ("  always at peak", figures.always_peak_cost))
    return [(name, _bound(cost, figures.currency)) for name, cost in named]


def _bound(cost: Any, currency: str) -> str:
    return "no count keeps the promises" if cost is None else say_money(cost, currency)


def _seconds(rehearsal: Rehearsal, time: str) -> float:
    return rehearsal.clock.epoch_of(time) - rehearsal.clock.first


def _plain(values: np.ndarray) -> list[float | None]:
    return [None if np.isnan(value) else float(f"{value:.6g}") for value in values.tolist()]
