"""How well the work was done, by the measure of its kind, in few words."""

import math
from typing import NamedTuple

from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.rehearsal.verdict import Figures


class Headline(NamedTuple):
    """`name` and `figure` of the measure, and the `field` of the figures that it comes from; what is worth saying `beside` it,
    and what was lost."""

    name: str
    figure: str
    field: str
    beside: str
    lost: list[str]


def headline(figures: Figures) -> Headline:
    match figures.work:
        case "requests":
            p95 = figures.latency_p95_ms
            figure = "never" if p95 is None else f"{p95:,.0f} ms"
            return Headline("95 % answered in", figure, "latency_p95_ms", "", [f"{figures.failed:,.0f} failed"])
        case "jobs":
            oldest = f"the oldest {say_duration(round(figures.oldest_s or 0))}"
            lost = [f"{figures.waiting:,.0f} left waiting"]
            if figures.returned_jobs >= 0.5:
                lost.append(f"{figures.returned_jobs:,.0f} given back")
            return Headline("95 % taken up in", say_duration(round(figures.wait_p95_s or 0)), "wait_p95_s", oldest, lost)
        case "sessions":
            share = 1 - figures.failed / figures.arrived if figures.arrived else 1.0
            lost = [f"{figures.failed:,.0f} refused", f"{figures.cut_off:,} cut off"]
            if figures.cut_off_untold is not None:
                lost.append(f"{figures.cut_off_untold:,} without notice")
            return Headline("Found a seat", say_share(math.floor(share * 10000) / 10000, 4), "failed", "", lost)
        case "hosting":
            without = 0.0 if figures.room_percent is None else figures.room_percent
            waited = [f"{say_duration(60 * figures.short_minutes)} with copies without a place"]
            return Headline("Could lose a host", say_share(without / 100, 4), "room_percent", "", waited)
