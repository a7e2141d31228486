"""What stands behind the load balancer of a group at an instant: each member, how its checks stand, and what it is given."""

import math
from typing import Any, Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from jostle.core.built.figure import quantile
from jostle.core.engine.code import Life
from jostle.core.engine.queue import Col
from jostle.core.engine.result import Result
from jostle.core.journal.event import FAULT_WORDS, say_time
from jostle.core.plan.quantity import say_duration, say_number
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.name import named
from jostle.core.rehearsal.rehearsal import Rehearsal

Standing = Literal["serves", "joins", "drains", "fails"]
# s over which what comes in and what is refused are told
LATELY = 60.0
_ORDER: tuple[Standing, ...] = ("serves", "joins", "drains", "fails")
_STANDING: dict[int, Standing] = {
    Life.REQUESTED: "joins",
    Life.BOOTING: "joins",
    Life.WARMING: "joins",
    Life.SERVING: "serves",
    Life.DRAINING: "drains",
    Life.BROKEN: "fails",
}


class Member(BaseModel):
    """An instance behind the balancer; numbers count from 1."""

    model_config = ConfigDict(frozen=True)

    number: int
    name: str
    zone: str
    standing: Standing
    share: float = Field(description="The part of what comes in that it is given now")
    passed: int = Field(description="Checks that it passed, of those that count")
    checks: int
    at_work: str = Field(description="What it has under way; empty where that is not known")
    answers: str = Field(description="How soon it answers; empty where it does not")
    said: str = Field(description="Why it is not simply serving")


class Behind(BaseModel):
    """A balancer with its members, those that serve first."""

    model_config = ConfigDict(frozen=True)

    door: str
    healthy: str
    others: str
    comes: str
    refused: str
    wrong: str = Field(description="Why nothing would reach its members; empty where it does")
    members: list[Member]


class _Stood(NamedTuple):
    """A rehearsal as it stood at an instant (s from the start)."""

    rehearsal: Rehearsal
    result: Result
    at: float

    @property
    def now(self) -> Any:
        return self.result.state.now.view(np.ndarray)[0]

    def until(self, seconds: float) -> str:
        return say_time(self.rehearsal.clock, seconds).split(" ", 3)[-1]


def behind(rehearsal: Rehearsal, result: Result) -> Behind | None:
    """What stands behind the balancer of a group as a result stands; None where it has none."""
    group = rehearsal.crew.group
    balancer = group.load_balancer
    if balancer is None:
        return None
    stood = _Stood(rehearsal, result, result.elapsed)
    rows = result.state.instances.view(np.ndarray)
    there = [int(n) for n in result.state.alive[: int(stood.now["living"])] if int(rows["state"][n]) in _STANDING]
    shares = _shares(stood, there, rows)
    members = [_member(stood, number, rows[number], share) for number, share in zip(there, shares, strict=True)]
    members.sort(key=lambda one: (_ORDER.index(one.standing), one.number))
    counts = {standing: sum(one.standing == standing for one in members) for standing in _ORDER}
    healthy = counts["serves"] + counts["drains"]
    others = [(counts["joins"], "joining"), (counts["drains"], "draining"), (counts["fails"], "failing")]
    k = round(result.elapsed / rehearsal.clock.tick)
    first = max(0, k - round(LATELY / rehearsal.clock.tick))
    lasted = max(rehearsal.clock.tick, (k - first) * rehearsal.clock.tick)
    came = float(result.arrivals[first:k].sum()) / lasted
    lost = float(result.series["failed"][first:k].sum(dtype=np.float64))
    called = f"{balancer.called} " if balancer.called else ""
    whence = "anywhere" if balancer.public else "inside"
    return Behind(
        door=f"{called}takes {balancer.protocol} on {balancer.listens} from {whence} and hands it on to {balancer.target}",
        healthy=f"{healthy} of {len(members)} healthy",
        others=", ".join(f"{many} {word}" for many, word in others if many),
        comes=f"{say_number(round(came, 1 if came < 100 else 0))} {group.work.kind}/s",
        refused=f"{say_number(round(lost))} {'refused' if group.work.kind == 'sessions' else 'failed'} in the last minute",
        wrong=rehearsal.crew.shut,
        members=members,
    )


def _shares(stood: _Stood, there: list[int], rows: np.ndarray) -> list[float]:
    """What each is given of what comes in; of sessions, what it has of them."""
    setup, kinds = stood.result.setup, stood.result.setup.kinds.view(np.ndarray)
    work = stood.rehearsal.crew.group.work.kind
    serving = rows["state"][there] == Life.SERVING
    dead = (rows["state"][there] == Life.BROKEN) & rows["given_work"][there]
    if work == "sessions":
        draws = np.where(serving, rows["sessions"][there], 0).astype(float)
    elif work == "requests" and (bool(stood.now["uneven"]) or setup.of("alike")):
        draws = np.where(serving, rows["share"][there], 0.0)
    else:
        draws = np.where(serving, kinds["draw"][rows["kind"][there]], 0.0)
    whole, failing = float(draws.sum()), int(dead.sum())
    lost = failing / (int(serving.sum()) + failing) if failing else 0.0
    found = draws / whole * (1.0 - lost) if whole > 0 else draws
    return list(np.where(dead, lost / max(1, failing), found).astype(float))


def _member(stood: _Stood, number: int, row: np.void, share: float) -> Member:
    rehearsal, health = stood.rehearsal, stood.rehearsal.crew.group.health
    standing = _standing(stood, row)
    checks = health.unhealthy_after if standing == "fails" else max(health.healthy_after, 1)
    match standing:
        case "serves":
            passed, said = checks, ""
        case "joins":
            passed, said = _joins(stood, row, checks)
        case "drains":
            passed, said = checks, _drains(stood, row)
        case "fails" if rehearsal.crew.shut:
            since = float(row["booted"] if int(row["state"]) == Life.WARMING else row["broke"])
            passed, said = 0, f"shut out since {stood.until(since)}: {rehearsal.crew.shut}"
        case "fails":
            failed = min(checks, math.floor((stood.at - float(row["broke"])) / health.interval) + 1)
            passed = max(0, checks - failed)
            said = f"{FAULT_WORDS.get(int(row['fault']), 'broken')} since {stood.until(float(row['broke']))}"
            if not math.isfinite(float(row["noticed"])) and not row["found"]:
                passed, said = checks, f"{said}, which its checks do not see"
    at_work, answers = _work(stood, row) if standing in ("serves", "drains") else ("", "")
    return Member(
        number=number + 1,
        name=named(rehearsal, number, stood.result),
        zone=rehearsal.crew.launch.zones[int(row["zone"])],
        standing=standing,
        share=share,
        passed=passed,
        checks=checks,
        at_work=at_work,
        answers=answers,
        said=said,
    )


def _standing(stood: _Stood, row: np.void) -> Standing:
    """One that is up and that nothing gets through to fails, however long it is there."""
    state = int(row["state"])
    return "fails" if state == Life.WARMING and stood.rehearsal.crew.shut else _STANDING[state]


def _joins(stood: _Stood, row: np.void, checks: int) -> tuple[int, str]:
    """How many checks one that comes has passed, and what is still to come."""
    health, serves = stood.rehearsal.crew.group.health, float(row["serves"])
    if int(row["state"]) != Life.WARMING:
        return 0, "boots"
    if not health.healthy_after:
        return 0, f"warms up until {stood.until(serves)}"
    left = math.ceil((serves - stood.at) / health.interval - 1e-9)
    passed = max(0, checks - max(0, left))
    return passed, f"{passed} of {say_count(checks, 'check')} passed" if passed else f"warms up, serves at {stood.until(serves)}"


def _drains(stood: _Stood, row: np.void) -> str:
    drain = float(stood.result.setup.of("drain"))
    until = min(float(row["drains"]) + drain, float(row["deadline"]))
    left = f"{say_number(int(row['sessions']))} left, " if stood.rehearsal.crew.group.work.kind == "sessions" else ""
    return f"drains, {left}until {stood.until(until)}" if math.isfinite(until) else "drains"


def _work(stood: _Stood, row: np.void) -> tuple[str, str]:
    """What a member has under way, and how soon it answers."""
    setup, state, now = stood.result.setup, stood.result.state, stood.now
    if stood.rehearsal.crew.group.work.kind == "sessions":
        return f"{say_number(int(row['sessions']))} on it", ""
    if stood.rehearsal.crew.group.work.kind != "requests" or int(row["state"]) != Life.SERVING:
        return "", ""
    kind, crew = setup.kinds.view(np.ndarray)[row["kind"]], state.crews.view(np.ndarray)[row["kind"]]
    if now["uneven"] or setup.of("alike"):
        place, line, busy = int(row["at_load"]), float(row["line"]), float(row["busy"])
    elif setup.of("mixed"):
        place, line, busy = int(crew["at_load"]), float(crew["line"]) / max(1, int(crew["serving"])), float(now["busy"])
    else:
        place, line, busy = int(now["at_load"]), float(now["line"]) / max(1, int(now["serving"])), float(now["busy"])
    table = int(setup.line.row_of[min(int(now["serving"]), len(setup.line.row_of) - 1)]) + int(kind["line"])
    beside = float(setup.of("base_latency")) + float(now["extra_latency"])
    half = quantile(setup.line.tails[table, place], setup.line.times, 0.5) + beside
    late = float(setup.line.tables[table, Col.P95, place]) + beside
    under_way = busy * int(kind["vcpus"]) + max(0.0, line)
    return f"{say_number(round(under_way, 1))} at work", f"p50 {_seconds(half)}, p95 {_seconds(late)}"


def _seconds(span: float) -> str:
    return f"{round(1000 * span)} ms" if span < 1 else say_duration(round(span, 1))
