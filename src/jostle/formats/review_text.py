"""A review of two plans as text, as Markdown for whoever reviews a change, and as one page of HTML with both weeks drawn."""

from jostle.core.checks.review import Between, GroupReview, Review, Reviewed, kept_text
from jostle.core.plan.quantity import say_money, say_number
from jostle.core.today import now
from jostle.formats.report_html import PAGES, strips

_STATES = {"same": "as it was", "changed": "changed", "came": "new", "went": "no longer there"}


def money_text(cost: Between, currency: str) -> str:
    """`€ 236, was € 225: € 10.60 more, 4.7 % (€ 9.80 to € 11.40)`."""
    if cost.after is None or cost.before is None:
        there = cost.after if cost.before is None else cost.before
        return f"{say_money(there or 0.0, currency)}, {'was not there' if cost.before is None else 'is not there any more'}"
    if cost.more == 0.0:
        return f"{say_money(cost.after, currency)}, as before"
    more, low, high = cost.more or 0.0, cost.low, cost.high
    within = share = ""
    if low is not None and high is not None:
        ends = [say_money(one, currency) for one in sorted((abs(low), abs(high)))]
        within = f" ({ends[0]} to {ends[1]})" if low * high > 0 else ", which may be chance"
    if cost.share is not None:
        share = f", {100 * abs(cost.share):.3g} %"
    said = f"{say_money(abs(more), currency)} {'less' if more < 0 else 'more'}"
    return f"{say_money(cost.after, currency)}, was {say_money(cost.before, currency)}: {said}{share}{within}"


def count_text(figure: Between, what: str) -> str:
    """`268 changes of the count, was 298`."""
    if figure.after is None or figure.before is None or figure.after == figure.before:
        there = figure.after if figure.after is not None else figure.before
        return f"{say_number(there or 0.0)} {what}"
    return f"{say_number(figure.after)} {what}, was {say_number(figure.before)}"


def lines_of(group: GroupReview, currency: str) -> list[str]:
    """What a group comes to, a line each."""
    return [
        f"cost: {money_text(group.cost, currency)}",
        count_text(group.short_minutes, "min short of capacity"),
        count_text(group.changes, "changes of the count"),
        *(f"{'BROKEN: ' if one.newly_broken else ''}{one.text}: kept {kept_text(one)}" for one in group.promises),
        *(f"found: {one.severity} {one.code}: {one.text}" for one in group.found),
        *(f"no longer found: {one.code}" for one in group.mended),
    ]


def write_text(told: Review) -> str:
    """Plain text."""
    parts = [f"All groups: {money_text(told.cost, told.currency)}; means of {told.seeds} seeds"]
    if told.besides:
        parts.append(f"Besides groups: {'; '.join(told.besides)}")
    if told.same:
        parts.append(f"As they were: {', '.join(told.same)}")
    for group in told.differing:
        parts.append(f"\n{group.name}: {_STATES[group.state]}")
        for pair in group.sentences:
            parts += [f"  - {pair.before}"] if pair.before else []
            parts += [f"  + {pair.after}"] if pair.after else []
        parts += [f"  {line}" for line in lines_of(group, told.currency)]
    return "\n".join(parts)


def write_markdown(told: Review, against: list[str] | None) -> str:
    """CommonMark, with what speaks against the change where that was asked."""
    parts = [f"**All groups: {money_text(told.cost, told.currency)}**, means of {told.seeds} seeds."]
    if against is not None:
        parts.append(
            "Nothing speaks against it." if not against else "**Refused:**\n\n" + "\n".join(f"- {one}" for one in against)
        )
    if told.besides:
        parts.append(f"Besides groups: {'; '.join(told.besides)}.")
    for group in told.differing:
        parts.append(f"### {group.name}: {_STATES[group.state]}")
        changed = [_pair_line(pair.before, pair.after) for pair in group.sentences]
        parts.append("\n".join([*changed, *(f"- {line}" for line in lines_of(group, told.currency))]))
    if told.same:
        parts.append(f"As they were: {', '.join(told.same)}.")
    return "\n\n".join(parts) + "\n"


def _pair_line(before: str | None, after: str | None) -> str:
    if before is None:
        return f"- new: *{after}*"
    return f"- gone: *{before}*" if after is None else f"- *{after}* (was: {before})"


def write_html(reviewed: Reviewed, title: str, against: list[str] | None) -> str:
    """A page that stands alone, with the weeks of each group that is not as it was."""
    told = reviewed.told
    groups = [
        {
            "name": group.name,
            "state": _STATES[group.state],
            "sentences": group.sentences,
            "lines": lines_of(group, told.currency),
            "weeks": [
                (word, strips(side[group.name], other.get(group.name)))
                for word, side, other in (
                    ("before", reviewed.before, reviewed.after),
                    ("after", reviewed.after, reviewed.before),
                )
                if group.name in side
            ],
        }
        for group in told.differing
    ]
    return PAGES.get_template("review.html").render(
        title=title,
        cost=money_text(told.cost, told.currency),
        told=told,
        groups=groups,
        against=against,
        made=f"{now():%Y-%m-%d %H:%M} UTC",
    )
