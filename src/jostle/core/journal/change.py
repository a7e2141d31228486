"""What a change of settings is called: `wait 9 min, was 5 min`."""

from typing import Any

from jostle.core.engine.compile import Crew
from jostle.core.journal.sentence import Word, group_page
from jostle.core.plan.plan import Plan

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
        if path in old and old[path].text != word.text and not (path == "start_count" and follows)
    ]


def say_change(plan: Plan, name: str, before: Crew, after: Crew) -> str:
    """One line for all that differs between two versions of a group; `no change` where nothing does."""
    parts = [_say_word(after, old, new) for old, new in changed_words(plan, name, before, after)]
    was = {policy.name for policy in before.group.policies}
    now = {policy.name for policy in after.group.policies}
    parts += [f"new policy {policy}" for policy in sorted(now - was)] + [f"without {policy}" for policy in sorted(was - now)]
    paused_before = {p.name: p.paused for p in before.group.policies}
    for policy in after.group.policies:
        if policy.name in paused_before and paused_before[policy.name] != policy.paused:
            parts.append(f"{policy.name} {'paused' if policy.paused else 'resumed'}")
    return ", ".join(parts[:3]) + (f" and {len(parts) - 3} more" if len(parts) > 3 else "") or "no change"


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
    elif path == "cooldown":
        label = "group wait"
    return f"{label} {new.text}, was {old.text}"
