"""When a group was short, what the time went on, and whether what is to be tried helps."""

import pytest
from hypothesis import HealthCheck, given, settings

from jostle.core.checks.shortfall import shortfalls
from jostle.core.rehearsal.rehearser import rehearse
from tests.core.engine.test_whole_plans import plans
from tests.plans import ADD, REMOVE, plan

STEP = [{"kind": "level", "rate": 18}, {"kind": "surge", "at": "2025-07-07T06:00", "factor": 5, "hold": "1 h"}]
EARLY = {**ADD, "threshold": "60 %"}


def short(**changes):
    base = {
        "demands__even": {"layers": STEP},
        "groups__web__start_count": 2,
        "groups__web__policies": [EARLY],
        "groups__web__work": {
            "kind": "requests", "cpu_seconds": 0.1, "timeout": 5, "arrivals": "evenly", "unevenness": 0
        },
    }  # fmt: skip
    return rehearse(plan(**(base | changes)), "web")


@pytest.mark.parametrize(
    ("changes", "cause"),
    [
        ({"groups__web__maximum": 3}, "maximum"),
        ({"groups__web__policies": [{**EARLY, "cooldown": "20 min"}]}, "wait"),
        ({"groups__web__policies": [{**EARLY, "window": "15 min", "amount": 8}]}, "window"),
        ({"templates__front__boot_time": "20 min", "groups__web__policies": [{**EARLY, "amount": 8}]}, "boot"),
        ({"templates__front__warm_up": "20 min", "groups__web__policies": [{**EARLY, "amount": 8}]}, "warm-up"),
        ({"groups__web__meters": {"period": "10 min", "delay": "5 min"}}, "metering"),
        ({"groups__web__policies": [{**EARLY, "metric": "backlog", "threshold": 1e6}]}, "threshold"),
        ({"groups__web__policies": [REMOVE]}, "nothing adds"),
        ({"groups__web__mode": "stay"}, "mode"),
        ({"machines__otter-2__quota": 3}, "quota"),
    ],
)
def test_most_of_the_time_went_on(changes, cause):
    (worst, *_) = shortfalls(short(**changes))
    assert worst.parts[0].cause == cause, worst.parts
    assert 21600 <= worst.begin < 21600 + 1200
    assert worst.needed > worst.served


@pytest.mark.parametrize(
    "changes",
    [
        {"groups__web__maximum": 3},
        {"groups__web__policies": [{**EARLY, "cooldown": "20 min"}]},
        {"groups__web__policies": [{**EARLY, "window": "15 min", "amount": 8}]},
        {"groups__web__meters": {"period": "10 min", "delay": "5 min"}},
    ],
)
def test_what_is_to_be_tried_helps(changes):
    (worst, *_) = shortfalls(short(**changes))
    mended = {f"groups__web__{path.replace('.', '__')}": value for path, value in worst.mend.settings.items()}
    after = shortfalls(short(**(changes | mended)))
    assert sum(one.minutes for one in after) < worst.minutes


def test_nothing_short_is_nothing_told():
    assert shortfalls(rehearse(plan(groups__web__start_count=8, groups__web__minimum=8), "web")) == []


@settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plans())
def test_the_parts_are_the_whole(made):
    rehearsal = rehearse(made, "web", 3)
    found = shortfalls(rehearsal)
    minutes = float(rehearsal.result.series["short"].sum()) * rehearsal.clock.tick / 60
    assert sum(one.minutes for one in found) == pytest.approx(minutes, abs=0.01 * (1 + len(found)))
    for one in found:
        assert sum(part.minutes for part in one.parts) == pytest.approx(one.minutes, abs=0.02 * (1 + len(one.parts)))
        assert one.text.endswith("needed")
