"""A group written as a page of sentences, whose words know which setting they stand for.

Read aloud, a sentence says what the group does. Each word with a path is a setting that can be changed there.
"""

from typing import Any

from pydantic import BaseModel, ConfigDict

from jostle.core.engine.compile import Crew
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import HoldPolicy, Policy, TriggerPolicy
from jostle.core.plan.promise import AnswersPromise, CostPromise
from jostle.core.plan.quantity import say_duration, say_money, say_number, say_share


class Word(BaseModel):
    """Text, and where it stands for a setting of the group, the path to it and its value in the base unit."""

    model_config = ConfigDict(frozen=True)

    text: str
    path: str | None = None
    value: Any = None


class Sentence(BaseModel):
    """`key` is the path of what the sentence is about, if it is about one thing; `tone` says which ink it takes."""

    model_config = ConfigDict(frozen=True)

    key: str
    tone: str
    words: list[Word]

    @property
    def text(self) -> str:
        return "".join(word.text for word in self.words)


class Section(BaseModel):
    model_config = ConfigDict(frozen=True)

    key: str
    title: str
    sentences: list[Sentence]


def _say(text: str) -> Word:
    return Word(text=text)


def _count(path: str, value: int) -> Word:
    return Word(text=str(value), path=path, value=value)


def _time(path: str, seconds: float) -> Word:
    return Word(text=say_duration(seconds), path=path, value=seconds)


def _share(path: str, share: float) -> Word:
    return Word(text=say_share(share), path=path, value=share)


def _choice(path: str, value: str, text: str | None = None) -> Word:
    return Word(text=text or value, path=path, value=value)


def group_page(plan: Plan, group_name: str, crew: Crew) -> list[Section]:
    """The sections of a group's page, in the order in which they are read."""
    group = crew.group
    return [
        Section(key="runs", title="Runs", sentences=[_runs(crew)]),
        Section(key="work", title="Work", sentences=[_demand(crew), _work(crew)]),
        Section(key="promises", title="Promises", sentences=_promises(plan, crew)),
        Section(key="policies", title="Policies", sentences=[_policy(p) for p in group.policies] + [_pace(crew)]),
    ]


def _runs(crew: Crew) -> Sentence:
    group, template = crew.group, crew.template
    return Sentence(
        key="runs",
        tone="plain",
        words=[
            _count("minimum", group.minimum),
            _say(" to "),
            _count("maximum", group.maximum),
            _say(" instances of "),
            _choice("template", group.template),
            _say(", "),
            _count("start_count", group.first_count),
            _say(f" at the start. A new one boots in {say_duration(template.boot_time)} and warms up for "),
            _say(f"{say_duration(template.warm_up)}; a leaving one drains for "),
            _time("drain", group.drain),
            _say("."),
        ],
    )


def _demand(crew: Crew) -> Sentence:
    return Sentence(key="demand", tone="plain", words=[_say("Requests as in "), _choice("demand", crew.group.demand), _say(".")])


def _work(crew: Crew) -> Sentence:
    work = crew.group.work
    return Sentence(
        key="work",
        tone="plain",
        words=[
            _say("Each takes "),
            _time("work.cpu_seconds", work.cpu_seconds),
            _say(" of CPU and "),
            _time("work.base_latency", work.base_latency),
            _say(" besides, and fails after "),
            _time("work.timeout", work.timeout),
            _say(" of waiting; an idle instance burns "),
            _share("work.idle_cpu", work.idle_cpu),
            _say(" of its CPU."),
        ],
    )


def _promises(plan: Plan, crew: Crew) -> list[Sentence]:
    sentences = []
    for number, promise in enumerate(crew.group.promises):
        path = f"promises.{number}"
        match promise:
            case AnswersPromise():
                words = [
                    _share(f"{path}.share", promise.share),
                    _say(" of answers within "),
                    _time(f"{path}.within", promise.within),
                    _say("."),
                ]
            case CostPromise():
                amount = Word(
                    text=say_money(promise.at_most, plan.currency), path=f"{path}.at_most", value=float(promise.at_most)
                )
                words = [_say("At most "), amount, _say(" a week.")]
        sentences.append(Sentence(key=path, tone="plain", words=words))
    return sentences


def policy_tone(policy: Policy) -> str:
    """`add`, `remove` or `both`: which way a policy moves the count."""
    match policy:
        case HoldPolicy():
            return "both" if policy.may_remove else "add"
        case TriggerPolicy():
            return {"add": "add", "remove": "remove", "set": "both"}[policy.action]


def _policy(policy: Policy) -> Sentence:
    path = f"policies.{policy.name}"
    metric = [
        _choice(f"{path}.fold", policy.fold),
        _say(" "),
        _choice(f"{path}.metric", policy.metric.value, policy.metric.label),
    ]
    wait = [_say(", then wait "), _time(f"{path}.cooldown", policy.cooldown), _say(".")]
    match policy:
        case TriggerPolicy():
            words = [
                _say("When "),
                *metric,
                _say(" stays "),
                _choice(f"{path}.side", policy.side),
                _say(" "),
                Word(text=policy.metric.say(policy.threshold), path=f"{path}.threshold", value=policy.threshold),
                _say(" for "),
                _time(f"{path}.window", policy.window),
                _say(", "),
                _choice(f"{path}.action", policy.action, "set the count to" if policy.action == "set" else None),
                _say(" "),
                Word(
                    text=f"{policy.amount} %" if policy.of == "percent" else str(policy.amount),
                    path=f"{path}.amount",
                    value=policy.amount,
                ),
                *wait,
            ]
        case HoldPolicy():
            words = [
                _say("Hold "),
                *metric,
                _say(" over "),
                _time(f"{path}.window", policy.window),
                _say(" at "),
                Word(text=policy.metric.say(policy.level), path=f"{path}.level", value=policy.level),
                _say(" give or take "),
                _share(f"{path}.tolerance", policy.tolerance),
                _say(", "),
                Word(
                    text="adding and removing" if policy.may_remove else "never removing",
                    path=f"{path}.may_remove",
                    value=policy.may_remove,
                ),
                *wait,
            ]
    if policy.paused:
        words = [_say("Paused: "), *words]
    return Sentence(key=path, tone="paused" if policy.paused else policy_tone(policy), words=words)


def _pace(crew: Crew) -> Sentence:
    group = crew.group
    return Sentence(
        key="pace",
        tone="quiet",
        words=[
            _say("Asked every "),
            _time("evaluate_every", group.evaluate_every),
            _say(". Meters read every "),
            _time("meters.period", group.meters.period),
            _say(", known "),
            _time("meters.delay", group.meters.delay),
            _say(" later. After any change all wait "),
            _time("cooldown", group.cooldown),
            _say("."),
        ],
    )


def group_line(crew: Crew) -> str:
    """A group in one line, for lists."""
    group = crew.group
    parts = [f"{group.minimum} to {group.maximum} of {group.template}"]
    for policy in group.policies:
        if policy.paused:
            continue
        match policy:
            case TriggerPolicy():
                of = " %" if policy.of == "percent" else ""
                verb = {"add": "adds", "remove": "removes", "set": "sets"}[policy.action]
                metric = f"{policy.side} {policy.metric.say(policy.threshold)} {policy.metric.label}"
                parts.append(f"{verb} {policy.amount}{of} {metric}")
            case HoldPolicy():
                parts.append(f"holds {policy.metric.label} at {policy.metric.say(policy.level)}")
    return "; ".join(parts) if group.policies else f"{parts[0]}; nothing changes its count"


def say_count(number: float, noun: str) -> str:
    """`1 instance`, `3 instances`."""
    return f"{say_number(number)} {noun}{'' if number == 1 else 's'}"
