"""Launch templates in lines: their versions, where each is used, how they differ."""

from collections.abc import Sequence
from typing import Any

from jostle.core.plan.launch import version_number
from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.template import LaunchTemplate, TemplateRules, version_differences
from jostle.core.plan.word import Word, say


def users(plan: Plan, template: str, number: int) -> list[str]:
    """The groups that follow a version of a template, those that follow the newest among them."""
    found = [(name, group) for name, group in plan.groups.items() if group.template == template]
    return [name for name, group in found if version_number(plan.templates[template], group.version) == number]


def template_lines(plan: Plan) -> list[str]:
    """Each template with its versions, newest first."""
    lines = []
    for name, template in plan.templates.items():
        lines.append(name)
        for number in range(len(template.versions), 0, -1):
            version = template.versions[number - 1]
            used = ", ".join(users(plan, name, number)) or "no group"
            note = f" {version.note}." if version.note else ""
            blanks = f"; open: {', '.join(version.still_open)}" if version.still_open else ""
            lines.append(f"  version {number}, used by {used}{blanks}.{note}")
    return lines


def difference_lines(template: LaunchTemplate) -> list[str]:
    """What each version changed, newest first."""
    lines = []
    for number in range(len(template.versions), 1, -1):
        lines.append(f"version {number} against {number - 1}")
        pairs = version_differences(template.versions[number - 2], template.versions[number - 1])
        lines += [f"  {field}: {_say(field, new)}, was {_say(field, old)}" for field, old, new in pairs] or ["  the note only"]
    return lines or ["There is one version."]


def _say(field: str, value: Any) -> str:
    if value is not None and field in ("boot_time", "start_time", "warm_up"):
        return say_duration(value)
    return "open" if value is None else ", ".join(map(str, value)) if isinstance(value, list) else str(value)


def rules_words(rules: TemplateRules) -> list[Word]:
    """What every version has to keep to, as a sentence."""

    def word(field: str, names: Sequence[object] | None, none: str) -> Word:
        written = ", ".join(map(str, names or ()))
        return Word(text=written or none, path=f"template_rules.{field}", value=written)

    return [
        say("Every version has the tags "),
        word("required_tags", rules.required_tags, "it likes"),
        say(", runs on "),
        word("machines", rules.machines, "any machine"),
        say(", and may not open " if rules.shut_ports else ", and may open "),
        word("shut_ports", rules.shut_ports, "any port"),
        say(" to the world."),
    ]
