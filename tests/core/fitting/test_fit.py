"""What is fitted to data of a model that shares no code with the engine lies where it should, and says how sure it is."""

import math

import numpy as np
import pytest

from jostle.core.fitting.backtest import backtest
from jostle.core.fitting.fit import fit
from jostle.core.fitting.observed import Observed
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from tests.independent.hall import Hall, Terms
from tests.plans import ADD, REMOVE, plan

STEP, HOURS = 120.0, 6
CREW = crew_of(plan(), "web")
SEEDS = range(1, 21)


BASE = 0.3


def swell(time):
    return 0.6 + 1.2 * (1 - math.cos(2 * math.pi * time / (HOURS * 3600)))


class Counted(Hall):
    """A hall whose comers are counted by the step."""

    took: list
    latency_by: list

    def customer(self):
        came, served = self.env.now, self.course.served
        yield from super().customer()
        if self.course.served > served:
            self.took.append(self.env.now - came)

    def meter(self):
        self.came_by, self.took, self.latency_by = [], [], []
        while True:
            before = self.course.came
            yield self.env.timeout(self.terms.look)
            self.tally()
            self.came_by.append(self.course.came - before)
            self.latency_by.append(BASE + sum(self.took) / len(self.took) if self.took else math.nan)
            self.took.clear()
            self.readings.append((self.env.now, self.busy_time / self.open_time if self.open_time else 0.0))
            self.busy_time = self.open_time = 0.0


def observed_in(hall, idle=0.0):
    """What a monitor saw: by the step, the count at its end. `idle` is what each desk burns besides."""
    rows = min(len(hall.came_by), len(hall.course.desks))
    busy = np.array([share for _, share in hall.readings[:rows]])
    values = {
        "arrivals": np.array(hall.came_by[:rows]) / STEP,
        "instances": np.array(hall.course.desks[:rows], dtype=float),
        "cpu": np.minimum(1.0, idle + busy),
        "latency": np.array(hall.latency_by[:rows]),
    }
    return Observed(1751842800.0, STEP, values)


def hall(seed):
    made = Counted(Terms(rate=swell, top_rate=3.0, service_rate=0.5, patience=40.0, look=STEP, until=HOURS * 3600, first=2), seed)
    made.run()
    return made


@pytest.fixture(scope="module")
def halls():
    return [observed_in(hall(seed), idle=0.06) for seed in SEEDS]


def of(found, name):
    return next(one for one in found.estimates if one.name == name)


def test_the_truth_lies_in_nine_of_ten_intervals(halls):
    """A request takes two seconds of one of two clerks."""
    fits = [fit(one, CREW) for one in halls]
    found = [of(one, "CPU of a request") for one in fits]
    inside = sum(one.low <= 2 <= one.high for one in found)
    assert inside >= 0.85 * len(found)
    assert np.mean([one.value for one in found]) == pytest.approx(2, rel=0.03)
    idle = [of(one, "idle CPU").value for one in fits]
    assert np.mean(idle) == pytest.approx(0.06, abs=0.01)


def test_the_base_latency_is_what_is_left_of_an_answer_while_nobody_waits(halls):
    """With service and the rare wait of two clerks taken off, and what is not known of the service in its interval."""
    found = [of(fit(one, CREW), "base latency") for one in halls]
    assert sum(one.low <= BASE <= one.high for one in found) >= 0.85 * len(found)
    assert np.mean([one.value for one in found]) == pytest.approx(BASE, abs=0.1)
    assert all(one.high - one.low < 1.0 for one in found), "an interval that holds everything tells nothing"


def test_rows_that_are_far_off_and_a_meter_that_dies_move_little(halls):
    chance, inside, values = np.random.default_rng(5), 0, []
    for one in halls:
        cpu = one.values["cpu"].copy()
        off = chance.random(len(cpu)) < 0.05
        cpu[off] = chance.random(off.sum())
        dead = int(chance.integers(0, len(cpu) - 30))
        cpu[dead : dead + 30] = np.nan
        found = of(fit(Observed(one.first, one.step, one.values | {"cpu": cpu}), CREW), "CPU of a request")
        inside += found.low <= 2 <= found.high
        values.append(found.value)
    assert inside >= 0.85 * len(halls)
    assert np.mean(values) == pytest.approx(2, rel=0.04)


def test_what_the_columns_do_not_allow_is_said(halls):
    one = halls[0]
    found = fit(one, CREW)
    assert found.not_told == ["time to serve: no column of wanted", "memory that is needed: no column of memory"]
    even = Observed(one.first, one.step, {name: np.full(90, values[0]) for name, values in one.values.items()})
    assert "the load of an instance hardly changes" in fit(even, CREW).not_told[0]
    short = Observed(one.first, one.step, {name: values[:8] for name, values in one.values.items()})
    assert "bring 24 at the least" in fit(short, CREW).not_told[0]


def test_a_day_of_the_engine_is_fitted_to_what_it_was_made_from():
    """With the time to serve, and the past rehearsed again."""
    made = plan(
        demands__even__layers=[
            {"kind": "level", "rate": 30},
            {"kind": "daily", "points": [{"at": "04:00", "factor": 0.3}, {"at": "14:00", "factor": 2.5}]},
        ],
        groups__web__work={"kind": "requests", "cpu_seconds": 0.1, "base_latency": "40 ms", "idle_cpu": 0.04},
        groups__web__policies=[ADD, REMOVE],
    )
    crew, result = crew_of(made, "web"), rehearse(made, "web", 3).result
    step = round(60 / made.tick)
    rows = result.series[: len(result.series) // step * step].reshape(-1, step)
    values = {
        "arrivals": result.arrivals.reshape(-1, step).sum(axis=1) / 60,
        "instances": rows["serving"].mean(axis=1),
        "wanted": rows["desired"][:, -1].astype(float),
        "cpu": rows["cpu"].mean(axis=1).astype(float),
        "latency": rows["latency"].mean(axis=1).astype(float),
    }
    found = fit(Observed(made.start.timestamp(), 60.0, values), crew)
    assert found.not_told == ["memory that is needed: no column of memory"]
    assert of(found, "CPU of a request").value == pytest.approx(0.1, rel=0.02)
    assert of(found, "idle CPU").value == pytest.approx(0.04, abs=0.01)
    ready = of(found, "boot and warm-up")
    assert ready.low <= crew.ready_after + 60 <= ready.high + 120
    past = backtest(made, "web", Observed(made.start.timestamp(), 60.0, values), seed=3)
    assert [one.what for one in past.apart] == ["count", "CPU", "latency"]
    assert past.apart[0].nine_of_ten <= 1
    assert past.apart[1].nine_of_ten < 0.08
    assert past.said[0].startswith("count within ")


def test_sessions_and_jobs_are_told_by_how_many_there_are():
    sessions = crew_of(plan(groups__web__work={"kind": "sessions", "seats": 20, "length": "8 min"}), "web")
    chance = np.random.default_rng(2)
    came = chance.poisson(0.5 * 60, 600) / 60
    there = np.convolve(came * 60, np.exp(-np.arange(200) * 60 / 480) * (1 - np.exp(-60 / 480)) * 480 / 60, "full")[:600]
    found = fit(Observed(0.0, 60.0, {"arrivals": came[100:], "sessions": there[100:]}), sessions)
    length = of(found, "length of a session")
    assert length.value == pytest.approx(480, rel=0.05)
    jobs = crew_of(plan(groups__web__work={"kind": "jobs", "job_seconds": 60}), "web")
    count = chance.integers(2, 9, 300).astype(float)
    done = count / 45.0 * chance.normal(1, 0.05, 300)
    waiting = np.where(np.arange(300) % 3 > 0, 12.0, 0.0)
    found = fit(Observed(0.0, 60.0, {"instances": count, "done": done, "waiting": waiting}), jobs)
    assert of(found, "length of a job").value == pytest.approx(45, rel=0.03)
    assert of(found, "length of a job").rows == 200


def test_what_a_machine_needs_is_what_was_used_of_one_at_its_busiest():
    """Of two vCPUs 0.6 are busy, and 1.3 in two hours of a hundred; of 8 GiB 3.7 are used."""
    cpu = np.full(300, 0.3)
    cpu[40:46] = 0.65
    observed = Observed(0.0, 3600.0, {"cpu": cpu, "memory": np.full(300, 3.7 / 8)})
    group = crew_of(plan(groups__web__buying={"needs": {"vcpus": 1}}, **{"machines__otter-2__spot": {"level": 0.4}}), "web")
    found = fit(observed, group)
    vcpus, memory = of(found, "vCPUs at least"), of(found, "GiB of memory at least")
    assert (vcpus.value, vcpus.path) == (2, "buying.needs.vcpus")
    assert vcpus.low >= 1
    assert (memory.value, memory.path) == (4, "buying.needs.memory_gib")
    assert "an instance used 3.7 of 8 or less in 99 % of them" in memory.beside
    assert memory.say(memory.value) == "4"
    rare = cpu.copy()
    rare[42:46] = 0.3
    assert of(fit(Observed(0.0, 3600.0, {"cpu": rare}), group), "vCPUs at least").value == 1
    # A group that finds its machine by name is told the same, and there is nothing to set
    assert of(fit(observed, CREW), "vCPUs at least").path == ""
