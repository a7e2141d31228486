"""A group written as a page of sentences, whose words know which setting they stand for.

Read aloud, a sentence says what the group does. Each word with a path is a setting that can be changed there.
"""

from dataclasses import dataclass
from functools import cached_property

from jostle.core.engine.compile import Crew
from jostle.core.journal.calendar_line import entry_sentence
from jostle.core.journal.policy_line import policy_sentence, policy_words
from jostle.core.journal.word import (
    Section,
    Sentence,
    Word,
    choice_word,
    count_word,
    listed,
    moment_word,
    say,
    say_count,
    share_word,
    time_word,
)
from jostle.core.plan.hand import Hand, HandKill, HandPin, HandSet, HandStress
from jostle.core.plan.launch import NOWHERE
from jostle.core.plan.promise import AgePromise, AnswersPromise, CostPromise, SeatsPromise
from jostle.core.plan.quantity import say_duration, say_money, say_number, say_share
from jostle.core.plan.work import Jobs, Requests, Sessions

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
MODES = {"both_ways": "add and remove", "out_only": "only add", "held": "change nothing"}
SPREADS = {"by_chance": "by chance", "in_turn": "in turn", "least_busy": "to the least busy"}
ARRIVALS = {"by_chance": "by chance", "evenly": "evenly"}
BASES = {"machine": "the machine's state", "heartbeat": "a heartbeat", "load_balancer": "the load balancer's check"}
CRITERIA = {
    "oldest_version": "the oldest version",
    "oldest": "the oldest",
    "newest": "the newest",
    "nearest_paid_hour": "the nearest to the end of a paid hour",
    "dearest": "the dearest",
    "fewest_sessions": "the one with the fewest sessions",
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
        return {word.path: word for sentence in sentences for word in sentence.words if word.path}


def group_page(crew: Crew, currency: str) -> Page:
    """A group as a page of sentences."""
    group = crew.group
    policies = [policy_sentence(policy, group.work) for policy in group.policies]
    sentences = {
        "runs": [_runs(crew), *_base(crew)],
        "work": [_demand(crew), _work(crew)],
        "promises": _promises(crew, currency),
        "policies": [*policies, _pace(crew)],
        "calendar": [entry_sentence(entry) for entry in group.calendar],
        "leaving": [_leaving(crew)],
        "mending": [_mending(crew), *_faults(crew)],
        "hands": [_hand(hand, number) for number, hand in enumerate(group.hands)],
    }
    sections = [Section(key=key, title=title, sentences=sentences[key]) for key, title in SECTIONS.items()]
    return Page(crew, [section for section in sections if section.sentences or section.key in ("calendar", "hands")])


def _runs(crew: Crew) -> Sentence:
    group, launch = crew.group, crew.launch
    where = f" in {listed(launch.zones)}" if launch.zones != [NOWHERE] else ""
    start = "none at the start" if group.first_start else " at the start"
    first = [say(start)] if group.first_start else [count_word("start_count", group.first_count), say(start)]
    return Sentence(
        key="runs",
        tone="plain",
        words=[
            count_word("minimum", group.minimum),
            say(" to "),
            count_word("maximum", group.maximum),
            say(" instances of "),
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


def _base(crew: Crew) -> list[Sentence]:
    group = crew.group
    sentences = []
    if group.base_size is not None:
        words = [
            count_word("base_size", group.base_size),
            say(f" are owned and stop when they are not needed, to start again in {say_duration(crew.launch.start_time)}; "),
            say("those beyond are overflow, the first to leave."),
        ]
        sentences.append(Sentence(key="base_size", tone="plain", words=words))
    if group.first_start is not None:
        surplus = group.first_start.surplus
        words = [say("The first start launches "), count_word("first_start.surplus", surplus)]
        words.append(say(" more than needed and drops those that come last."))
        sentences.append(Sentence(key="first_start", tone="plain", words=words))
    return sentences


def _demand(crew: Crew) -> Sentence:
    noun = crew.group.work.kind.capitalize()
    return Sentence(key="demand", tone="plain", words=[say(f"{noun} as in "), choice_word("demand", crew.group.demand), say(".")])


def _work(crew: Crew) -> Sentence:
    work = crew.group.work
    idle = [say("; an idle instance burns "), share_word("work.idle_cpu", work.idle_cpu), say(" of its CPU.")]
    match work:
        case Requests():
            sticky = [say(", clients staying for "), time_word("work.sticky", work.sticky)] if work.sticky else []
            words = [
                say("Each takes "),
                time_word("work.cpu_seconds", work.cpu_seconds),
                say(" of CPU and "),
                time_word("work.base_latency", work.base_latency),
                say(" besides, and fails after "),
                time_word("work.timeout", work.timeout),
                say(" of waiting"),
                *sticky,
                *idle,
                say(" They arrive "),
                choice_word("work.arrivals", work.arrivals, ARRIVALS[work.arrivals]),
                say(" and are spread "),
                choice_word("work.spread", work.spread, SPREADS[work.spread]),
                *_uneven("; CPU times are ", work.unevenness),
            ]
        case Jobs():
            words = [
                say("Each takes "),
                time_word("work.job_seconds", work.job_seconds),
                say(", and a worker does "),
                count_word("work.concurrency", work.concurrency),
                say(" side by side"),
                *idle,
                say(" They arrive "),
                choice_word("work.arrivals", work.arrivals, ARRIVALS[work.arrivals]),
                *_uneven("; lengths are ", work.unevenness),
            ]
        case Sessions():
            words = [
                say("Each lasts "),
                time_word("work.length", work.length),
                say(" on average; an instance has "),
                count_word("work.seats", work.seats),
                say(" seats, and a new session goes to the "),
                choice_word("work.place", work.place, "emptiest" if work.place == "spread" else "fullest that has room"),
                *idle,
            ]
    return Sentence(key="work", tone="plain", words=words)


def _uneven(before: str, unevenness: float) -> list[Word]:
    """How much what each takes differs, in words where there are any."""
    known = {0.0: "all alike", 1.0: "exponential"}
    said = known.get(unevenness, f"{say_number(unevenness)} uneven")
    return [say(before), Word(text=said, path="work.unevenness", value=unevenness), say(".")]


def _promises(crew: Crew, currency: str) -> list[Sentence]:
    sentences = []
    for number, promise in enumerate(crew.group.promises):
        path = f"promises.{number}"
        share = [] if isinstance(promise, CostPromise) else [share_word(f"{path}.share", promise.share)]
        match promise:
            case AnswersPromise():
                words = [*share, say(" of answers within "), time_word(f"{path}.within", promise.within), say(".")]
            case AgePromise():
                words = [*share, say(" of jobs taken up within "), time_word(f"{path}.within", promise.within), say(".")]
            case SeatsPromise():
                words = [*share, say(" of sessions find a seat.")]
            case CostPromise():
                amount = Word(text=say_money(promise.at_most, currency), path=f"{path}.at_most", value=float(promise.at_most))
                words = [say("At most "), amount, say(" a week.")]
        sentences.append(Sentence(key=path, tone="plain", words=words))
    return sentences


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
        most = f"{leaving.brake.at_most} %" if leaving.brake.of == "percent" else str(leaving.brake.at_most)
        words += [
            say("; at most "),
            Word(text=most, path="leaving.brake.at_most", value=leaving.brake.at_most),
            say(" within "),
            time_word("leaving.brake.within", leaving.brake.within),
        ]
    if leaving.pinned:
        words += [say("; the first "), count_word("leaving.pinned", leaving.pinned), say(" never do")]
    return Sentence(key="leaving", tone="plain", words=[*words, say(".")])


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
            say(" times, "),
            time_word("health.interval", health.interval),
            say(" apart, later than "),
            time_word("health.grace", health.grace),
            say(" after its launch; it is restarted "),
            count_word("mending.restarts", restarts),
            say(" times, then replaced"),
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
        words += [say("An instance breaks every "), time_word("faults.every", faults.every), say(" on average")]
    if faults.never_boots:
        words += [say("; " if words else ""), share_word("faults.never_boots", faults.never_boots)]
        words.append(say(" of launches never finish booting"))
    return [Sentence(key="faults", tone="quiet", words=[*words, say(".")])]


def say_hand(hand: Hand) -> str:
    """What a hand does: `sets the count to 6`, `kills the oldest instance`."""
    match hand:
        case HandSet():
            return f"sets the count to {hand.count}"
        case HandKill():
            return f"kills {_which(hand.instance)}"
        case HandPin():
            return f"pins {_which(hand.instance)}"
        case HandStress():
            return f"burns {say_share(hand.cpu)} of the CPU of {_which(hand.instance)} for {say_duration(hand.length)}"


def _which(instance: int | str) -> str:
    return f"the {instance} instance" if isinstance(instance, str) else f"instance {instance}"


def _hand(hand: Hand, number: int) -> Sentence:
    path = f"hands.{number}"
    words = [moment_word(f"{path}.at", hand.at), say(": a hand ")]
    if not isinstance(hand, HandSet):
        which = choice_word(f"{path}.instance", str(hand.instance), _which(hand.instance))
    match hand:
        case HandSet():
            words += [say("sets the count to "), count_word(f"{path}.count", hand.count)]
        case HandKill():
            words += [say("kills "), which]
        case HandPin():
            words += [say("pins "), which]
        case HandStress():
            words += [say("burns "), share_word(f"{path}.cpu", hand.cpu), say(" of the CPU of "), which]
            words += [say(" for "), time_word(f"{path}.for", hand.length)]
    return Sentence(key=path, tone="plain", words=[*words, say(".")])


def group_line(crew: Crew) -> str:
    """A group in one line, for lists."""
    group = crew.group
    first = f"{group.minimum} to {group.maximum} of {group.template}"
    policies = [] if group.policies_paused else [policy_words(p, group.work) for p in group.policies if not p.paused]
    entries = [say_count(len(group.calendar), "calendar entry").replace("entrys", "entries")] if group.calendar else []
    return "; ".join([first, *policies, *entries]) if policies or entries else f"{first}; nothing changes its count"
