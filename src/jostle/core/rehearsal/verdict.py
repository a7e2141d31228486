"""The verdict: the figures of one rehearsal, and whether each promise was kept."""

import math
from collections import defaultdict
from decimal import ROUND_FLOOR, Decimal
from typing import Annotated, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import AliasChoices, BaseModel, ConfigDict, Field, PlainSerializer

from jostle.core.costs.bounds import Bounds, broken_share
from jostle.core.costs.price import Bill, bills, total
from jostle.core.engine.code import Billed, EventKind
from jostle.core.engine.mix import are_spot
from jostle.core.engine.result import Result, run
from jostle.core.plan.promise import CostPromise, Promise, ServingPromise, strictest
from jostle.core.plan.quantity import say_duration, say_money, say_share
from jostle.core.plan.work import KindOfWork
from jostle.core.rehearsal.floor import under_floor
from jostle.core.rehearsal.forecast import foreseen, looking_ahead
from jostle.core.rehearsal.market_course import worst_of_market
from jostle.core.rehearsal.name import given_name
from jostle.core.rehearsal.order_state import order_state
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rollout_state import RolloutFigures, rollouts_of

WEEK_DAYS = 7
AMOUNT_DIGITS = 6
Amount = Annotated[
    Decimal,
    PlainSerializer(lambda amount: float(round(amount, AMOUNT_DIGITS)), return_type=float),
    Field(description="Amount of the currency"),
]


def _once_called(name: str) -> AliasChoices:
    return AliasChoices(name, f"requests_{name}" if name != "arrived" else "requests_in")


class Figures(BaseModel):
    """Figures over the whole span. The unit is in the name; cost is in `currency`; what is counted is `work`."""

    model_config = ConfigDict(frozen=True)

    work: KindOfWork = "requests"
    cost: Amount
    currency: str
    instance_hours: float
    stopped_hours: float = Field(default=0.0, description="Instance hours stopped")
    overflow_hours: float = Field(default=0.0, description="Instance hours beyond those owned")
    short_minutes: float = Field(
        description="Time in which more requests came than could be answered or more than 0.1 % failed, jobs waited longer than "
        "promised, or sessions were refused"
    )
    under_minutes: float = Field(default=0.0, description="Time in which fewer instances served than the minimum")
    spot_hours: float = Field(default=0.0, description="Instance hours of spot")
    reclaims: int = Field(default=0, description="Spot instances that the market took back")
    no_spot: int = Field(default=0, description="Launches on demand since no spot was to be had")
    reclaim_minutes: float = Field(
        default=0.0, description="Time in which fewer served than were wanted since the market had taken some back"
    )
    spot_price_most_percent: float | None = Field(
        default=None, description="The dearest price that was paid for spot, of the on-demand price; null without spot"
    )
    spot_risk_most_percent: float | None = Field(
        default=None, description="The highest chance of a reclaim within an hour that an instance ran under; null without spot"
    )
    kept_back_by_spot: Amount | None = Field(
        default=None, description="What the same span would cost more all on demand, the same seed; null without spot"
    )
    swaps: int = Field(default=0, description="Instances that gave their place to cheaper spot while they ran")
    kept_back_by_swaps: Amount | None = Field(
        default=None, description="What the same span would cost more without swaps, the same seed; null where none are made"
    )
    credits_gone_minutes: float = Field(default=0.0, description="Instance time in which a bursting machine had no credits left")
    late_percent: float | None = Field(
        default=None, description="Requests not answered, or jobs not taken up, within the strictest promise; null without one"
    )
    arrived: float = Field(validation_alias=_once_called("arrived"))
    served: float = Field(validation_alias=_once_called("served"), description="Answered, done, or seated")
    failed: float = Field(validation_alias=_once_called("failed"), description="Failed, or refused a seat")
    waiting: float = Field(validation_alias=_once_called("waiting"), description="Still waiting at the end")
    cut_off: int = Field(default=0, description="Sessions ended before their time")
    moved: int = Field(default=0, description="Sessions that went since they were told that their instance leaves")
    cut_off_untold: int | None = Field(
        default=None, description="Sessions that would be cut off without the notice; null without one"
    )
    returned_jobs: float = Field(default=0.0, description="Given back unfinished by workers that left or broke")
    repeated_jobs: float = Field(default=0.0, description="Work done twice because of that, in jobs")
    latency_p50_ms: float | None = Field(description="Over all requests; null where fewer than this share was answered")
    latency_p95_ms: float | None
    wait_p95_s: float | None = Field(default=None, description="Jobs: time until taken up")
    oldest_s: float | None = Field(default=None, description="Jobs: the oldest that ever waited")
    room_percent: float | None = Field(
        default=None, description="Host: share of the time in which any one could be lost, with room for its copies on the others"
    )
    copies_moved: int = Field(default=0, description="Guest: copies that went to another host since theirs left")
    copies_lost: int = Field(default=0, description="Guest: copies that were lost with their host")
    shared_out: dict[str, Amount] = Field(
        default_factory=dict, description="Host: what of its cost was each guest's by what it held, and `free`, what nobody held"
    )
    changes: int = Field(description="Changes of the desired count")
    forecast_off_percent: float | None = Field(
        default=None, description="How far off the first policy that looks ahead was on average; null without one"
    )
    as_yesterday_off_percent: float | None = Field(
        default=None, description="The same of expecting what came a day before, at the same times"
    )
    mean_cpu_percent: float | None = Field(description="Over serving instances")
    order_filled: int | None = Field(description="Of what was ordered, what was had; null without an order, as the next two")
    order_open: int | None = Field(description="What is still asked for at the end")
    order_lapsed: int | None = Field(description="What was not had when the order lapsed")
    counted_in: str = Field(description="What the counts are of: instances, vCPUs or units")
    unit_hours: float = Field(description="Hours of those that ran")
    min_count: int = Field(description="Lowest desired count")
    max_count: int = Field(description="Highest desired count")
    promises: int = Field(default=0, description="How many were made")
    promises_kept: int = 0
    always_peak_cost: Amount | None = Field(description="Cost of the smallest fixed count that keeps the promises")
    foresight_cost: Amount | None = Field(description="Cost with perfect knowledge of the demand")


class PromiseVerdict(BaseModel):
    """One promise, judged."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["answers", "age", "seats", "room", "serving", "cost"]
    text: str
    kept: bool
    measured: str


class Attribution(BaseModel):
    """The same cost, parted in several ways; each part adds up to the whole."""

    model_config = ConfigDict(frozen=True)

    by_what: dict[str, Amount] = Field(description="machine, stopped machine, disk, address, load balancer, its data, data out")
    by_zone: dict[str, Amount]
    by_type: dict[str, Amount]
    by_version: dict[str, Amount]
    by_ownership: dict[str, Amount] = Field(description="owned or overflow")
    by_purchase: dict[str, Amount]
    by_instance: dict[str, Amount]


class Verdict(BaseModel):
    model_config = ConfigDict(frozen=True)

    figures: Figures
    promises: list[PromiseVerdict]
    rollouts: list[RolloutFigures] = Field(default_factory=list, description="What became of each, in the order of time")


def verdict(rehearsal: Rehearsal, whole: bool = True) -> Verdict:
    """Judge a rehearsal; what other rehearsals have to be played for takes longer than the rest and can be left out."""
    figures = _figures(rehearsal)
    judged = [_judged(rehearsal, figures.cost, p) for p in rehearsal.crew.group.promises]
    counted = {"promises": len(judged), "promises_kept": sum(one.kept for one in judged)}
    found = Verdict(figures=figures.model_copy(update=counted), promises=judged, rollouts=rollouts_of(rehearsal, False))
    return compared(rehearsal, found) if whole else found


def compared(rehearsal: Rehearsal, judged: Verdict) -> Verdict:
    """A verdict with what is found by playing otherwise: the bounds of cost, no notice, nothing on spot, no rollout."""
    if (bounds := rehearsal.bounds) is None:
        return judged
    figures = bounded(judged.figures, bounds)
    besides = {
        "cut_off_untold": _untold(rehearsal),
        "kept_back_by_spot": kept_back(rehearsal, figures.cost),
        "kept_back_by_swaps": _without(rehearsal, figures.cost, "swap_ticks", 0),
    }
    rollouts = rollouts_of(rehearsal, True)
    return judged.model_copy(update={"figures": figures.model_copy(update=besides), "rollouts": rollouts})


def is_compared(rehearsal: Rehearsal) -> bool:
    """Whether a verdict that is found at once says all that there is, but for the bounds of cost."""
    setup = rehearsal.result.setup
    return not (setup.of("notice_times") or setup.of("spot") or len(setup.rules.rollouts))


def bounded(figures: Figures, bounds: Bounds) -> Figures:
    """Figures with the bounds of cost."""
    return figures.model_copy(update={"always_peak_cost": bounds.always_peak, "foresight_cost": bounds.foresight})


def attribution(rehearsal: Rehearsal) -> Attribution:
    """Who and what the cost was for. What the group pays for itself has no instance, zone or version."""
    parts: dict[str, dict[str, Decimal]] = defaultdict(lambda: defaultdict(Decimal))
    for one in bills(rehearsal.result, rehearsal.crew):
        for field, name in _named(rehearsal, one).items():
            parts[field][name] += one.amount
    if rehearsal.crew.group.host is not None:
        for field in Attribution.model_fields:
            parts[field][f"part of {rehearsal.crew.group.host}"] += rehearsal.host_share
    whole = round(sum(parts["by_what"].values(), Decimal()), AMOUNT_DIGITS)
    return Attribution(**{field: _rounded(parts[field], whole) for field in Attribution.model_fields})


def _rounded(parts: dict[str, Decimal], whole: Decimal) -> dict[str, Decimal]:
    """Amounts to their last digit such that they add up to the whole: those cut most are rounded up first."""
    unit = Decimal(1).scaleb(-AMOUNT_DIGITS)
    cut = {name: amount.quantize(unit, ROUND_FLOOR) for name, amount in parts.items()}
    missing = int((whole - sum(cut.values(), Decimal())) / unit)
    for name in sorted(parts, key=lambda name: cut[name] - parts[name])[:missing]:
        cut[name] += unit
    return cut


def _named(rehearsal: Rehearsal, one: Bill) -> dict[str, str]:
    own = one.instance is None
    return {
        "by_what": one.what,
        "by_zone": "the group" if own else one.zone,
        "by_type": "the group" if own else one.machine,
        "by_version": "the group" if own else f"version {one.version}",
        "by_ownership": "the group" if own else "overflow" if one.overflow else "owned",
        "by_purchase": "the group" if own else "spot" if one.spot else "on-demand",
        "by_instance": "the group" if one.instance is None else given_name(rehearsal, one.instance) or str(one.instance + 1),
    }


def _figures(rehearsal: Rehearsal) -> Figures:
    result, series = rehearsal.result, rehearsal.result.series
    served_ticks = result.tally("served_ticks")
    decisions = result.decisions
    counts = np.concatenate([[rehearsal.crew.group.first_count], decisions["decided"]])
    work = rehearsal.crew.group.work.kind
    p50, p95 = (result.latency(0.5), result.latency(0.95)) if work == "requests" else (None, None)
    jobs = work == "jobs"
    ahead = [foreseen(rehearsal, number) for number, _ in looking_ahead(rehearsal)[:1]]
    off, as_yesterday = ahead[0] if ahead else (None, None)
    ordered = order_state(rehearsal)
    worst = worst_of_market(rehearsal) if result.setup.of("spot") else None
    return Figures(
        work=work,
        cost=_cost(rehearsal),
        currency=rehearsal.plan.currency,
        instance_hours=round(float(result.instance_seconds.sum()) / 3600, 6),
        stopped_hours=round(float(result.spell_seconds(Billed.STANDING).sum()) / 3600, 6),
        overflow_hours=round(result.tally("overflow_ticks") * result.setup.tick / 3600, 6),
        short_minutes=_short_minutes(result),
        under_minutes=_under_minutes(rehearsal),
        spot_hours=round(float(_spot_seconds(result)) / 3600, 6),
        reclaims=int(result.tally("reclaimed")),
        no_spot=int(result.tally("spot_refused")),
        reclaim_minutes=0.0 if worst is None else round(worst.missing / 60, 3),
        spot_price_most_percent=None if worst is None else round(100 * worst.price, 3),
        spot_risk_most_percent=None if worst is None else round(100 * worst.risk, 3),
        swaps=int(result.tally("swaps")),
        credits_gone_minutes=round(result.tally("tired_ticks") * result.setup.tick / 60, 3),
        late_percent=_late(rehearsal),
        arrived=result.arrived,
        served=result.tally("served"),
        failed=result.tally("failed"),
        waiting=result.tally("backlog"),
        cut_off=int(result.tally("cut_off")),
        moved=int(result.tally("moved")),
        returned_jobs=result.tally("returned"),
        repeated_jobs=result.tally("repeated"),
        latency_p50_ms=None if p50 is None else round(p50 * 1000, 3),
        latency_p95_ms=None if p95 is None else round(p95 * 1000, 3),
        wait_p95_s=round(result.job_wait(0.95), 3) if jobs else None,
        oldest_s=round(float(series["age"].max()), 3) if jobs else None,
        room_percent=_room_percent(rehearsal),
        copies_moved=int((result.events["kind"] == EventKind.COPY_MOVED).sum()),
        copies_lost=int((result.events["kind"] == EventKind.COPY_LOST).sum()),
        shared_out=_shared_out(rehearsal),
        changes=_changes(result),
        forecast_off_percent=None if off is None else round(100 * off, 3),
        as_yesterday_off_percent=None if as_yesterday is None else round(100 * as_yesterday, 3),
        mean_cpu_percent=round(100 * result.tally("cpu_ticks") / served_ticks, 3) if served_ticks else None,
        order_filled=ordered and ordered.filled,
        order_open=ordered and ordered.open,
        order_lapsed=ordered and ordered.lapsed,
        counted_in=f"{rehearsal.crew.group.unit}s",
        unit_hours=round(_unit_seconds(result) / 3600, 6),
        min_count=int(counts.min()),
        max_count=int(counts.max()),
        always_peak_cost=None,
        foresight_cost=None,
    )


def _cost(rehearsal: Rehearsal) -> Decimal:
    """What a group costs, of a guest with its part of its host."""
    return total(rehearsal.result, rehearsal.crew) + rehearsal.host_share


def _room_percent(rehearsal: Rehearsal) -> float | None:
    """How much of the time there was room for the copies of any one host on the others, cut to the hundredth."""
    if not rehearsal.crew.group.hosts:
        return None
    return math.floor(10000 * (1.0 - rehearsal.result.unborne_share)) / 100


def _shared_out(rehearsal: Rehearsal) -> dict[str, Decimal]:
    """What of a host's cost was whose."""
    if rehearsal.aboard is None or not rehearsal.crew.group.hosts:
        return {}
    parts = {**rehearsal.aboard.by_guest, "free": rehearsal.aboard.shares.free}
    return _rounded(parts, round(sum(parts.values(), Decimal()), AMOUNT_DIGITS))


def _unit_seconds(result: Result) -> float:
    """Seconds that instances ran, each as many times as it counts."""
    return float((result.instance_seconds * result.setup.kinds.view(np.ndarray)["weight"][_ran_as(result)]).sum())


def _spot_seconds(result: Result) -> float:
    """Seconds that spot instances ran."""
    return float(result.instance_seconds[are_spot(_ran_as(result))].sum())


def _ran_as(result: Result) -> NDArray[np.int8]:
    """The kind of machine of each spell that an instance ran, shape (those spells,)."""
    running = result.spells[result.spells["kind"] == Billed.RUNNING]
    return np.asarray(result.instances["kind"][running["instance"]])


def _untold(rehearsal: Rehearsal) -> int | None:
    """How many sessions the same span cuts off where nobody is told, under the same seed. None without a notice."""
    setup = rehearsal.result.setup
    if not setup.of("notice_times"):
        return None
    return int(run(setup.changed(notice_times=0)).tally("cut_off"))


def kept_back(rehearsal: Rehearsal, cost: Decimal) -> Decimal | None:
    """What spot keeps back: the same span all on demand, under the same seed, is played besides. None without spot."""
    return _without(rehearsal, cost, "spot", False)


def _without(rehearsal: Rehearsal, cost: Decimal, name: str, off: bool | int) -> Decimal | None:
    """What the same span would cost more with one of its numbers switched off, under the same seed. None where it is off."""
    setup = rehearsal.result.setup
    return total(run(setup.changed(**{name: off})), rehearsal.crew) - cost if setup.of(name) else None


def _late(rehearsal: Rehearsal) -> float | None:
    promise = strictest(rehearsal.crew.group.promises)
    return None if promise is None else round(100 * broken_share(rehearsal.result, promise), 4)


class Judgement(NamedTuple):
    """What a search goes by: of the figures those, how many promises were broken, and how far in all, as a share of what they
    allow."""

    cost: Decimal
    short_minutes: float
    changes: int
    broken: int
    beyond: float


def judge(rehearsal: Rehearsal) -> Judgement:
    """The same as a verdict says of these, without the rest."""
    cost = _cost(rehearsal)
    promises = rehearsal.crew.group.promises
    broken = [promise for promise in promises if not _judged(rehearsal, cost, promise).kept]
    beyond = sum(_beyond(rehearsal, cost, promise) for promise in broken)
    return Judgement(cost, _short_minutes(rehearsal.result), _changes(rehearsal.result), len(broken), beyond)


def _beyond(rehearsal: Rehearsal, cost: Decimal, promise: Promise) -> float:
    """How much more than it allows was the case, as a share of what it allows."""
    match promise:
        case CostPromise():
            return float(_weekly(rehearsal, cost) / promise.at_most) - 1.0
        case ServingPromise():
            return _under_minutes(rehearsal) * 60 / max(60.0, promise.at_most * rehearsal.plan.days / WEEK_DAYS) - 1.0
        case _:
            return broken_share(rehearsal.result, promise) / max(1e-3, 1.0 - promise.share) - 1.0


def _weekly(rehearsal: Rehearsal, cost: Decimal) -> Decimal:
    return cost * Decimal(WEEK_DAYS) / Decimal(str(rehearsal.plan.days))


def _short_minutes(result: Result) -> float:
    return round(result.tally("short_ticks") * result.setup.tick / 60, 3)


def _under_minutes(rehearsal: Rehearsal) -> float:
    return round(float(under_floor(rehearsal).sum()) * rehearsal.result.setup.tick / 60, 3)


def _changes(result: Result) -> int:
    return int((result.decisions["decided"] != result.decisions["desired"]).sum())


def _judged(rehearsal: Rehearsal, cost: Decimal, promise: Promise) -> PromiseVerdict:
    text = promise.text(rehearsal.plan.currency)
    if isinstance(promise, CostPromise):
        weekly = _weekly(rehearsal, cost)
        measured = f"{say_money(weekly, rehearsal.plan.currency)} a week"
        return PromiseVerdict(kind="cost", text=text, kept=weekly <= promise.at_most, measured=measured)
    if isinstance(promise, ServingPromise):
        under = _under_minutes(rehearsal) * 60
        allowed = promise.at_most * rehearsal.plan.days / WEEK_DAYS
        kept, measured = under <= allowed + 1e-6, f"{say_duration(under)} were fewer"
        return PromiseVerdict(kind="serving", text=text, kept=kept, measured=measured)
    broken = broken_share(rehearsal.result, promise)
    measured = f"{say_share(np.floor((1 - broken) * 10000) / 10000, 4)} {promise.verb}"
    return PromiseVerdict(kind=promise.kind, text=text, kept=broken <= 1 - promise.share + 1e-12, measured=measured)


class Difference(BaseModel):
    """How one figure differs from that of another take."""

    model_config = ConfigDict(frozen=True)

    figure: str
    text: str
    better: bool | None = Field(description="null where the difference is neither good nor bad")


def differences(now: Figures, before: Figures) -> list[Difference]:
    """The figures of the verdict that differ. Less is better in each of them, but for changes of count."""
    found = []
    for figure, unit, judged in (
        ("cost", "%", True),
        ("short_minutes", "", True),
        ("under_minutes", "", True),
        ("latency_p95_ms", "", True),
        ("wait_p95_s", "", True),
        ("failed", "", True),
        ("cut_off", "", True),
        ("changes", "", False),
    ):
        new, old = getattr(now, figure), getattr(before, figure)
        if new is None or old is None:
            if new is not old:
                found.append(Difference(figure=figure, text="was none" if old is None else "", better=old is None))
            continue
        change = float(new) - float(old)
        shown = 100 * change / float(old) if unit == "%" and old else change
        text = f"{abs(shown):,.1f}" if unit == "%" or (abs(shown) < 10 and shown % 1) else f"{abs(shown):,.0f}"
        if text.strip("0.,") == "":
            continue
        sign = "+" if shown > 0 else "−"
        found.append(Difference(figure=figure, text=f"{sign}{text}{' %' if unit else ''}", better=change < 0 if judged else None))
    return found
