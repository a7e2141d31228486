"""How it is chosen on which days an entry of the calendar comes."""

from jostle.core.journal.calendar_line import say_day, say_repeat
from jostle.core.plan.editor import Editor, Value, choices
from jostle.core.plan.repeat import WEEK
from jostle.core.plan.word import Word

_DAILY = "FREQ=DAILY"
_PLAIN: list[Value] = [None, _DAILY, "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "FREQ=WEEKLY;BYDAY=SA,SU"]


def repeat_editor(word: Word) -> Editor:
    """Once, every day, weekdays, weekends, or one day of the week more or fewer than now."""
    rule = word.value
    days = _days(rule)
    turned = [] if days is None else [_rule([d for d in WEEK if (d in days) != (d == day)]) for day in WEEK]
    known = list(dict.fromkeys([*_PLAIN, *([rule] if rule not in _PLAIN else []), *turned]))
    return choices("Comes", [(one, say_repeat(one) if isinstance(one, str) else "once") for one in known])


def exception_editor(word: Word) -> Editor:
    """The exceptions as they are, or with one of the days coming again."""
    left = list(word.value)
    again: list[tuple[Value, str]] = [
        ([other for other in left if other != day], f"come again on {say_day(day)}") for day in left
    ]
    return choices("But for", [(left, f"but for {word.text}"), *again])


def _days(rule: str | None) -> list[str] | None:
    """The days of the week of a plain rule; None where it says more than days."""
    if rule in (None, _DAILY):
        return [] if rule is None else list(WEEK)
    parts = dict(part.split("=", 1) for part in str(rule).split(";"))
    days = parts.get("BYDAY", "").split(",")
    plain = set(parts) == {"FREQ", "BYDAY"} and parts["FREQ"] == "WEEKLY" and all(day in WEEK for day in days)
    return days if plain else None


def _rule(days: list[str]) -> str | None:
    if not days:
        return None
    return _DAILY if len(days) == len(WEEK) else f"FREQ=WEEKLY;BYDAY={','.join(days)}"
