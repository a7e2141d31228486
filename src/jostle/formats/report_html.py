"""An arrangement on one page of HTML that prints well: its sentences, its verdict, its week."""

from typing import NamedTuple

import numpy as np
from jinja2 import Environment, PackageLoader
from numpy.typing import NDArray

from jostle.core.checks.check import check
from jostle.core.journal.headline import headline
from jostle.core.journal.sentence import group_page
from jostle.core.plan.clock import DAY
from jostle.core.plan.quantity import say_money, say_number
from jostle.core.plan.word import heading
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Buckets, Span, wanted
from jostle.core.rehearsal.verdict import Verdict
from jostle.core.today import now

BUCKETS = 700
WIDTH, HEIGHT = 1000.0, 100.0
PAGES = Environment(loader=PackageLoader("jostle.formats", "."), autoescape=True, trim_blocks=True, lstrip_blocks=True)


def write_report(rehearsal: Rehearsal, judged: Verdict, title: str, note: str) -> str:
    """A page that stands alone: no file or font from elsewhere, drawings as SVG."""
    figures, clock, told = judged.figures, rehearsal.clock, headline(judged.figures)
    whole = say_money(figures.cost, figures.currency)
    first, last = clock.at(clock.first), clock.at(clock.first + clock.seconds)
    return PAGES.get_template("report.html").render(
        title=title,
        note=note,
        plan=rehearsal.plan,
        seed=rehearsal.seed,
        demand=rehearsal.crew.group.demand,
        span=f"{first:%a %d %b %Y %H:%M} to {last:%a %d %b %Y %H:%M}",
        made=f"{now():%Y-%m-%d %H:%M} UTC",
        sections=group_page(rehearsal.crew, rehearsal.plan.currency).sections,
        promises=judged.promises,
        figures=[
            ("Cost", whole),
            ("Short of capacity", f"{say_number(figures.short_minutes)} min"),
            (told.name, told.figure),
            ("Lost", ", ".join(told.lost)),
            ("Changes of count", f"{figures.changes:,}"),
            (heading(rehearsal.crew.group.unit), f"{figures.min_count} to {figures.max_count}"),
            ("Instance hours", f"{figures.instance_hours:,.0f}"),
        ],
        bounds=[
            (name, "none" if cost is None else say_money(cost, figures.currency))
            for name, cost in (("foresight", figures.foresight_cost), ("always-peak", figures.always_peak_cost))
        ],
        findings=[finding.text for finding in check(rehearsal, rehearsal.bounds) if finding.severity != "note"],
        strips=strips(rehearsal),
        days=[100 * k * DAY / clock.seconds for k in range(1, int(clock.seconds // DAY) + 1) if clock.seconds < 40 * DAY],
    )


class _Drawn(NamedTuple):
    """What is drawn of a rehearsal, and how high that goes: a rate, and a count."""

    span: Span
    capacity: Buckets
    asked: Buckets
    desired: Buckets
    serving: Buckets
    top: float
    most: float

    @classmethod
    def of(cls, rehearsal: Rehearsal) -> "_Drawn":
        series, ticks = rehearsal.result.series, rehearsal.clock.ticks
        span = Span.of(ticks, 0, ticks, BUCKETS)
        capacity, asked = span.buckets(series["capacity"]), span.buckets(wanted(rehearsal))
        count, serving = span.buckets(series["desired"]), span.buckets(series["units"])
        top = float(np.nanmax([np.nanmax(capacity.high), np.nanmax(asked.high), 1e-9]))
        return cls(span, capacity, asked, count, serving, top, max(1.0, float(np.nanmax(count.high))))


def strips(rehearsal: Rehearsal, beside: Rehearsal | None = None) -> list[dict[str, object]]:
    """A rehearsal drawn: title, top and paths of demand, CPU and count, on a ground of 1000 by 100; as high as it takes for
    another `beside` it."""
    group, drawn = rehearsal.crew.group, [_Drawn.of(one) for one in (rehearsal, beside) if one is not None]
    top, most = max(one.top for one in drawn), max(one.most for one in drawn)
    span, capacity, asked, desired, serving = drawn[0][:5]
    series = rehearsal.result.series
    cpu = span.buckets(series["cpu"])
    return [
        {
            "title": f"Demand and capacity, {group.work.load}",
            "top": say_number(top),
            "paths": [("capacity area", _path(capacity.mean, top, closed=True)), ("demand", _path(asked.high, top))],
        },
        {"title": "CPU", "top": "100 %", "paths": [("spread area", _band(cpu.low, cpu.high)), ("metric", _path(cpu.mean, 1.0))]},
        {
            "title": f"{heading(group.unit)}: serving, and desired dashed",
            "top": say_number(most),
            "paths": [("capacity area", _path(serving.mean, most, closed=True)), ("desired", _path(desired.mean, most))],
        },
    ]


def _points(values: NDArray[np.float64], top: float) -> list[str]:
    x = np.linspace(0.0, WIDTH, len(values))
    y = HEIGHT - (HEIGHT - 2) * np.nan_to_num(values) / top
    return [f"{a:.1f},{b:.1f}" for a, b in zip(x, y, strict=True)]


def _path(values: NDArray[np.float64], top: float, closed: bool = False) -> str:
    line = "M" + "L".join(_points(values, top))
    return f"{line}L{WIDTH:.0f},{HEIGHT:.0f}L0,{HEIGHT:.0f}Z" if closed else line


def _band(low: NDArray[np.float64], high: NDArray[np.float64]) -> str:
    return "M" + "L".join([*_points(high, 1.0), *_points(low, 1.0)[::-1]]) + "Z"
