"""The verdict as the screen says it."""

from pydantic import BaseModel, Field

from jostle.core.costs.bounds import Bounds
from jostle.core.journal.headline import headline
from jostle.core.journal.rollout_line import rollout_line
from jostle.core.plan.quantity import say_duration, say_money, say_number, say_share
from jostle.core.rehearsal.reach import reach
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.verdict import Difference, Figures, PromiseVerdict, Verdict, bounded, differences, is_compared


class Between01(BaseModel):
    """Where the cost stands between foresight (0) and always-peak (1). All null while it has not been looked for."""

    place: float | None
    foresight: str | None
    always_peak: str | None


class Service(BaseModel):
    """How well the work was done, by the measure of its kind; `field` is the figure that it differs by."""

    name: str
    figure: str
    field: str
    reach: str = Field(description="How far the figure may be off; empty where it is within 5 %")


class VerdictView(BaseModel):
    """The verdict as the screen says it, with its differences from the starred take."""

    figures: Figures
    span: str = Field(description="How long a time the figures are over")
    cost: str
    short: str
    lost: str = Field(description="What was lost: requests failed, jobs given back, sessions refused or cut off")
    service: Service
    changes: str
    counts: str = Field(description="Least and most instances, and how many were reclaimed or swapped")
    promises: list[PromiseVerdict]
    shared_out: str = Field(description="What of the cost of a host is whose; empty of any other group")
    rollouts: list[str] = Field(description="What became of each, in a line")
    differences: list[Difference]
    compared_with: int | None
    bounds: Between01
    whole: bool = Field(description="Whether nothing is left to be told that takes longer")


def between(figures: Figures, bounds: Bounds | None) -> Between01:
    """Where a cost stands between its bounds."""
    if bounds is None:
        return Between01(place=None, foresight=None, always_peak=None)
    low, high = bounds.foresight, bounds.always_peak
    place = float((figures.cost - low) / (high - low)) if low is not None and high is not None and high > low else None
    said = ["none" if amount is None else say_money(amount, figures.currency) for amount in (low, high)]
    return Between01(place=place, foresight=said[0], always_peak=said[1])


def verdict_view(
    rehearsal: Rehearsal, verdict: Verdict, beside: tuple[int, Figures] | None = None, finished: bool = False
) -> VerdictView:
    """A verdict in words; `beside` is the number of a take and its figures, from which the differences are told; `finished` says
    that it has been compared. The bounds of cost are told where they are at hand."""
    bounds = rehearsal.bounds_at_hand
    figures = verdict.figures if bounds is None else bounded(verdict.figures, bounds)
    currency, told = figures.currency, headline(figures)
    under = [f"{say_number(figures.under_minutes)} min fewer than the minimum"] if figures.under_minutes else []
    taken = [f"{figures.reclaims} reclaimed"] if figures.spot_hours else []
    taken += [f"{say_number(figures.reclaim_minutes)} min short for that"] if figures.reclaim_minutes else []
    taken += [f"{figures.swaps} swapped"] if figures.swaps else []
    taken += [f"{figures.copies_moved} moved with their host"] if figures.copies_moved else []
    taken += [f"{figures.copies_lost} lost with it"] if figures.copies_lost else []
    if figures.order_filled is not None:
        ordered = figures.order_filled + (figures.order_open or 0) + (figures.order_lapsed or 0)
        taken += [f"{figures.order_filled} of {ordered} ordered filled"]
        taken += [
            f"{number} {said}" for number, said in ((figures.order_open, "open"), (figures.order_lapsed, "lapsed")) if number
        ]
    late = [] if figures.late_percent is None else [f"{say_share(figures.late_percent / 100)} late"]
    return VerdictView(
        figures=figures,
        span=say_duration(rehearsal.clock.seconds),
        cost=say_money(figures.cost, currency),
        short=f"{say_number(figures.short_minutes)} min",
        lost=", ".join([*told.lost, *late, *under]),
        counts=", ".join([f"{figures.min_count} to {figures.max_count} {figures.counted_in}", *taken]),
        service=Service(name=told.name, figure=told.figure, field=told.field, reach=reach(rehearsal)),
        changes=str(figures.changes),
        promises=verdict.promises,
        shared_out=", ".join(f"{name} {say_money(amount, currency)}" for name, amount in figures.shared_out.items()),
        rollouts=[rollout_line(one, currency, rehearsal.crew.group.work.done) for one in verdict.rollouts],
        differences=differences(figures, beside[1]) if beside else [],
        compared_with=beside[0] if beside else None,
        bounds=between(figures, bounds),
        whole=rehearsal.aboard is not None or (bounds is not None and (finished or is_compared(rehearsal))),
    )
