"""The kit: every promise of the provider protocol, tried against whoever answers at an address."""

import time
from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import NamedTuple

import httpx2
from prometheus_client.openmetrics.parser import text_string_to_metric_families as parsed

from jostle.core.decide.rules import samples
from jostle.provider.trial import PROMPT, Broken, NotTried, Trial

ORDER = ("asked", "booting", "warming", "serving")
LEAVING = ("draining", "stopping", "stopped", "gone")
MANY = 3


class Case(NamedTuple):
    """A promise, and why it is broken, or why it was not tried; `seconds` that it took."""

    promise: str
    broken: str | None
    skipped: str | None
    seconds: float


def says_who_it_is(trial: Trial) -> None:
    """Says which protocol it speaks, and what it has: zones, metrics, periods"""
    for name, note in trial.about.groups.items():
        if not note.zones or not note.metrics:
            raise Broken(f"{name} has no zones or no metrics")


def counts_agree(trial: Trial) -> None:
    """Counts and instances say the same"""
    counts, there = trial.of("counts"), trial.instances()
    present = [one for one in there if one["state"] in (*ORDER, "broken")]
    seen = {"present": len(present), "serving": sum(one["state"] == "serving" for one in there)}
    told = {field: counts[field] for field in seen}
    if told != seen:
        raise Broken(f"the counts are {told}, and the instances {seen}")


def instances_are_in_order(trial: Trial) -> None:
    """Instances come the oldest first, each once, in zones that the group has"""
    numbers = [one["number"] for one in trial.instances()]
    if numbers != sorted(set(numbers)):
        raise Broken(f"their numbers are {numbers[:20]}")
    if strange := {one["zone"] for one in trial.instances()} - set(trial.note.zones):
        raise Broken(f"some are in {', '.join(strange)}, which the group does not have")


def the_clock_waits(trial: Trial) -> None:
    """The clock does not pass an instant of evaluation that the keeper has not answered"""
    now = trial.on()
    trial.ask("POST", "/clock", json={"until": now + 10 * trial.note.evaluate_every})
    there = trial.ask("GET", "/clock").json()["groups"][trial.group]
    if there > now + trial.note.evaluate_every + 1e-6:
        raise Broken(f"it went from {now:g} to {there:g} s, past the instants in between")


def answers_count_once(trial: Trial) -> None:
    """An instant that is answered again changes nothing"""
    now = trial.on()
    first = trial.order("answered", {"time": now})
    again = trial.order("answered", {"time": now})
    if again["time"] != first["time"]:
        raise Broken(f"the clock went from {first['time']:g} to {again['time']:g} s at the second answer")


def an_order_is_done_once(trial: Trial) -> None:
    """An order that is given again under its key is done once"""
    before = trial.of("counts")["present"]
    key = f"{trial.stamp} once"
    answers = [trial.order("more", {"key": key, "number": 1, "by": -1}) for _ in range(3)]
    after = trial.of("counts")["present"]
    if after != before + 1:
        raise Broken(f"one more was asked for three times under one key, and {after - before} came")
    if [answer["again"] for answer in answers] != [False, True, True]:
        raise Broken(f"`again` was {[answer['again'] for answer in answers]}")


def states_go_forward(trial: Trial) -> None:
    """An instance is asked for, boots, warms up and serves, in this order, and its times with it"""
    trial.can("clock")
    known = {one["number"] for one in trial.instances()}
    trial.order("more", {"key": f"{trial.stamp} forward", "number": 1, "by": -1})
    new = [one["number"] for one in trial.instances() if one["number"] not in known]
    if len(new) != 1:
        raise Broken(f"{len(new)} new instances are told after one more was ordered")
    seen: list[str] = []

    def serves() -> bool:
        one = next((one for one in trial.instances() if one["number"] == new[0]), None)
        if one is None:
            raise Broken(f"instance {new[0]} was {seen[-1] if seen else 'never seen'} and is no longer told")
        if not seen or seen[-1] != one["state"]:
            seen.append(one["state"])
        times = [one[field] for field in ("requested", "booted", "serves") if one[field] is not None]
        if times != sorted(times):
            raise Broken(f"it was requested, booted and served at {times}")
        if one["state"] == "serving" and one["serves"] is None:
            raise Broken("it serves, and there is no time from which on")
        return bool(one["state"] == "serving")

    trial.until(serves, lambda: f"instance {new[0]} still is {seen[-1]}")
    places = [ORDER.index(state) if state in ORDER else -1 for state in seen]
    if places != sorted(places) or -1 in places:
        raise Broken(f"it was {', '.join(seen)}")
    if seen == ["serving"]:
        raise Broken("it serves at the instant at which it was asked for")


def one_that_leaves_is_gone(trial: Trial) -> None:
    """An instance that is to leave drains, and is gone in the end"""
    trial.can("clock")
    serving = [one["number"] for one in trial.instances() if one["state"] == "serving"]
    if not serving:
        raise NotTried("none serves")
    number = serving[-1]
    trial.order(
        "fewer", {"key": f"{trial.stamp} leave", "leaving": [{"number": number}], "by": -1, "notice": "moved for a trial"}
    )

    def gone() -> bool:
        one = next((one for one in trial.instances() if one["number"] == number), None)
        if one is not None and one["state"] not in LEAVING:
            raise Broken(f"instance {number} was told to leave, and is {one['state']}")
        return one is None

    trial.until(gone, lambda: f"instance {number} is still there")


def refusals_are_in_words(trial: Trial) -> None:
    """What cannot be is refused as problem details that say why"""
    for path, body, expect in (
        ("/groups/no-such-group-here/more", {"key": "k", "number": 1, "by": -1}, (404,)),
        (f"/groups/{trial.group}/more", {"key": f"{trial.stamp} few", "number": -1, "by": -1}, (409, 422)),
        (
            f"/groups/{trial.group}/fewer",
            {"key": f"{trial.stamp} far", "leaving": [{"number": 10**8}], "by": -1},
            (404, 409, 422),
        ),
    ):
        answer = trial.ask("POST", path, expect, json=body)
        if not answer.headers.get("content-type", "").startswith("application/problem+json"):
            raise Broken(f"{path} was refused as {answer.headers.get('content-type')}")
        told = answer.json()
        if told.get("status") != answer.status_code or len(str(told.get("detail", ""))) < 8:
            raise Broken(f"{path} was refused without a reason: {told}")


def readings_are_of_the_past(trial: Trial) -> None:
    """Readings are numbered, of the past, and the same when they are asked for again"""
    trial.can("clock")
    now = trial.on()
    told = trial.of("readings", params={"first": 0})
    if any(after - before <= 0 for before, after in pairwise(told["at"])):
        raise Broken("their times do not go forward")
    if told["at"] and told["at"][-1] > now + 1e-6:
        raise Broken(f"one is of {told['at'][-1]:g} s, and it is {now:g} s")
    shape = {len(row) for rows in told["values"] for row in rows}
    if shape - {len(told["at"])} or len(told["metered"]) != len(told["at"]):
        raise Broken("there are not as many values as times")
    later = trial.of("readings", params={"first": max(0, len(told["at"]) - 1)})
    last = [[row[-1:] for row in rows] for rows in told["values"]]
    if told["at"] and [[row[:1] for row in rows] for rows in later["values"]] != last:
        raise Broken("the same reading was another when it was asked for again")


def readings_have_names(trial: Trial) -> None:
    """Readings have a row for each metric that was told, of which a plan knows some by name"""
    names = [one.name for one in trial.note.metrics]
    if not set(names) & set(samples([])):
        raise Broken(f"a plan knows none of its metrics, {', '.join(names[:10])}; it would know {', '.join(samples([]))}")
    told = trial.of("readings")
    if (wrong := next((len(rows) for rows in told["values"] if len(rows) != len(names)), None)) is not None:
        raise Broken(f"it has told {len(names)} metrics, and readings have {wrong}")


def meters_measure(trial: Trial) -> None:
    """While instances serve and there is work, readings say something, and not 0 throughout"""
    trial.can("clock")
    before = trial.of("load")["served"]
    for _ in range(MANY):
        trial.on()
    told, served = trial.of("readings"), trial.of("load")["served"]
    there = [k for k, many in enumerate(told["metered"]) if many]
    values = [value for rows in told["values"][:1] for row in rows for k in there if (value := row[k]) is not None]
    if not there:
        raise NotTried("no reading has instances behind it")
    if not values:
        raise Broken(f"{len(there)} readings with instances behind them are null throughout")
    if served > before and not any(values):
        raise Broken(f"{served - before:g} were answered meanwhile, and every reading is 0")


def time_goes_forward(trial: Trial) -> None:
    """Time never goes back, and the clock, the counts and the load say the same"""
    trial.can("clock")
    last = -1.0
    for _ in range(MANY):
        trial.on()
        now = trial.ask("GET", "/clock").json()["groups"][trial.group]
        said = {"the counts": trial.of("counts")["time"], "the load": trial.of("load")["time"]}
        if now < last:
            raise Broken(f"the clock went from {last:g} to {now:g} s")
        for what, at in said.items():
            if abs(at - now) > 1e-3:
                raise Broken(f"the clock says {now:g} s, and {what} {at:g} s")
        last = now


def silence_is_not_zero(trial: Trial) -> None:
    """Meters that are silent give no reading, rather than zeros"""
    trial.can("faults")
    trial.can("clock")
    trial.on()
    before = len(trial.of("readings")["at"])
    length = 4 * trial.note.evaluate_every
    trial.ask("POST", "/faults", json={"kind": "silent_meters", "group": trial.group, "length": length})
    trial.on()
    told = trial.of("readings")
    told_more = len(told["at"]) - before
    if told_more > 0 and any(row[-1] is not None for rows in told["values"] for row in rows):
        raise Broken(f"{told_more} readings came while the meters were silent")


def readings_are_scraped(trial: Trial) -> None:
    """Readings are OpenMetrics text that the usual parser reads"""
    text = trial.ask("GET", f"/groups/{trial.group}/metrics").text
    try:
        families = list(parsed(text))  # type: ignore[no-untyped-call]
    except ValueError as error:
        raise Broken(f"it cannot be read: {error}") from None
    if not families:
        raise Broken("there is no metric in it")


def events_are_told(trial: Trial) -> None:
    """What becomes of an instance is told as an event"""
    trial.can("clock")
    told = [event["data"] | {"type": event["type"]} for _, event in trial.events(None, 10**6)]
    served = {one["instance"] for one in told if one["type"].endswith(".serves") and "instance" in one}
    new = {one["number"] for one in trial.instances() if one["serves"] is not None and (one["requested"] or 0) > 0}
    if missing := new - served:
        raise Broken(f"instances {sorted(missing)[:5]} serve, and no event says since when")


def events_are_resumed(trial: Trial) -> None:
    """Events are CloudEvents 1.0, and go on after Last-Event-ID with none missing and none twice"""
    every = trial.events(None, 10**6)
    if len(every) < MANY:
        raise NotTried(f"there are only {len(every)} events so far")
    ids = [event["id"] for _, event in every]
    if len(set(ids)) < len(ids):
        raise Broken("two events have one id")
    middle = len(every) // 2
    rest = [event["id"] for _, event in trial.events(every[middle][0], len(every) - middle - 1)]
    if rest != ids[middle + 1 :]:
        raise Broken(f"after event {middle + 1} of {len(ids)} there came {len(rest)} of {len(ids) - middle - 1}, or others")


def the_load_adds_up(trial: Trial) -> None:
    """No more is answered and failed than came"""
    told = trial.of("load")
    if told["served"] + told["failed"] > told["arrived"] * (1 + 1e-6) + 1:
        raise Broken(f"{told['arrived']:g} came, {told['served']:g} were answered and {told['failed']:g} failed")


def pins_are_seen(trial: Trial) -> None:
    """An instance that is pinned is told as pinned, until it is no longer"""
    trial.can("pin")
    there = [one for one in trial.instances() if one["state"] == "serving"]
    if not there:
        raise NotTried("none serves")
    number = there[0]["number"]
    for act, expected in (("pin", True), ("unpin", False)):
        trial.order(f"instances/{number}", {"key": f"{trial.stamp} {act}", "act": act})
        told = next(one["pinned"] for one in trial.instances() if one["number"] == number)
        if told != expected:
            raise Broken(f"after {act} instance {number} is told as {'pinned' if told else 'not pinned'}")


def one_that_is_killed_is_gone(trial: Trial) -> None:
    """An instance that is killed is gone at once"""
    there = [one["number"] for one in trial.instances() if one["state"] == "serving"]
    if len(there) < 2:
        raise NotTried("fewer than two serve")
    trial.order(f"instances/{there[-1]}", {"key": f"{trial.stamp} kill", "act": "kill"})
    if there[-1] in [one["number"] for one in trial.instances()]:
        raise Broken(f"instance {there[-1]} is still told")


def faults_wait_for_the_keeper(trial: Trial) -> None:
    """The clock waits where a fault is found, until the keeper has had the instance started again or replaced"""
    trial.can("mending")
    trial.can("faults")
    trial.can("clock")
    there = [one for one in trial.instances() if one["state"] == "serving"]
    if not there:
        raise NotTried("none serves")
    length = 20 * trial.note.evaluate_every
    fault = {"kind": "zone_lost", "group": trial.group, "zone": there[-1]["zone"], "length": length}
    trial.ask("POST", "/faults", json=fault)
    trial.until(lambda: trial.of("counts")["found"] > 0, lambda: "no fault is found in a zone that was lost")
    if trial.group not in trial.ask("GET", "/clock").json()["due"]:
        raise Broken("a fault was found, and the clock does not wait")
    waiting = [one for one in trial.instances() if one["found"]]
    if len(waiting) != trial.of("counts")["found"] or not all(one["stranded"] for one in waiting):
        raise Broken(f"{trial.of('counts')['found']} faults are counted, and the instances say {waiting}")
    for turn, one in enumerate(waiting):
        act = "replace" if turn == 0 else "mend"
        trial.order(f"instances/{one['number']}", {"key": f"{trial.stamp} mend {one['number']}", "act": act})
    left = {one["number"]: one["state"] for one in trial.instances()}
    if waiting[0]["number"] in left:
        raise Broken(f"instance {waiting[0]['number']} was to be replaced, and is {left[waiting[0]['number']]}")
    if idle := [one["number"] for one in waiting[1:] if left.get(one["number"]) not in ("booting", "warming")]:
        raise Broken(f"instances {idle} were to be started again, and are {[left.get(number) for number in idle]}")
    if trial.of("counts")["found"]:
        raise Broken("what was seen to is still told as found")


def answers_are_prompt(trial: Trial) -> None:
    """Every answer comes within two seconds"""
    if trial.slowest > PROMPT:
        raise Broken(f"{trial.slow_path} took {trial.slowest:.1f} s")


PROMISES: tuple[Callable[[Trial], None], ...] = (
    says_who_it_is,
    counts_agree,
    instances_are_in_order,
    the_clock_waits,
    answers_count_once,
    an_order_is_done_once,
    states_go_forward,
    one_that_leaves_is_gone,
    refusals_are_in_words,
    readings_are_of_the_past,
    readings_have_names,
    meters_measure,
    time_goes_forward,
    silence_is_not_zero,
    readings_are_scraped,
    pins_are_seen,
    one_that_is_killed_is_gone,
    faults_wait_for_the_keeper,
    counts_agree,
    events_are_told,
    events_are_resumed,
    the_load_adds_up,
    answers_are_prompt,
)


def check_provider(url: str) -> list[Case]:
    """Try every promise. Raises ConnectionError where nothing answers, Unusable where it does not speak the protocol."""
    trial = Trial(url)
    return list(_cases(trial))


def _cases(trial: Trial) -> Iterator[Case]:
    for promise in PROMISES:
        began, broken, skipped = time.monotonic(), None, None
        try:
            promise(trial)
        except Broken as error:
            broken = str(error)
        except NotTried as error:
            skipped = str(error)
        except httpx2.TransportError as error:
            broken = f"no answer: {error}"
        except (KeyError, TypeError, ValueError) as error:
            broken = f"what it told cannot be read: {type(error).__name__} {error}"
        yield Case(str(promise.__doc__), broken, skipped, time.monotonic() - began)
