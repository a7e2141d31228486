"""A group written as a page of sentences, whose words know which setting they stand for.

Read aloud, a sentence says what the group does. Each word with a path is a setting that can be changed there.
"""

from dataclasses import dataclass
from functools import cached_property

from jostle.core.engine.compile import Crew
from jostle.core.journal.calendar_line import entry_sentence
from jostle.core.plan.group import Group
from jostle.core.plan.hand import Hand, hand_words
from jostle.core.plan.launch import NOWHERE
from jostle.core.plan.order import KINDS
from jostle.core.plan.policy import Policy
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.template import LaunchFields
from jostle.core.plan.template_field import FIELDS, written_field
from jostle.core.plan.word import (
    Section,
    Sentence,
    Word,
    choice_word,
    count_word,
    listed,
    say,
    say_count,
    share_word,
    time_word,
)
from jostle.core.plan.work import Requests, Work

# The sections of a page and their titles, in the order in which they are read.
SECTIONS = {
    "runs": "Runs",
    "work": "Work",
    "promises": "Promises",
    "policies": "Policies",
    "calendar": "Calendar",
    "leaving": "Leaving",
    "mending": "Mending",
    "hands": "By hand",
}
LONG = 40
BRAKED = {"instances": "instances", "percent": "% of the count"}
MODES = {"grow_and_shrink": "add and remove", "grow": "only add", "stay": "change nothing"}
BASES = {"machine": "the machine's state", "heartbeat": "a heartbeat", "load_balancer": "the load balancer's check"}
# What choosing by each of them is good for
CRITERIA_HINTS = {
    "oldest_version": "brings a new version in by and by",
    "oldest": "no instance grows older than it must",
    "newest": "those that have served longest stay warm",
    "least_paid_left": "no paid hour is thrown away, where hours are billed",
    "dearest": "the cheaper stay",
    "fewest_sessions": "the fewest are cut off, and the drain is over soonest",
    "fewest_copies": "the fewest have to go elsewhere",
    "spot_first": "what may be taken away anyhow goes first",
    "on_demand_first": "the dearer goes first",
}
CRITERIA = {
    "oldest_version": "the oldest version",
    "oldest": "the oldest",
    "newest": "the newest",
    "least_paid_left": "the nearest to the end of a paid hour",
    "dearest": "the dearest",
    "fewest_sessions": "the one with the fewest sessions",
    "fewest_copies": "the one with the fewest copies",
    "spot_first": "spot first",
    "on_demand_first": "on-demand first",
}


@dataclass(frozen=True)
class Page:
    """A group written down. `sections` stand in the order in which they are read."""

    crew: Crew
    sections: list[Section]

    @cached_property
    def words(self) -> dict[str, Word]:
        """The words that stand for a setting, by its path."""
        sentences = (sentence for section in self.sections for sentence in section.sentences)
        words = (word for sentence in sentences for word in (*sentence.words, sentence.called) if word is not None)
        return {word.path: word for word in words if word.path}


def group_page(crew: Crew, currency: str) -> Page:
    """A group as a page of sentences."""
    group = crew.group
    policies = [_policy(policy, group.work) for policy in group.policies]
    sentences = {
        "runs": [
            *_balancer(crew),
            _runs(crew),
            *_own(crew),
            *_base(crew),
            *_identity(crew),
            *_buying(crew, currency),
            *_order(crew),
            *_database(crew),
        ],
        "work": [_demand(crew), _work(crew), *_uses(crew)],
        "promises": _promises(crew, currency),
        "policies": [*policies, _pace(crew)],
        "calendar": [entry_sentence(entry, crew.lead) for entry in group.calendar],
        "leaving": [_leaving(crew), *_notice(crew)],
        "mending": [_mending(crew), *_faults(crew)],
        "hands": [_hand(hand, f"hands.{number}") for number, hand in enumerate(group.hands)],
    }
    sections = [Section(key=key, title=title, sentences=sentences[key]) for key, title in SECTIONS.items()]
    return Page(crew, [section for section in sections if section.sentences or section.key in ("calendar", "hands")])


def _balancer(crew: Crew) -> list[Sentence]:
    group = crew.group
    if group.load_balancer is None:
        return []
    check = crew.launch.fields.health_check
    asks = [say(f"; it asks {check} every "), time_word("health.interval", group.health.interval)] if check else []
    words = group.load_balancer.words("load_balancer", asks, isinstance(group.work, Requests))
    return [Sentence(key="load_balancer", tone="plain", words=words)]


def _buying(crew: Crew, currency: str) -> list[Sentence]:
    buying, names = crew.group.buying, [one.launch.machine for one in crew.types]
    return (
        []
        if buying is None
        else [Sentence(key="buying", tone="plain", words=buying.words(names, crew.group.order is not None, currency))]
    )


def _identity(crew: Crew) -> list[Sentence]:
    identity = crew.group.identity
    return [] if identity is None else [Sentence(key="identity", tone="plain", words=identity.words())]


def _order(crew: Crew) -> list[Sentence]:
    order = crew.group.order
    return [] if order is None else [Sentence(key="order", tone="calendar", words=order.words())]


def _database(crew: Crew) -> list[Sentence]:
    if crew.group.database is None:
        return []
    words = [say("Its instances ask the database "), choice_word("database", crew.group.database), say(".")]
    return [Sentence(key="database", tone="plain", words=words)]


def _limits(group: Group) -> list[Word]:
    return [count_word("minimum", group.minimum), say(" to "), count_word("maximum", group.maximum)]


def _runs_on_host(crew: Crew) -> Sentence:
    group = crew.group
    assert group.place is not None
    assert group.host is not None
    return Sentence(
        key="runs",
        tone="plain",
        words=[
            *_limits(group),
            say(" copies on "),
            choice_word("host", group.host),
            say(", each with "),
            *group.place.words("place"),
            say(". "),
            count_word("start_count", group.first_count),
            say(" at the start; a leaving one drains for "),
            time_word("drain", group.drain),
            say("."),
        ],
    )


def _runs(crew: Crew) -> Sentence:
    group, launch = crew.group, crew.launch
    if group.host is not None:
        return _runs_on_host(crew)
    where = f" in {listed(launch.zones)}" if launch.zones != [NOWHERE] else ""
    start = "none at the start" if group.first_start else " at the start"
    first = [say(start)] if group.first_start else [count_word("start_count", group.first_count), say(start)]
    if group.start_version is not None:
        older = choice_word("start_version", str(group.start_version), f"version {group.start_version}")
        first += [say(" still of "), older]
    return Sentence(
        key="runs",
        tone="plain",
        words=[
            *_limits(group),
            say(f" {group.unit}s of "),
            choice_word("template", group.template),
            say(", "),
            choice_word("version", str(group.version), _version(crew)),
            say(f"{where}, "),
            *first,
            say(f". A new one boots in {say_duration(launch.boot_time)} and warms up for "),
            say(f"{say_duration(launch.warm_up)}; a leaving one drains for "),
            time_word("drain", group.drain),
            say("."),
        ],
    )


def _version(crew: Crew) -> str:
    return f"version {crew.launch.version}{' (newest)' if crew.group.version == 'newest' else ''}"


def _own(crew: Crew) -> list[Sentence]:
    """What the template leaves open, each with what the group fills in."""
    words: list[Word] = []
    if crew.group.host is not None:
        return []
    for field in FIELDS:
        if field.name not in LaunchFields.model_fields:
            continue
        own, whole = getattr(crew.group.launch, field.name), getattr(crew.launch.fields, field.name)
        if own is None and (whole is not None or field.start):
            continue
        written = written_field(field.name, own)
        label = lower_first(field.label.partition(",")[0])
        shown = f"{label} {shortened(written)}" if written else field.none or f"no {label}"
        words += [say(", " if words else ""), Word(text=shown, path=f"launch.{field.name}", value=written)]
    if not words:
        return []
    return [Sentence(key="launch", tone="quiet", words=[say("Open in the template: "), *words, say(".")])]


def _base(crew: Crew) -> list[Sentence]:
    group = crew.group
    sentences = []
    if group.owned is not None:
        words = [
            count_word("owned", group.owned),
            say(f" are owned and stop when they are not needed, to start again in {say_duration(crew.launch.start_time)}; "),
            say("those beyond are overflow, the first to leave."),
        ]
        sentences.append(Sentence(key="owned", tone="plain", words=words))
    if group.first_start is not None:
        surplus = group.first_start.surplus
        words = [say("The first start launches "), count_word("first_start.surplus", surplus)]
        words.append(say(" more than needed and drops those that come last."))
        sentences.append(Sentence(key="first_start", tone="plain", words=words))
    return sentences


def _demand(crew: Crew) -> Sentence:
    if crew.group.hosts:
        known = choice_word("demand", crew.group.demand, crew.group.demand or "none")
        return Sentence(key="demand", tone="plain", words=[say("It meets the incidents of "), known, say(".")])
    noun = crew.group.work.kind.capitalize()
    return Sentence(key="demand", tone="plain", words=[say(f"{noun} as in "), choice_word("demand", crew.group.demand), say(".")])


def _work(crew: Crew) -> Sentence:
    return Sentence(key="work", tone="plain", words=crew.group.work.sentence())


def _uses(crew: Crew) -> list[Sentence]:
    words = crew.group.work.use_words
    return [Sentence(key="uses", tone="quiet", words=words)] if words else []


def _promises(crew: Crew, currency: str) -> list[Sentence]:
    paths = ((f"promises.{number}", promise) for number, promise in enumerate(crew.group.promises))
    return [Sentence(key=path, tone="plain", words=promise.sentence(path, currency)) for path, promise in paths]


def _policy(policy: Policy, work: Work) -> Sentence:
    path = f"policies.{policy.name}"
    wait = [say(", then wait "), time_word(f"{path}.cooldown", policy.cooldown), say(".")]
    paused = [say("Paused: ")] if policy.paused else []
    tone = "paused" if policy.paused else policy.tone
    words = [*paused, *policy.sentence(path, work), *wait]
    return Sentence(key=path, tone=tone, words=words, called=choice_word(f"{path}.name", policy.name))


def _pace(crew: Crew) -> Sentence:
    group = crew.group
    paused = "are all paused" if group.policies_paused else "are at work"
    may = [say(" Policies "), Word(text=paused, path="policies_paused", value=group.policies_paused), say(" and may ")]
    may += [choice_word("mode", group.mode, MODES[group.mode]), say(".")]
    return Sentence(
        key="pace",
        tone="quiet",
        words=[
            say("Asked every "),
            time_word("evaluate_every", group.evaluate_every),
            say(". Meters read every "),
            time_word("meters.period", group.meters.period),
            say(", known "),
            time_word("meters.delay", group.meters.delay),
            say(" later. After any change all wait "),
            time_word("cooldown", group.cooldown),
            say("."),
            *may,
        ],
    )


def _leaving(crew: Crew) -> Sentence:
    leaving = crew.group.leaving
    order = listed((CRITERIA[criterion] for criterion in leaving.criteria), "then") if leaving.criteria else "the oldest"
    whence = "From the fullest zone" if leaving.balance_zones else "From any zone"
    words = [
        Word(text=whence, path="leaving.balance_zones", value=leaving.balance_zones),
        say(", "),
        Word(text=order, path="leaving.criteria", value=list(leaving.criteria)),
        say(" leaves first"),
    ]
    if leaving.brake is not None:
        words += [
            say("; at most "),
            count_word("leaving.brake.at_most", leaving.brake.at_most),
            say(" "),
            choice_word("leaving.brake.of", leaving.brake.of, BRAKED[leaving.brake.of]),
            say(" within "),
            time_word("leaving.brake.within", leaving.brake.within),
        ]
    if leaving.pinned:
        words += [say("; the first "), count_word("leaving.pinned", leaving.pinned), say(" never do")]
    return Sentence(key="leaving", tone="plain", words=[*words, say(".")])


def _notice(crew: Crew) -> list[Sentence]:
    notice = crew.group.notice
    return [] if notice is None else [Sentence(key="notice", tone="plain", words=notice.words())]


def _times(number: int) -> str:
    return "time" if number == 1 else "times"


def _mending(crew: Crew) -> Sentence:
    health, restarts = crew.group.health, crew.group.mending.restarts
    passes = [say(", and serves after "), count_word("health.healthy_after", health.healthy_after), say(" passed ones")]
    return Sentence(
        key="mending",
        tone="plain",
        words=[
            say("Broken is what fails "),
            choice_word("health.basis", health.basis, BASES[health.basis]),
            say(" "),
            count_word("health.unhealthy_after", health.unhealthy_after),
            say(f" {_times(health.unhealthy_after)}, "),
            time_word("health.interval", health.interval),
            say(" apart, later than "),
            time_word("health.grace", health.grace),
            say(" after its launch; it is restarted "),
            count_word("mending.restarts", restarts),
            say(f" {_times(restarts)}, then replaced"),
            *(passes if health.healthy_after else []),
            say("."),
        ],
    )


def _faults(crew: Crew) -> list[Sentence]:
    faults = crew.group.faults
    if faults.every is None and not faults.never_boots:
        return []
    words = []
    if faults.every is not None:
        words += [say("An instance breaks every "), time_word("faults.every", faults.every), say(" on average: of ")]
        words += [share_word("faults.frozen", faults.frozen), say(" the machine freezes, of ")]
        words += [share_word("faults.hung", faults.hung), say(" the service hangs, the others stop; ")]
    words += [share_word("faults.never_boots", faults.never_boots), say(" of launches never finish booting.")]
    return [Sentence(key="faults", tone="quiet", words=words)]


def _hand(hand: Hand, path: str) -> Sentence:
    return Sentence(key=path, tone="plain", words=hand_words(hand, path))


def group_line(crew: Crew) -> str:
    """A group in one line, for lists."""
    group = crew.group
    first = f"{group.minimum} to {group.maximum} {f'copies on {group.host}' if group.host else f'of {group.template}'}"
    policies = [] if group.policies_paused else [p.in_short(group.work) for p in group.policies if not p.paused]
    entries = [say_count(len(group.calendar), "calendar entry")] if group.calendar else []
    if group.order is not None:
        return f"{first}; {group.order.count} ordered, {KINDS[group.order.kind]}"
    return "; ".join([first, *policies, *entries]) if policies or entries else f"{first}; nothing changes its count"


def lower_first(label: str) -> str:
    """A label within a sentence; `CPU` stays as it is."""
    return label if label[:2].isupper() else label[:1].lower() + label[1:]


def shortened(text: str) -> str:
    """A long text by its beginning."""
    first = " ".join(text.split())
    return first if len(first) <= LONG else f"{first[:LONG]}…"
