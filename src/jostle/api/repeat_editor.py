"""How it is chosen on which days an entry of the calendar comes."""

from jostle.core.journal.calendar_line import say_day
from jostle.core.plan.editor import Choice, Editor, Value, choices
from jostle.core.plan.repeat import WEEK, days_of_rule
from jostle.core.plan.word import Word

_NAMES = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


def repeat_editor(word: Word, begin: str) -> Editor:
    """The days of the week, each taken or left, and a last date; a rule that says more than that begins anew."""
    days, last = days_of_rule(word.value) or ([], None)
    named = [Choice(value=day, text=text) for day, text in zip(WEEK, _NAMES, strict=True)]
    return Editor(kind="days", label="Comes", choices=named, chosen=days, last=last, now=begin)


def exception_editor(word: Word) -> Editor:
    """The exceptions as they are, or with one of the days coming again."""
    left = list(word.value)
    again: list[tuple[Value, str]] = [
        ([other for other in left if other != day], f"come again on {say_day(day)}") for day in left
    ]
    return choices("But for", [(left, f"but for {word.text}"), *again])
