"""A search as the screen shows it: its points, what matters, and one set looked at closely."""

import math

from pydantic import BaseModel, Field

from jostle.api.desk import Desk
from jostle.api.editor import editor_of, site_of
from jostle.api.strips import Numbers, numbers
from jostle.api.tune_desk import FoundKept, Running
from jostle.core.journal.change import changed_words
from jostle.core.journal.sentence import Page, group_page
from jostle.core.plan.editor import Editor
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_money
from jostle.core.plan.reading import MeasureName
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.strip import Span, wanted
from jostle.core.rehearsal.verdict import verdict
from jostle.core.tuning.front import Matters, front, matters
from jostle.core.tuning.goal import Judged
from jostle.core.tuning.space import Varied, among_choices, applied, as_written, usual_space
from jostle.records.store import KeptPlan, NotKept

# Buckets of the small strips
BUCKETS = 240


class HowRead(BaseModel):
    """How a value of it is read that is typed."""

    measure: MeasureName
    unit: str


class VariedView(Varied):
    """A setting that may vary, in words."""

    name: str
    how: HowRead
    now: str
    low_text: str
    high_text: str


class Points(BaseModel):
    """The sets that were rehearsed, a column for each of what is said of them."""

    number: list[int]
    cost: Numbers
    short: Numbers
    kept: list[bool]
    on_front: list[bool]
    values: dict[str, list[float]] = Field(description="What each setting was, by its path; in the units of the plan file")


class SetView(BaseModel):
    """One set looked at closely."""

    number: int
    cost: str
    short: str
    kept: str
    again: str
    breaks: list[str] = Field(
        description="The promises that it does not always keep, with how often, under the seeds of the search"
    )
    differs: list[str]
    demand: Numbers
    capacity: Numbers
    count: Numbers
    capacity_as_is: Numbers


class MattersView(Matters):
    name: str


class SearchView(BaseModel):
    number: int
    take: int
    running: bool
    looked_at: int
    of: int
    seconds: float
    seeds: int
    space: list[VariedView]
    currency: str
    as_is: SetView | None
    as_is_cost: float | None
    as_is_short: float | None
    points: Points
    chosen: SetView | None
    refused: int
    matters: list[MattersView]
    said: str
    trouble: str | None


def set_of(found: FoundKept, number: int) -> Judged:
    judged = next((one for one in found.sets if one.number == number and one.refused is None), None)
    if judged is None:
        raise NotKept(f"this search has no set {number} that was rehearsed")
    return judged


def space_view(plan: Plan, group: str, space: list[Varied]) -> list[VariedView]:
    document = plan.groups[group].model_dump(mode="json")

    def page(end: str | None) -> Page:
        values = {} if end is None else {one.path: as_written(one, getattr(one, end)) for one in space}
        return group_page(crew_of(with_group(plan, group, applied(document, values)), group), plan.currency)

    page_now = page(None)
    now, low, high = ({path: word.text for path, word in one.words.items()} for one in (page_now, page("low"), page("high")))
    return [
        VariedView(
            **one.model_dump(),
            name=_name(one.path),
            how=_how(page_now, one.path, plan),
            now=now.get(one.path, ""),
            low_text=low.get(one.path, f"{one.low:g}"),
            high_text=high.get(one.path, f"{one.high:g}"),
        )
        for one in space
    ]


def chosen_space(plan: Plan, group: str, paths: list[str]) -> list[Varied]:
    """The settings of these paths, each within a range that makes sense for it. Raises PlanError where one is no number of the
    page."""
    usual = {one.path: one for one in usual_space(plan.groups[group])}
    document = plan.groups[group].model_dump(mode="json")
    page = group_page(crew_of(plan, group), plan.currency)
    site = site_of(plan, page.crew)
    found, problems = [], []
    for path in dict.fromkeys(paths):
        word = page.words.get(path)
        editor = None if word is None else editor_of(word, plan, page.crew, site)
        if path in usual:
            found.append(usual[path])
        elif word is not None and (choices := among_choices(path, document)) is not None:
            found.append(choices)
        elif word is None or editor is None or editor.kind != "number":
            numbers_there = [p for p, one in page.words.items() if isinstance(one.value, int | float)]
            problems.append(Problem(("vary",), path, f"is no number of the page; there is: {', '.join(numbers_there)}"))
        else:
            found.append(_around(path, float(word.value), editor, isinstance(word.value, int)))
    if problems:
        raise PlanError(problems)
    return found


def _around(path: str, value: float, editor: Editor, whole: bool) -> Varied:
    """From half to one and a half of a value, as far as its editor goes."""
    least, most, step = (end / editor.scale for end in (editor.minimum, editor.maximum, editor.step))
    low, high = max(least, value / 2), min(most, 1.5 * value)
    low, high = (low, high) if low < high else (least, most)
    if whole:
        return Varied(path=path, low=math.floor(low), high=math.ceil(high), step=1.0)
    return Varied(
        path=path, low=float(f"{low:.4g}"), high=float(f"{high:.4g}"), step=step if editor.measure == "duration" else 0.0
    )


def _how(page: Page, path: str, plan: Plan) -> HowRead:
    word = page.words.get(path)
    editor = None if word is None else editor_of(word, plan, page.crew, site_of(plan, page.crew))
    return HowRead(measure="number", unit="") if editor is None else HowRead(measure=editor.measure, unit=editor.unit)


_FIELDS = {"cooldown": "wait", "amount": "how many at once", "share": "share kept free"}


def _name(path: str) -> str:
    owner, _, name = path.removeprefix("policies.").removeprefix("calendar.").rpartition(".")
    word = _FIELDS.get(name, name.replace("_", " "))
    return f"{word} of {owner}" if owner else word


def said_of(found: FoundKept, currency: str) -> str:
    if found.chosen:
        cost = say_money(found.chosen.cost, currency)
        return f"{cost}, kept in {found.confirmed.said_of_others()}" if found.confirmed else cost
    best = min((one.cost for one in found.sets if one.keeps), default=None)
    if best is not None:
        return f"{say_money(best, currency)} so far"
    nearest = _nearest(found)
    if not found.ended or nearest is None:
        return "nothing keeps every promise so far"
    return f"nothing keeps every promise; set {nearest.number} comes nearest, {say_money(nearest.cost, currency)}"


def search_view(number: int, group: str, kept: KeptPlan, desk: Desk, running: Running, chosen: int | None) -> SearchView:
    found = running.found
    plan = with_group(kept.plan, group, found.document)
    seen = [one for one in found.sets if one.refused is None]
    best = {one.number for one in front(found.sets)}
    told = None
    if chosen is not None:
        told = set_of(found, chosen)
    elif found.chosen is not None:
        told = found.chosen
    elif found.ended:
        told = _nearest(found)
    again = found.confirmed if told is not None and found.chosen is not None and told.number == found.chosen.number else None
    currency = plan.currency
    return SearchView(
        number=number,
        take=found.take,
        running=not found.ended,
        looked_at=len(found.sets),
        of=running.asked.sets,
        seconds=round(found.seconds, 1),
        seeds=running.asked.seeds,
        space=space_view(plan, group, found.space),
        currency=currency,
        as_is=None
        if found.as_is is None or found.as_is.refused
        else _looked_at(found.as_is, found.as_is_confirmed, plan, group, found, desk),
        as_is_cost=found.as_is.cost if found.as_is else None,
        as_is_short=found.as_is.short_minutes if found.as_is else None,
        points=Points(
            number=[one.number for one in seen],
            cost=[round(one.cost, 2) for one in seen],
            short=[round(one.short_minutes, 2) for one in seen],
            kept=[one.keeps for one in seen],
            on_front=[one.number in best for one in seen],
            values={setting.path: [one.values[setting.path] for one in seen] for setting in found.space},
        ),
        chosen=None if told is None else _looked_at(told, again, plan, group, found, desk),
        refused=len(found.sets) - len(seen),
        matters=[MattersView(**one.model_dump(), name=_name(one.path)) for one in matters(found.sets, found.space)],
        said=said_of(found, currency),
        trouble=running.trouble,
    )


def _nearest(found: FoundKept) -> Judged | None:
    """Of sets of which none keeps every promise, the one that comes nearest: that which keeps most, and misses by least."""
    seen = [one for one in found.sets if one.refused is None and one.seeds]
    return max(seen, key=lambda one: (one.kept / one.seeds, -one.beyond, -one.cost), default=None)


def _broken(one: Judged, changed: Plan, group: str, desk: Desk) -> list[str]:
    """The promises that a set does not keep under each of the seeds that it was judged by."""
    if one.keeps:
        return []
    missed: dict[str, list[str]] = {}
    for rehearsal in desk.rehearser.rehearse_each(changed, group, range(1, one.seeds + 1)):
        for promise in verdict(rehearsal, whole=False).promises:
            if not promise.kept:
                missed.setdefault(promise.text, []).append(promise.measured)
    return [f"{text}: in {len(weeks)} of {one.seeds} weeks, in the first of them {weeks[0]}" for text, weeks in missed.items()]


def _looked_at(one: Judged, again: Judged | None, plan: Plan, group: str, found: FoundKept, desk: Desk) -> SetView:
    changed = with_group(plan, group, applied(found.document, one.values))
    rehearsal = desk.rehearser.rehearse(changed, group, 1)
    as_is = desk.rehearser.rehearse(plan, group, 1)
    before, after = group_page(as_is.crew, plan.currency), group_page(rehearsal.crew, plan.currency)
    span = Span.of(rehearsal.clock.ticks, 0, rehearsal.clock.ticks, BUCKETS)
    pairs = changed_words(before, after)
    return SetView(
        number=one.number,
        cost=say_money(one.cost, plan.currency),
        short=f"{one.short_minutes:,.1f} min",
        kept=f"{one.kept} of {one.seeds}",
        again="" if again is None or again.refused else again.said_of_others(),
        breaks=_broken(one, changed, group, desk),
        differs=[f"{_name(new.path or '')} {new.text}, was {old.text}" for old, new in pairs],
        demand=numbers(span.buckets(wanted(rehearsal)).mean),
        capacity=numbers(span.buckets(rehearsal.result.series["capacity"]).mean),
        count=numbers(span.buckets(rehearsal.result.series["units"]).mean),
        capacity_as_is=numbers(span.buckets(as_is.result.series["capacity"]).mean),
    )
