"""What a change of settings is called: `wait 9 min, was 5 min`."""

from collections.abc import Sequence
from typing import Any

from jostle.core.engine.compile import Crew
from jostle.core.journal.sentence import group_page, say_hand
from jostle.core.journal.word import Word
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.hand import Hand
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import Policy

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
    "level": "hold at",
}


def changed_words(plan: Plan, name: str, before: Crew, after: Crew) -> list[tuple[Word, Word]]:
    """Pairs of words of the two pages that stand for the same setting and differ, but for a start that follows the minimum."""
    old, new = _by_path(plan, name, before), _by_path(plan, name, after)
    follows = after.group.start_count is None
    return [
        (old[path], word)
        for path, word in new.items()
        if path in old
        and old[path].text != word.text
        and not (path == "start_count" and follows)
        and not (path.startswith("hands.") and len(before.group.hands) != len(after.group.hands))
    ]


def say_change(plan: Plan, name: str, before: Crew, after: Crew) -> str:
    """One line for all that differs between two versions of a group; `no change` where nothing does."""
    parts = [_say_word(after, old, new) for old, new in changed_words(plan, name, before, after)]
    parts += _comings(before.group.policies, after.group.policies, "policy")
    parts += _comings(before.group.calendar, after.group.calendar, "calendar entry")
    parts += _hands(before.group.hands, after.group.hands)
    if not parts and before.group != after.group:
        parts = [_NAMES.get(field, field.replace("_", " ")) for field in _differing(before, after)]
    return ", ".join(parts[:3]) + (f" and {len(parts) - 3} more" if len(parts) > 3 else "") or "no change"


def _comings(before: Sequence[Policy | CalendarEntry], after: Sequence[Policy | CalendarEntry], noun: str) -> list[str]:
    """What came, what went, and what was paused or resumed, by name."""
    was, now = {one.name: one.paused for one in before}, {one.name: one.paused for one in after}
    parts = [f"new {noun} {name}" for name in sorted(set(now) - set(was))]
    parts += [f"without {name}" for name in sorted(set(was) - set(now))]
    both = [name for name in now if name in was and was[name] != now[name]]
    return parts + [f"{name} {'paused' if now[name] else 'resumed'}" for name in both]


def _hands(before: Sequence[Hand], after: Sequence[Hand]) -> list[str]:
    """What hands began to do, and what they no longer do; a hand that was only moved is told by its words."""
    if len(before) == len(after):
        return []
    came = [f"a hand {say_hand(hand)}" for hand in after if hand not in before]
    return came + [f"no hand {say_hand(hand)}" for hand in before if hand not in after]


def _differing(before: Crew, after: Crew) -> list[str]:
    return [field for field in type(after.group).model_fields if getattr(before.group, field) != getattr(after.group, field)]


def _by_path(plan: Plan, name: str, crew: Crew) -> dict[str, Word]:
    sentences = (sentence for section in group_page(plan, name, crew) for sentence in section.sentences)
    return {word.path: word for sentence in sentences for word in sentence.words if word.path}


def _say_word(crew: Crew, old: Word, new: Word) -> str:
    path = str(new.path)
    field = path.split(".")[-1]
    label = _NAMES.get(field, field.replace("_", " "))
    if path.startswith("policies."):
        policy: Any = next(p for p in crew.group.policies if p.name == path.split(".")[1])
        if field == "threshold":
            label = f"{policy.action} {policy.side}"
        elif field == "amount":
            label = policy.action
        elif field == "share":
            label = "kept free"
    elif path == "cooldown":
        label = "group wait"
    return f"{label} {new.text}, was {old.text}"
