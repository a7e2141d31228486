"""Findings about limits, templates, health, calendars, drains and what the rehearsal showed."""

import pytest

from jostle.core.plan.problem import PlanError
from tests.core.checks.test_findings import SOUND, codes, found, mended, one
from tests.engines import result
from tests.plans import ADD, REMOVE, plan

SESSIONS = {"kind": "sessions", "seats": 10, "length": "10 min"}
JOBS = {"kind": "jobs", "job_seconds": 60}
LB = {"basis": "load_balancer", "grace": "10 min"}
ZONES = {"subnets": {"a": {"zone": "north"}, "b": {"zone": "skerry"}}}
MACHINE = {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36"}


def entry(kind, name="one", begin="01:00", **fields):
    own = {} if kind == "set" else {"for": "2 h"}
    return {"name": name, "kind": kind, "from": f"2025-07-07T{begin}", **own, **fields}


def test_free_seats_fall_with_the_load():
    settings = {"groups__web__work": SESSIONS, "demands__even__layers": [{"kind": "level", "rate": 0.01}]}
    right = {**ADD, "metric": "free_seats", "side": "below", "threshold": 3}
    assert "wrong-side" not in codes([right], **settings)
    finding = one("wrong-side", [{**right, "side": "above"}], **settings)
    assert finding.text.endswith("drives free seats higher, so that it adds again, up to the maximum.")


def test_a_larger_step_of_a_band_swings_too():
    banded = {**ADD, "threshold": "80 %", "bands": [{"beyond": "90 %", "amount": 8}]}
    finding = one("swing", [banded, {**REMOVE, "threshold": "25 %"}])
    assert "adding 8 lowers CPU from 90 % to 10 %" in finding.text
    assert "swing" not in codes(SOUND, groups__web__minimum=3)


@pytest.mark.parametrize(
    ("work", "drain", "said"),
    [(SESSIONS, "5 min", "60.7 % of the sessions"), (JOBS, "15 s", "75 % of the jobs")],
)
def test_a_drain_shorter_than_the_work(work, drain, said):
    settings = {
        "groups__web__work": work,
        "groups__web__drain": drain,
        "demands__even__layers": [{"kind": "level", "rate": 0.01}],
    }
    assert said in one("drain-short", [], **settings).text
    assert "drain-short" not in mended("drain-short", [], **settings)


def test_a_grace_that_ends_before_an_instance_can_answer():
    settings = {"groups__web__health": {"basis": "load_balancer", "grace": "60 s"}}
    assert one("grace-short", SOUND, **settings).severity == "error"
    assert "grace-short" not in mended("grace-short", SOUND, **settings)
    assert "grace-short" not in codes(SOUND, groups__web__health={"basis": "machine", "grace": 0})


def test_a_check_that_cannot_see_a_hung_instance():
    assert one("health-blind", SOUND).severity == "note"
    assert one("health-blind", SOUND, groups__web__faults={"hung": 0.5, "every": "10 d"}).severity == "warning"
    assert "health-blind" not in mended("health-blind", SOUND)
    assert "health-blind" not in codes(SOUND, groups__web__health=LB)


def test_stickiness_that_keeps_load_off_new_instances():
    finding = one("sticky-slow", SOUND, groups__web__load_balancer={"sticky": "20 min"})
    assert "13 min 52 s" in finding.text
    assert "sticky-slow" not in mended("sticky-slow", SOUND, groups__web__load_balancer={"sticky": "20 min"})
    assert "sticky-slow" not in codes(SOUND)


def test_a_maximum_over_the_quota_or_never_reached():
    quota = {"machines": {"otter-2": {**MACHINE, "quota": 6}}}
    assert "6 over all groups" in one("over-quota", SOUND, **quota).text
    assert "over-quota" not in mended("over-quota", SOUND, **quota)
    setting = [{**ADD, "action": "set", "amount": 4}]
    assert "more than 4" in one("maximum-unreached", setting).text
    assert "maximum-unreached" not in codes(setting, groups__web__calendar=[entry("floor", count=10)])
    assert "maximum-unreached" not in codes(SOUND)


def test_zones():
    both = {**ZONES, "groups__web__launch": {"subnets": ["a", "b"]}}
    assert "minimum-below-zones" not in mended("minimum-below-zones", SOUND, **both)
    assert "zone north" in one("single-zone", SOUND, **ZONES, groups__web__launch={"subnets": ["a"]}).text
    assert {"single-zone", "minimum-below-zones"}.isdisjoint(codes(SOUND))


def test_a_template_that_lacks_something_and_a_firewall_open_to_all():
    assert "image, disk, subnets, firewall and identity" in one("template-incomplete", SOUND).text
    rules = {"firewall": {"desk": {"ports": [22, 443], "source": "0.0.0.0/0"}, "web": {"ports": [443], "source": "::/0"}}}
    full = {"image": "i", "disk_gib": 9, "subnets": ["a", "b"], "identity": "x"}
    opened = found(SOUND, **rules, **ZONES, groups__web__launch={**full, "firewall": ["desk", "web"]})
    (finding,) = [f for f in opened if f.code == "open-to-all"]
    assert finding.text == "desk opens port 22 (ssh) to the whole world (0.0.0.0/0)."
    assert "template-incomplete" not in {f.code for f in opened}
    assert "open-to-all" not in codes(SOUND, **rules, **ZONES, groups__web__launch={**full, "firewall": ["web"]})


def test_sleeping_on_a_type_that_bills_while_stopped():
    dear = {"machines": {"otter-2": {**MACHINE, "billed_when_stopped": True}}}
    sleeping = {"groups__web__calendar": [entry("sleep")]}
    assert one("stopped-billed", SOUND, **dear, **sleeping).path == "calendar.one"
    assert one("stopped-billed", SOUND, **dear, groups__web__owned=3).path == "owned"
    assert "stopped-billed" not in codes(SOUND, **sleeping)


@pytest.mark.parametrize(
    ("calendar", "said"),
    [
        ([entry("sleep"), entry("floor", "two", "02:00", count=3)], "the group sleeps"),
        ([entry("freeze"), entry("set", "two", "02:00", count=3)], "nothing changes while it is frozen"),
        (
            [entry("bounds", minimum=1, maximum=2), entry("floor", "two", "02:00", count=3)],
            "3 and at most 2 cannot both be",
        ),
        (
            [entry("bounds", minimum=1, maximum=2), entry("bounds", "two", "02:00", minimum=4, maximum=5)],
            "at least 4 and at most 2 cannot both be",
        ),
    ],
)
def test_entries_that_contradict_one_another(calendar, said):
    finding = one("calendar-clash", SOUND, groups__web__calendar=calendar)
    assert said in finding.text
    assert finding.at == 7200
    apart = [calendar[0], {**calendar[1], "from": "2025-07-07T05:00"}]
    assert "calendar-clash" not in codes(SOUND, groups__web__calendar=apart)


@pytest.mark.parametrize(
    ("calendar", "said"),
    [
        ([entry("sleep"), entry("freeze", "two", "02:00")], "the group sleeps throughout"),
        ([entry("floor", count=4), entry("floor", "two", "02:00", count=3)], "there are at least 4 anyway"),
        (
            [entry("bounds", minimum=2, maximum=4), entry("bounds", "two", "02:00", minimum=1, maximum=5)],
            "the count lies between 2 and 4 anyway",
        ),
    ],
)
def test_an_entry_to_no_effect(calendar, said):
    inside = [calendar[0], {**calendar[1], "for": "10 min"}]
    finding = one("calendar-idle", SOUND, groups__web__calendar=inside)
    assert finding.path == "calendar.two"
    assert said in finding.text
    assert "calendar-idle" not in codes(SOUND, groups__web__calendar=[calendar[0], {**calendar[1], "for": "20 h"}])


def test_entries_beyond_the_group_never_met_or_leaving_hours_to_nobody():
    assert one("calendar-clash", SOUND, groups__web__calendar=[entry("floor", count=40)]).severity == "error"
    assert "calendar-unused" in codes(SOUND, groups__web__calendar=[{**entry("floor", count=2), "from": "2025-09-01T00:00"}])
    gap = one("calendar-gap", [], groups__web__calendar=[entry("floor", count=2, begin="00:00")])
    assert "22 h" in gap.text
    assert gap.at == 7200
    assert "calendar-gap" not in codes(SOUND, groups__web__calendar=[entry("floor", count=2)])


def test_a_calendar_is_a_way_out_of_zero():
    assert "zero-trap" in codes([ADD], groups__web__minimum=0)
    assert "zero-trap" not in codes([ADD], groups__web__minimum=0, groups__web__calendar=[entry("floor", count=2)])
    spare = {"kind": "spare", "name": "s", "share": 0.2}
    assert "zero-trap" not in codes([spare], groups__web__minimum=0)


def test_a_calendar_that_lifts_the_count_once_leads_back_into_the_trap():
    once = [entry("floor", count=2)]
    trapped = {"groups__web__minimum": 0, "groups__web__calendar": once}
    assert one("zero-trap", SOUND, **trapped).text.endswith("; one lifts the count only once.")
    again = {**trapped, "groups__web__calendar": [{**once[0], "repeat": "FREQ=DAILY"}]}
    assert "zero-trap" not in codes(SOUND, **again)
    asleep = {**trapped, "groups__web__calendar": [*once, entry("sleep", name="night", begin="20:00")]}
    assert "zero-trap" in codes([ADD], **asleep)


def test_a_promise_kept_by_less_than_the_model_can_tell():
    promise = {"kind": "answers", "within": "500 ms"}
    loaded = {"groups__web__minimum": 2, "groups__web__start_count": 2}
    found = result(**loaded)
    share = 1 - found.late_share(0.5)
    narrow = {**loaded, "groups__web__promises": [{**promise, "share": round(share - 0.001, 4)}]}
    assert "5 %" in one("promise-narrow", [], **narrow).text
    assert "promise-narrow" not in codes([], **loaded, groups__web__promises=[{**promise, "share": 0.5}])
    broken = {**loaded, "groups__web__promises": [{**promise, "share": round(share + 0.001, 4)}]}
    assert "promise-narrow" not in codes([], **broken)


def test_overflow_used_so_often_that_too_few_are_owned():
    settings = {"groups__web__owned": 1, "demands__even__layers": [{"kind": "level", "rate": "70/s"}]}
    assert "the 1 owned" in one("overflow-often", [ADD], **settings).text
    assert "overflow-often" not in mended("overflow-often", [ADD], **settings)


def test_launches_that_are_refused_and_promises_that_nothing_keeps():
    closed = {"kind": "no_capacity", "at": "2025-07-07T00:00", "for": "1 d"}
    demand = {"layers": [{"kind": "level", "rate": "70/s"}], "incidents": [closed]}
    assert "want of capacity" in one("launch-refused", [ADD], demands__even=demand).text
    hanging = {"kind": "breaking", "at": "2025-07-07T01:00", "share": 1, "fault": "hung"}
    broken = {"layers": [{"kind": "level", "rate": 0.05}], "incidents": [hanging]}
    settings = {"groups__web__work": SESSIONS, "groups__web__promises": [{"kind": "seats", "share": "99 %"}]}
    assert "promise-hopeless" in codes([], demands__even=broken, **settings)


def test_a_paused_or_held_group_is_not_judged_by_its_policies():
    assert "adds-only" not in codes([ADD], groups__web__policies_paused=True)
    assert "adds-only" not in codes([ADD], groups__web__mode="stay")
    assert "adds-only" in codes([ADD, REMOVE], groups__web__mode="grow")


RULES = {
    "firewall": {
        "web": {"ports": [80, "443"], "source": "0.0.0.0/0"},
        "wide": {"ports": ["8000 - 8100"], "source": "0.0.0.0/0"},
        "all": {"ports": ["all"], "source": "::/0"},
        "inside": {"ports": ["8000-8100"], "source": "10.0.0.0/8"},
    }
}


@pytest.mark.parametrize(
    ("rules", "code", "said"),
    [
        (["wide"], "open-wide", "ports 8000 to 8100 to the whole world"),
        (["all"], "open-to-all", "all opens every port to the whole world (::/0)"),
        (["web", "inside"], None, ""),
    ],
)
def test_ranges_of_ports_that_are_open_to_the_world(rules, code, said):
    launched = {**ZONES, **RULES, "groups__web__launch": {"subnets": ["a", "b"], "firewall": rules}}
    told = {finding.code: finding.text for finding in found(SOUND, **launched)}
    assert said in told.get(code, "")
    assert {"open-wide", "open-to-all"} & set(told) == ({code} if code else set())


@pytest.mark.parametrize("ports", [[0], [65536], ["9-4"], ["ssh"], ["1-99999"], [True]])
def test_ports_that_are_none_are_refused(ports):
    with pytest.raises(PlanError, match="port"):
        plan(firewall={"web": {"ports": ports, "source": "0.0.0.0/0"}})


def test_a_health_check_whose_port_the_firewall_shuts_out():
    def launched(rules, check="/ready on 8080"):
        return {**ZONES, **RULES, "groups__web__launch": {"subnets": ["a", "b"], "firewall": rules, "health_check": check}}

    shut = one("check-shut-out", SOUND, **launched(["web"]), groups__web__health=LB)
    assert shut.severity == "error"
    assert "web does not let port 8080 in" in shut.text
    for open_to_it in (launched(["web", "inside"]), launched(["web"], "/ready on 443"), launched(["web"], "/ready")):
        assert "check-shut-out" not in codes(SOUND, **open_to_it, groups__web__health=LB)
    with pytest.raises(PlanError, match="between 1 and 65535"):
        plan(**launched(["web"], "/ready on 70000"))


def test_maxima_that_pass_a_quota_only_together():
    other = plan(**{"machines__otter-2__quota": 15}).groups["web"].model_dump(mode="json")
    shared = {"machines__otter-2__quota": 15, "groups__api": {**other, "policies": []}}
    assert "come to 20: web 10 and api 10" in one("quota-together", SOUND, **shared).text
    assert "quota-together" not in codes(SOUND, **{**shared, "machines__otter-2__quota": 20})


def test_paid_time_decides_nothing_where_seconds_are_billed():
    leaving = {"groups__web__leaving": {"criteria": ["least_paid_left", "newest"]}}
    finding = one("paid-time-idle", SOUND, **leaving)
    assert finding.mend.settings == {"leaving.criteria": ["newest"]}
    assert "paid-time-idle" not in codes(SOUND, **leaving, **{"machines__otter-2__billed_by": "hour"})


def test_a_network_that_was_forgotten():
    other = plan().groups["web"].model_dump(mode="json")
    placed = {**ZONES, "groups__api": {**other, "policies": [], "launch": {"subnets": ["a"]}}}
    assert "api named theirs: add some of a, b" in one("network-forgotten", SOUND, **placed).text
    assert "network-forgotten" not in codes(SOUND)
