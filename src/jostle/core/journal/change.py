"""What a change of settings is called: `wait 9 min, was 5 min`."""

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from jostle.core.journal.sentence import Page
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.group import Group
from jostle.core.plan.model import Model
from jostle.core.plan.policy import Policy
from jostle.core.plan.word import Word

T = TypeVar("T")
NO_CHANGE = "no change"
_NAMES = {
    "cooldown": "wait",
    "evaluate_every": "asked every",
    "delay": "meter delay",
    "period": "meter period",
    "start_count": "start",
    "cpu_seconds": "CPU time",
    "base_latency": "base latency",
    "idle_cpu": "idle CPU",
    "may_remove": "removing",
    "within": "answers within",
    "share": "share answered",
    "at_most": "cost promise",
    "buying": "spot",
    "level": "hold at",
}


def changed_words(before: Page, after: Page) -> list[tuple[Word, Word]]:
    """Pairs of words of the two pages that stand for the same setting and differ, but for a start that follows the minimum."""
    old, new = before.words, after.words
    follows = after.crew.group.start_count is None
    listed = [name for name in ("hands", "promises") if _number(before, name) != _number(after, name)]
    return [
        (old[path], word)
        for path, word in new.items()
        if path in old
        and old[path].text != word.text
        and not (path == "start_count" and follows)
        and path.split(".")[0] not in listed
    ]


def say_change(before: Page, after: Page) -> str:
    """One line for all that differs between two versions of a group; NO_CHANGE where nothing does."""
    was, now = before.crew.group, after.crew.group
    parts = [_say_word(now, old, new) for old, new in changed_words(before, after)]
    parts += _comings(was.policies, now.policies, "policy")
    parts += _comings(was.calendar, now.calendar, "calendar entry")
    parts += _listed(was.hands, now.hands, lambda hand: f"a hand {hand.text()}", lambda hand: f"no hand {hand.text()}")
    parts += _listed(_promised(before), _promised(after), "promised: {}".format, "no longer promised: {}".format)
    if not parts:
        parts = [*_fields_of(was.policies, now.policies), *_fields_of(was.calendar, now.calendar)] or _differing(was, now)
    return ", ".join(parts[:3]) + (f" and {len(parts) - 3} more" if len(parts) > 3 else "") or NO_CHANGE


def _differing(was: Model, now: Model) -> list[str]:
    """The fields that differ, by what they are called."""
    fields = [field for field in type(now).model_fields if getattr(was, field, None) != getattr(now, field)]
    return [_NAMES.get(field, field.replace("_", " ")) for field in fields]


def _fields_of(before: Sequence[Policy | CalendarEntry], after: Sequence[Policy | CalendarEntry]) -> list[str]:
    """What differs within policies or entries that no word of the page tells, with whose it is."""
    was = {one.name: one for one in before}
    return [f"{field} of {one.name}" for one in after if one.name in was for field in _differing(was[one.name], one)]


def _comings(before: Sequence[Policy | CalendarEntry], after: Sequence[Policy | CalendarEntry], noun: str) -> list[str]:
    """What came, what went, and what was paused or resumed, by name."""
    was, now = {one.name: one.paused for one in before}, {one.name: one.paused for one in after}
    parts = [f"new {noun} {name}" for name in sorted(set(now) - set(was))]
    parts += [f"without {name}" for name in sorted(set(was) - set(now))]
    both = [name for name in now if name in was and was[name] != now[name]]
    return parts + [f"{name} {'paused' if now[name] else 'resumed'}" for name in both]


def _listed(before: Sequence[T], after: Sequence[T], came: Callable[[T], str], went: Callable[[T], str]) -> list[str]:
    """What came to a list, and what went from it; where it is as long as before, what differs is told by its words."""
    if len(before) == len(after):
        return []
    return [came(one) for one in after if one not in before] + [went(one) for one in before if one not in after]


def _number(page: Page, listed: str) -> int:
    return len(getattr(page.crew.group, listed))


def _promised(page: Page) -> list[str]:
    """What is promised, a text for each."""
    sentences = (sentence for section in page.sections if section.key == "promises" for sentence in section.sentences)
    return [sentence.text.strip(" .") for sentence in sentences]


def _say_word(group: Group, old: Word, new: Word) -> str:
    path = str(new.path)
    field = path.split(".")[-1]
    label = _NAMES.get(field, field.replace("_", " "))
    if path.startswith("policies."):
        policy: Any = next(p for p in group.policies if p.name == path.split(".")[1])
        if field == "threshold":
            label = f"{policy.action} {policy.side}"
        elif field == "amount":
            label = policy.action
        elif field == "share":
            label = "kept free"
    elif field == "ready_by":
        label = f"{path.split('.')[1]}:"
    elif path == "cooldown":
        label = "group wait"
    return f"{label} {new.text}, was {old.text}"
