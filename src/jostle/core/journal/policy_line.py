"""A policy as a sentence, and in a few words."""

from jostle.core.journal.word import Sentence, Word, choice_word, say, share_word, time_word
from jostle.core.plan.policy import HoldPolicy, MetricPolicy, Policy, SparePolicy, TriggerPolicy
from jostle.core.plan.quantity import say_duration, say_number, say_share
from jostle.core.plan.work import Work

FOLD_WORDS = {
    "average": "average",
    "minimum": "minimum",
    "maximum": "maximum",
    "latest": "latest",
    "sum": "sum of",
    "count": "number of samples of",
    "p90": "90th percentile of",
}
_SPARE_UNITS = {"requests": "requests/s", "jobs": "jobs side by side", "sessions": "seats"}


def policy_tone(policy: Policy) -> str:
    """`add`, `remove` or `both`: which way a policy moves the count."""
    match policy:
        case TriggerPolicy():
            return {"add": "add", "remove": "remove", "set": "both"}[policy.action]
        case HoldPolicy() | SparePolicy():
            return "both" if policy.may_remove else "add"


def policy_level(policy: Policy) -> tuple[str, float]:
    """Field and value of the level that a policy goes by."""
    match policy:
        case HoldPolicy():
            return "level", policy.level
        case TriggerPolicy():
            return "threshold", policy.threshold
        case SparePolicy():
            return ("share", policy.share) if policy.share is not None else ("number", policy.number or 0.0)


def say_step(policy: TriggerPolicy) -> str:
    """`add 2`, `add 2, 5 beyond 85 %`, `remove 20 %`, `set the count to 4`."""
    of = " %" if policy.of == "percent" else ""
    verb = "set the count to" if policy.action == "set" else policy.action
    beyond = [f"{band.amount}{of} beyond {policy.say_level(band.beyond)}" for band in policy.bands]
    return ", ".join([f"{verb} {policy.amount}{of}", *beyond])


def say_free(policy: SparePolicy, work: Work) -> str:
    """`15 % of seats`, `60 seats`."""
    unit = _SPARE_UNITS[work.kind]
    if policy.share is not None:
        return f"{say_share(policy.share)} of {'the capacity' if work.kind == 'requests' else unit}"
    return f"{say_number(policy.number or 0)} {unit}"


def policy_sentence(policy: Policy, work: Work) -> Sentence:
    path = f"policies.{policy.name}"
    wait = [say(", then wait "), time_word(f"{path}.cooldown", policy.cooldown), say(".")]
    match policy:
        case TriggerPolicy():
            words = _trigger(policy, path)
        case HoldPolicy():
            words = _hold(policy, path)
        case SparePolicy():
            words = _spare(policy, path, work)
    words += wait
    if policy.paused:
        words = [say("Paused: "), *words]
    return Sentence(key=path, tone="paused" if policy.paused else policy_tone(policy), words=words)


def _metric(policy: MetricPolicy, path: str) -> list[Word]:
    where = [say(" in zone "), choice_word(f"{path}.zone", policy.zone)] if policy.zone else []
    return [
        choice_word(f"{path}.fold", policy.fold, FOLD_WORDS[policy.fold]),
        say(" "),
        choice_word(f"{path}.metric", policy.metric.value, policy.series or policy.metric.label),
        *where,
    ]


def _trigger(policy: TriggerPolicy, path: str) -> list[Word]:
    of = " %" if policy.of == "percent" else ""
    bands: list[Word] = []
    for number, band in enumerate(policy.bands):
        bands += [
            say(", or "),
            Word(text=f"{band.amount}{of}", path=f"{path}.bands.{number}.amount", value=band.amount),
            say(" beyond "),
            Word(text=policy.say_level(band.beyond), path=f"{path}.bands.{number}.beyond", value=band.beyond),
        ]
    return [
        say("When "),
        *_metric(policy, path),
        say(" stays "),
        choice_word(f"{path}.side", policy.side),
        say(" "),
        Word(text=policy.say_level(policy.threshold), path=f"{path}.threshold", value=policy.threshold),
        say(" for "),
        time_word(f"{path}.window", policy.window),
        say(", "),
        choice_word(f"{path}.action", policy.action, "set the count to" if policy.action == "set" else None),
        say(" "),
        Word(text=f"{policy.amount}{of}", path=f"{path}.amount", value=policy.amount),
        *bands,
    ]


def _removing(policy: HoldPolicy | SparePolicy, path: str) -> Word:
    text = "adding and removing" if policy.may_remove else "never removing"
    return Word(text=text, path=f"{path}.may_remove", value=policy.may_remove)


def _hold(policy: HoldPolicy, path: str) -> list[Word]:
    return [
        say("Hold "),
        *_metric(policy, path),
        say(" over "),
        time_word(f"{path}.window", policy.window),
        say(" at "),
        Word(text=policy.metric.say(policy.level), path=f"{path}.level", value=policy.level),
        say(" give or take "),
        share_word(f"{path}.tolerance", policy.tolerance),
        say(", "),
        _removing(policy, path),
    ]


def _spare(policy: SparePolicy, path: str, work: Work) -> list[Word]:
    field, value = policy_level(policy)
    number, _, unit = say_free(policy, work).partition(" of " if policy.share is not None else " ")
    return [
        say("Keep "),
        Word(text=number, path=f"{path}.{field}", value=value),
        say(f" {'of ' if policy.share is not None else ''}{unit} free, by the "),
        choice_word(f"{path}.fold", policy.fold, FOLD_WORDS[policy.fold]),
        say(" over "),
        time_word(f"{path}.window", policy.window),
        say(", "),
        _removing(policy, path),
        say(" with "),
        share_word(f"{path}.slack", policy.slack),
        say(" to spare"),
    ]


def policy_words(policy: Policy, work: Work) -> str:
    """A policy in a few words, for lists: `adds 1 above 58 % CPU`."""
    match policy:
        case TriggerPolicy():
            of = " %" if policy.of == "percent" else ""
            verb = {"add": "adds", "remove": "removes", "set": "sets"}[policy.action]
            return f"{verb} {policy.amount}{of} {policy.side} {policy.say_level(policy.threshold)} {policy.metric_label}"
        case HoldPolicy():
            return f"holds {policy.metric_label} at {policy.metric.say(policy.level)}"
        case SparePolicy():
            return f"keeps {say_free(policy, work)} free"


def say_sight(policy: Policy, value: float, work: Work) -> str:
    """What a policy saw, against its level: `average CPU 91 % over 3 min, above 66 %`."""
    over = f"over {say_duration(policy.window)}"
    if isinstance(policy, SparePolicy):
        unit = {"requests": "requests/s", "jobs": "jobs", "sessions": "sessions"}[work.kind]
        return f"{FOLD_WORDS[policy.fold]} {say_number(value)} {unit} in use {over}, {say_free(policy, work)} to be kept free"
    seen = f"{FOLD_WORDS[policy.fold]} {policy.metric_label} {policy.say_level(value)} {over}"
    if isinstance(policy, HoldPolicy):
        return f"{seen}, to be held at {policy.metric.say(policy.level)}"
    levels = [policy.threshold, *(band.beyond for band in policy.bands)]
    below = policy.side == "below"
    passed = [level for level in levels if (value < level if below else value > level)]
    level = passed[-1] if passed else policy.threshold
    how = "not " if not passed else "just " if policy.say_level(value) == policy.say_level(level) else ""
    return f"{seen}, {how}{policy.side} {policy.say_level(level)}"
