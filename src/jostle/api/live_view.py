"""What lives, as the screen shows it: every group's tape and state, one group's instances and policies, the journal."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from jostle.api.carried_view import Carried, carried_by, carried_text, place_text
from jostle.api.live_journal import Line
from jostle.api.live_tape import Tape, tape_of
from jostle.core.decide.code import NOBODY, Outcome, Phase, Stance
from jostle.core.decide.memory import ALL
from jostle.core.engine.name import name_of
from jostle.core.journal.behind import Behind, behind
from jostle.core.journal.event import events
from jostle.core.journal.explanation import expected_by
from jostle.core.journal.life import Life as LifeTold
from jostle.core.journal.life import life_of
from jostle.core.journal.moment import decision_at
from jostle.core.journal.rollout_line import stage_text
from jostle.core.plan.clock import DAY
from jostle.core.plan.policy import Expected, Policy
from jostle.core.plan.quantity import say_duration, say_money, say_number
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.wall import say_moment, say_second
from jostle.core.plan.word import say_count
from jostle.core.plan.work import Work
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.live.hand import LaunchSingles
from jostle.live.life import Life
from jostle.live.live import Live
from jostle.provider.provider import Instance
from jostle.standin.ground import address_of, attachments_of

Tone = Literal["add", "remove", "wait", "limit", "quiet", "none"]
_TONES: dict[int, Tone] = {Stance.WAITING: "wait", Stance.NO_DATA: "none", Stance.PAUSED: "none", Stance.QUIET: "quiet"}


class PolicyState(BaseModel):
    """What a policy sees and does, in words."""

    name: str
    text: str
    outcome: str
    tone: Tone
    paused: bool = Field(description="By hand")


class LiveGroup(BaseModel):
    name: str
    wanted: int
    serving: int
    coming: int
    leaving: int
    minimum: int
    maximum: int
    kept: bool
    held: bool
    dry: bool = Field(description="Whether the keeper only says what it would do")
    arrangement: int
    newest: int
    cost: str
    state: PolicyState | None = Field(description="The policy that has most to say")
    note: str = Field(description="How the count stands: on their way, two will leave, silent, held")
    tape: Tape


class Singles(BaseModel):
    """Single instances that were started together, outside any group."""

    name: str
    text: str
    instead: list[str] = Field(description="What is not as the template has it")
    there: int
    serving: int
    cost: str


class LiveView(BaseModel):
    now: float = Field(description="ms since 1970")
    clock: str
    time_zone: str
    pace: float
    running: bool
    ends: float
    begun: str
    cost: str
    trouble: str | None
    groups: list[LiveGroup]
    singles: list[Singles]
    shown: "GroupLife" = Field(description="The group or the single instances that are looked at")
    instance: LifeTold | None = Field(description="The instance of it that is looked at")
    journal: list[Line] = Field(description="What happened, newest first, as far as it was asked for")


class Tile(BaseModel):
    """One instance, counted from 1."""

    number: int
    name: str = Field(description="What it is called; empty where the group has no names")
    state: str
    zone: str
    version: int
    cpu: float | None
    sessions: int | None
    pinned: bool
    overflow: bool
    bought: str = Field(description="Its machine, where its group has several, and spot where it is")
    said: str
    since: float | None
    address: str
    attached: list[str] = Field(description="What it is a member of, and whose allow list names it")
    health: str = Field(description="What its checks say")
    age: str = Field(description="How long it has been there, in one of a few spans")
    load: str = Field(description="Its CPU, in one of a few spans")
    share: float | None = Field(description="Of the group's requests that it answers, where instances serve them")
    carried: list[Carried] = Field(description="Of an instance of a host: the copies on it")
    where: str = Field(description="What it carries, or the instance of the host that it is on, in words; empty of any other")


class EntryState(BaseModel):
    """An entry of the calendar, and whether it holds now."""

    name: str
    text: str
    holds: bool


class RolloutState(BaseModel):
    """The rollout that is under way, and what a hand can do about it."""

    name: str
    text: str
    held: bool
    stopped: bool
    going_back: bool


class Progress(BaseModel):
    """How far a group has come with starting or ending instances; a line for each that is on its way."""

    text: str
    share: float
    lines: list[str]


class GroupLife(BaseModel):
    name: str
    ended: bool = Field(description="By hand, as a whole")
    single: bool = Field(description="Whether these are single instances rather than a group")
    entries: list[EntryState]
    rollout: RolloutState | None
    versions: list[int] = Field(description="Those that can be brought in by hand, the newest first")
    progress: Progress | None
    losses: str = Field(description="What ending all of it would lose, in words")
    summary: str
    zones: list[str]
    load: str = Field(description="The unit of its demand")
    loaded: bool = Field(description="Whether a load that a hand began is under way")
    tiles: list[Tile]
    guests: list[str] = Field(description="Whose copies its instances carry")
    policies: list[PolicyState]
    waits: list[str]
    decision: str
    behind: Behind | None = Field(description="What stands behind its load balancer, where it has one")


def live_view(
    live: Live,
    pace: float,
    running: bool,
    trouble: str | None,
    newest: dict[str, int],
    group: str | None,
    instance: int | None,
) -> LiveView:
    """All groups as they stand, and one of them whole, the first that is there where no other is named, with the life of an
    instance of it; without the journal, which is written while all goes on."""
    first = next((name for name in live.lives if name in newest), next(iter(live.lives)))
    looked = live.everyone.get(group or "") or live.lives[first]
    zone = live.plan.zone
    now = next(iter(live.lives.values())).clock.at(live.now)
    spent = {name: life.spent() for name, life in live.everyone.items()}
    return LiveView(
        now=live.now * 1000,
        clock=say_second(now),
        time_zone=zone.key,
        pace=pace,
        running=running,
        ends=live.ends * 1000,
        begun=say_moment(next(iter(live.lives.values())).clock.at(live.first), with_year=True),
        cost=say_money(sum(spent.values()), live.plan.currency),
        trouble=trouble,
        groups=[
            _group(life, newest[name], say_money(spent[name], live.plan.currency))
            for name, life in live.lives.items()
            if name in newest
        ],
        singles=[
            _singles(name, life, hand, say_money(spent[name], live.plan.currency))
            for name, life in live.singles.items()
            if (hand := life.single) is not None
        ],
        shown=group_life(looked),
        instance=None if instance is None else life_of(looked.record(), instance - 1),
        journal=[],
    )


def _singles(name: str, life: Life, hand: LaunchSingles, cost: str) -> Singles:
    there = life.ground.instances()
    machine = life.leg.crew.launch.machine
    return Singles(
        name=name,
        text=f"{hand.count} of {machine}, as {hand.template} version {hand.version}",
        instead=[f"{field} {value}" for field, value in hand.instead.items()],
        there=len(there),
        serving=sum(one.state == "serving" for one in there),
        cost=cost,
    )


class Days(BaseModel):
    """How many instances of a group served since yesterday, serve now, and are likely to until tomorrow."""

    group: str
    kept: bool
    yesterday: str
    now: int
    tomorrow: str
    text: str


def days_of(life: Life) -> Days:
    """The count over the day behind and the day ahead, as the tapes have it."""
    tick = life.ground.setup.tick
    here = max(1, round(life.time / tick))
    behind = life.record().result.series["units"][max(0, here - round(DAY / tick)) : here]
    ahead = life.likely(DAY).result.series["units"][here : here + round(DAY / tick)]
    now = int(behind[-1])
    yesterday, tomorrow = (_between(part, now) for part in (behind, ahead))
    text = f"{yesterday} served since yesterday, {now} now, likely {tomorrow} until tomorrow"
    return Days(group=life.group, kept=life.kept, yesterday=yesterday, now=now, tomorrow=tomorrow, text=text)


def _between(counts: NDArray[np.integer], now: int) -> str:
    low, high = (int(counts.min()), int(counts.max())) if len(counts) else (now, now)
    return str(low) if low == high else f"{low} to {high}"


def _group(life: Life, newest: int, cost: str) -> LiveGroup:
    group = life.leg.crew.group
    there = life.ground.instances()
    by = _by_state(life, there)
    told = policies_of(life)
    rank: dict[Tone, int] = {"add": 0, "remove": 1, "wait": 2, "none": 3, "limit": 4, "quiet": 5}
    state = min(told, key=lambda one: rank[one.tone], default=None)
    return LiveGroup(
        name=life.group,
        wanted=life.keeper.wanted,
        serving=by["serving"],
        coming=by["coming"],
        leaving=by["leaving"],
        minimum=group.minimum,
        maximum=group.maximum,
        kept=life.kept,
        held=life.keeper.held,
        dry=life.keeper.dry,
        arrangement=life.leg.arrangement,
        newest=newest,
        cost=cost,
        state=state,
        note=_note(life, by),
        tape=tape_of(life),
    )


_SHOWN = {
    "serving": ("serving",),
    "coming": ("asked", "booting", "warming"),
    "leaving": ("draining", "stopping"),
    "broken": ("broken",),
}


def _by_state(life: Life, there: list[Instance]) -> dict[str, int]:
    """What there is in each state, in what the group counts in."""
    weight = life.leg.crew.weight_of
    return {state: sum(weight(one.machine) for one in there if one.state in states) for state, states in _SHOWN.items()}


def _note(life: Life, by: dict[str, int]) -> str:
    said = []
    if not life.kept:
        said.append("on its own")
    if life.keeper.held:
        said.append("held by hand")
    if life.ended:
        said.append("ended by hand")
    if life.keeper.dry:
        said.append("a dry run")
    if life.ground.silent:
        said.append("its meters are silent")
    said += [f"{say_number(load.clients)} clients send, by hand" for load in life.loads]
    if by["coming"]:
        said.append(f"{by['coming']} on their way")
    if by["broken"]:
        said.append(f"{by['broken']} broken")
    if not said and (held := _held_back(life)):
        said.append(held)
    beyond = by["serving"] + by["coming"] - life.keeper.wanted
    if beyond > 0:
        said.append(f"{beyond} more than wanted will leave")
    if by["leaving"]:
        said.append(f"{by['leaving']} leaving")
    return ", ".join(said)


def _held_back(life: Life) -> str:
    """What kept the count at the last evaluation from what a policy asked for."""
    e = int(life.state.now["evaluations"][0]) - 1
    if e < life.leg.first or int(life.state.decisions["outcome"][e]) in (Outcome.NOTHING, Outcome.CHANGED):
        return ""
    return decision_at(life.record(), life.time).rstrip(".")


def policies_of(life: Life) -> list[PolicyState]:
    """The policies as they stood at the last evaluation."""
    group, e = life.leg.crew.group, int(life.state.now["evaluations"][0]) - 1
    found = []
    for number, policy in enumerate(group.policies):
        by_hand = policy.name in life.paused
        if e < life.leg.first:
            found.append(PolicyState(name=policy.name, text="not asked yet", outcome="", tone="quiet", paused=by_hand))
            continue
        view, desired = life.state.views.view(np.ndarray)[e, number], int(life.state.decisions["desired"][e])
        expected = expected_by(view, float(life.state.decisions.view(np.ndarray)["time"][e]), life.clock)
        found.append(policy_state(policy, view, desired, group.work, by_hand, expected))
    return found


def policy_state(
    policy: Policy, view: np.void, desired: int, work: Work, by_hand: bool = False, expected: Expected | None = None
) -> PolicyState:
    """What a policy saw and asked for at an evaluation."""
    stance, ask, value = int(view["state"]), int(view["ask"]), float(view["value"])
    text = policy.sight(value, work, expected) if value == value else "no reading"
    match stance:
        case Stance.ASKING:
            outcome, tone = f"asks for {ask}", _toward(ask, desired)
        case Stance.WAITING:
            outcome, tone = f"asks for {ask}, waits {say_duration(float(view['wait']))} more", "wait"
        case Stance.NO_DATA:
            outcome, tone = "no data: asks nothing", "none"
        case Stance.ADVISING:
            outcome, tone = f"would have {ask}" if ask != desired else "would ask nothing", "quiet"
        case Stance.PAUSED:
            outcome, tone = f"paused{' by hand' if by_hand else ''}", "none"
        case _:
            outcome, tone = "asks nothing", "quiet"
    return PolicyState(name=policy.name, text=text, outcome=outcome, tone=tone, paused=by_hand)


def _toward(ask: int, desired: int) -> Tone:
    return "add" if ask > desired else "remove" if ask < desired else "quiet"


def group_life(life: Life) -> GroupLife:
    """One group with its instances."""
    there, crew = life.ground.instances(), life.leg.crew
    said, carried, record = _all_said(life, there), carried_by(life), life.record()
    counts = _by_state(life, there)
    parts = [f"{life.keeper.wanted} wanted", f"{counts['serving']} serve"]
    parts += [f"{counts[state]} {said}" for state, said in (("coming", "on their way"), ("leaving", "leaving")) if counts[state]]
    left = float(life.keeper.memory.row[0].wait_until) - life.time
    waits = [f"the group waits {say_duration(left)} more"] if left > 0 else []
    return GroupLife(
        name=life.group,
        ended=life.ended,
        single=life.single is not None,
        entries=[
            EntryState(name=one.name, text=one.in_short(), holds=life.holding(one) is not None)
            for one in crew.group.calendar
            if not one.paused and not isinstance(one, Rollout)
        ],
        rollout=_rollout(life),
        versions=_to_bring_in(life),
        progress=_progress(life, there, counts, said),
        losses=_losses(life, there, counts),
        summary=", ".join(parts) if life.single else f"arrangement {life.leg.arrangement} · {', '.join(parts)}",
        zones=crew.launch.zones,
        load=crew.group.work.load,
        loaded=bool(life.loads),
        tiles=[_tile(life, record, one, said[one.number], carried.get(one.number, [])) for one in there],
        guests=[other.group for other in life.company.lives[1:]] if crew.group.hosts else [],
        policies=policies_of(life),
        waits=waits,
        decision=decision_at(record, life.time),
        behind=behind(record, record.result),
    )


def _rollout(life: Life) -> RolloutState | None:
    """The rollout that is under way."""
    memory = life.state.memory
    number = int(memory.row.view(np.ndarray)["rollout"][0])
    if number == NOBODY:
        return None
    entry = life.leg.crew.group.calendar[int(life.leg.setup.rules.rollouts.view(np.ndarray)["entry"][number])]
    how = memory.rollouts.view(np.ndarray)[number]
    phase, there = Phase(int(how["phase"])), int(how["goal"])
    since = life.clock.at(life.clock.first + float(how["since"]))
    aim = "all" if there >= ALL else str(there)
    text = f"{entry.in_short()}: {stage_text(phase)} since {since:%H:%M}, {aim} to be of it"
    return RolloutState(
        name=entry.name,
        text=f"{text}, paused by hand" if how["held"] else text,
        held=bool(how["held"]),
        stopped=phase == Phase.STOPPED,
        going_back=phase == Phase.GOES_BACK,
    )


def _to_bring_in(life: Life) -> list[int]:
    """Versions of the template that a hand may bring in."""
    row = life.state.memory.row.view(np.ndarray)
    if life.single or not life.leg.crew.group.can_roll_out or row["rollout"][0] != NOBODY:
        return []
    return [one for one in range(life.leg.crew.launch.versions, 0, -1) if one != int(row["version"][0])]


def _progress(life: Life, there: list[Instance], counts: dict[str, int], said: dict[int, str]) -> Progress | None:
    """How far it has come, where instances are on their way."""
    coming, leaving = counts["coming"], counts["leaving"]
    if not coming and not leaving:
        return None
    moving = [one for one in there if one.state in (*_SHOWN["coming"], *_SHOWN["leaving"])]
    if coming:
        wanted = max(life.keeper.wanted, counts["serving"] + coming)
        text, share = f"{counts['serving']} of {wanted} serve, {coming} on their way", counts["serving"] / wanted
    else:
        text, share = f"{leaving} leaving, {counts['serving']} stay", counts["serving"] / (counts["serving"] + leaving)
    return Progress(text=text, share=share, lines=[f"{one.number + 1}: {said[one.number]}" for one in moving])


def _losses(life: Life, there: list[Instance], counts: dict[str, int]) -> str:
    """What ending all of it would lose."""
    serving, sessions = counts["serving"] + counts["coming"] + counts["broken"], sum(one.sessions for one in there)
    parts = [say_count(serving, life.leg.crew.group.unit)]
    parts += [say_count(sum(one.state in ("stopped", "stopping") for one in there), "stopped instance")]
    parts += [say_count(sessions, "session")] if life.leg.crew.group.work.kind == "sessions" else []
    parts += [f"{say_count(pinned, 'pinned one')} among them"] if (pinned := sum(one.pinned for one in there)) else []
    return ", ".join(part for part in parts if not part.startswith("0 "))


def _refusal(life: Life) -> str:
    """Why launches were refused last."""
    record = life.record()
    said = [event.text for event in events(record, frozenset({"refused"}), None, max(0.0, life.time - DAY))]
    return said[-1].partition(" refused, ")[2].partition(";")[0] if said else "not taken yet"


def _all_said(life: Life, there: list[Instance]) -> dict[int, str]:
    """How far each instance has come, by its number."""
    refusal = _refusal(life) if any(one.state == "asked" for one in there) else ""
    return {one.number: _said(life, one, refusal) for one in there}


def _said(life: Life, one: Instance, refusal: str) -> str:
    clock = life.clock

    def at(seconds: float) -> str:
        return f"{clock.at(clock.first + seconds):%H:%M}"

    match one.state:
        case "asked":
            return f"asked for since {at(one.requested)}: {refusal}"
        case "booting" | "warming" if one.serves is not None:
            return (
                f"serves about {at(one.serves)}: {'boot, warm-up and checks' if one.state == 'booting' else 'warm-up and checks'}"
            )
        case "draining" if one.drains is not None:
            return f"drains since {at(one.drains)}, at most until {at(one.drains + life.leg.crew.group.drain)}"
        case "broken":
            return one.fault or "broken"
        case "serving" if one.serves is not None:
            return f"serves since {at(one.serves)}" if one.serves > 0 else "serves since the beginning"
        case _:
            return one.state


_AGES = ((3600.0, "less than an hour"), (6 * 3600.0, "1 to 6 h"), (DAY, "6 to 24 h"))
_LOADS = ((0.3, "less than 30 %"), (0.6, "30 to 60 %"), (0.8, "60 to 80 %"))


def _among(value: float, spans: tuple[tuple[float, str], ...], last: str) -> str:
    """The span that a value lies in; each has its end and its name."""
    return next((name for end, name in spans if value < end), last)


def _health(one: Instance) -> str:
    match one.state:
        case "serving":
            return "passes its checks"
        case "broken":
            return "fails its checks" if one.found else "its checks have not failed often enough yet"
        case "booting" | "warming":
            return "not checked yet"
        case _:
            return ""


def _bought(life: Life, one: Instance) -> str:
    crew = life.leg.crew
    return ", ".join([crew.machine_of(2 * one.machine)] * (len(crew.types) > 1) + ["spot"] * one.spot)


def _name(life: Life, number: int) -> str:
    return name_of(life.leg.crew, life.group, life.seed, life.state.instances.view(np.ndarray)[number], number)


def _tile(life: Life, record: Rehearsal, one: Instance, said: str, carried: list[Carried]) -> Tile:
    clock = life.clock
    since = one.serves if one.state == "serving" else one.requested
    held = life.leg.crew.group.work.kind == "sessions"
    return Tile(
        number=one.number + 1,
        name=_name(life, one.number),
        state=one.state,
        zone=life.leg.crew.launch.zones[one.zone],
        version=one.version,
        cpu=None if one.cpu is None else round(one.cpu, 3),
        sessions=one.sessions if held else None,
        pinned=one.pinned,
        overflow=one.overflow,
        bought=_bought(life, one),
        said=said,
        since=None if since is None else (clock.first + since) * 1000,
        address=address_of(one.zone, one.number),
        attached=attachments_of(life.leg.crew) if one.state in ("serving", "draining") else [],
        health=_health(one),
        age=_among(life.time - one.requested, _AGES, "a day and longer"),
        load="not serving" if one.cpu is None else _among(one.cpu, _LOADS, "80 % and more"),
        share=life.ground.share_of(one.number) if one.state == "serving" else None,
        carried=carried,
        where=carried_text(life, one.number, carried) or place_text(record, one.host),
    )
