"""Each check by a plan that it should notice, one that it should not, and its mend."""

import re
from pathlib import Path

import pytest

from jostle.core import checks
from jostle.core.checks.check import check
from jostle.core.checks.finding import MEANINGS
from jostle.core.checks.swing import after
from jostle.core.plan.metric import Metric
from jostle.core.plan.setting import with_setting
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import ADD, HOLD, REMOVE, data, plan

SOUND = [{**ADD, "threshold": "80 %"}, {**REMOVE, "threshold": "20 %"}]


def found(policies, **settings):
    rehearsal = rehearse(plan(groups__web__policies=policies, **settings), "web")
    return check(rehearsal, rehearsal.bounds)


def codes(policies, **settings):
    return {finding.code for finding in found(policies, **settings)}


def one(code, policies, **settings):
    return next(finding for finding in found(policies, **settings) if finding.code == code)


def mended(code, policies, **settings):
    """The findings that are left once the mend of one has been applied."""
    document = data(groups__web__policies=policies, **settings)
    for path, value in one(code, policies, **settings).mend.settings.items():
        document = with_setting(document, f"groups.web.{path}", value)
    rehearsal = rehearse(type(plan()).model_validate(document), "web")
    return {finding.code for finding in check(rehearsal, rehearsal.bounds)}


def test_every_code_that_a_check_may_give_has_a_meaning():
    """Reports name rules by what their codes mean; one without would have none to name."""
    sources = [path.read_text() for path in Path(checks.__file__).parent.glob("*.py")]
    codes = {code for source in sources for code in re.findall(r'code="([a-z-]+)"', source)}
    assert len(codes) > 50
    assert codes <= set(MEANINGS)


def test_every_finding_has_a_meaning_and_a_path_that_leads_somewhere():
    for finding in found([{**ADD, "side": "below"}, {**REMOVE, "side": "above"}], groups__web__minimum=0):
        assert finding.code in MEANINGS
        assert finding.text.endswith(".")


@pytest.mark.parametrize(("policy", "right"), [({**ADD, "side": "below"}, "above"), ({**REMOVE, "side": "above"}, "below")])
def test_a_comparison_that_points_the_wrong_way(policy, right):
    finding = one("wrong-side", [policy])
    assert finding.severity == "error"
    assert finding.mend.settings == {f"policies.{policy['name']}.side": right}
    assert "wrong-side" not in mended("wrong-side", [policy])
    assert "wrong-side" not in codes(SOUND)


def test_adding_without_removing_and_the_reverse():
    assert "adds-only" in codes([ADD])
    assert "adds-only" in codes([{**HOLD, "may_remove": False}])
    assert "removes-only" in codes([REMOVE])
    assert {"adds-only", "removes-only"}.isdisjoint(codes(SOUND) | codes([HOLD]) | codes([]))
    assert "adds-only" in codes([ADD, {**REMOVE, "paused": True}])


def test_zero_instances_with_a_metric_that_needs_one():
    assert one("zero-trap", SOUND, groups__web__minimum=0).severity == "error"
    assert "zero-trap" not in mended("zero-trap", SOUND, groups__web__minimum=0)
    rescue = {**ADD, "name": "rescue", "metric": "backlog", "threshold": 10}
    assert "zero-trap" not in codes([*SOUND, rescue], groups__web__minimum=0)
    assert "zero-trap" not in codes(SOUND)


def test_thresholds_that_cross():
    crossed = [{**ADD, "threshold": "40 %"}, {**REMOVE, "threshold": "50 %"}]
    assert one("thresholds-cross", crossed).severity == "error"
    assert "thresholds-cross" not in mended("thresholds-cross", crossed)


def test_an_addition_that_its_removal_undoes():
    # At 1 instance, adding 1 halves 70 % to 35 %, which is below 40 %; from 2 on it stays above (46.7 %).
    pair = [ADD, {**REMOVE, "threshold": "40 %"}]
    finding = one("swing", pair)
    assert finding.text == (
        "At 1 instance, adding 1 lowers CPU from 70 % to 35 %, which is below 40 %: the removal undoes it. So at 1."
    )
    assert finding.mend.settings == {"policies.remove.threshold": 0.34}
    assert "swing" not in mended("swing", pair)
    assert "swing" not in codes(SOUND)


def test_a_removal_that_calls_for_its_return():
    pair = [{**ADD, "threshold": "65 %"}, {**REMOVE, "threshold": "40 %", "amount": 4}]
    texts = [finding.text for finding in found(pair, groups__web__minimum=1) if finding.code == "swing"]
    assert any("removing 4 lifts CPU from 40 % to 200 %" in text for text in texts)


def test_the_idle_share_of_cpu_does_not_spread_over_more_instances():
    assert after(Metric.CPU, 0.55, 1, 2, 0.05) == pytest.approx(0.30)
    assert after(Metric.REQUESTS_PER_INSTANCE, 20, 2, 4, 0.05) == 10


def test_a_wait_that_ends_before_the_new_instance_shows():
    # Boot 100 s, warm-up 50 s, meter 60 s + 30 s: 240 s.
    short = [{**ADD, "cooldown": "3 min"}, REMOVE]
    assert one("wait-short", short).mend.settings == {"policies.add.cooldown": 240.0}
    assert "wait-short" not in mended("wait-short", short)
    assert "wait-short" not in codes(short, groups__web__cooldown="4 min")


def test_a_window_shorter_than_the_period():
    assert "window-short" in codes([{**ADD, "window": "30 s"}])
    assert "window-short" not in mended("window-short", [{**ADD, "window": "30 s"}])


def test_policies_that_never_or_always_act_or_cannot_see():
    assert "never-acts" in codes([{**ADD, "threshold": "99 %"}], groups__web__minimum=3)
    assert "always-acts" in codes([{**ADD, "threshold": "10 %"}])
    assert "always-acts" not in codes([{**REMOVE, "threshold": "99 %"}], groups__web__minimum=3)
    idle = {"demands__even__layers": [{"kind": "level", "rate": 0}]}
    assert "no-data" in codes([{**ADD, "metric": "latency_p95", "threshold": "1 s"}], **idle)
    assert {"never-acts", "always-acts", "no-data"}.isdisjoint(codes([HOLD]))


def test_a_maximum_that_holds_the_count_down_while_requests_wait():
    finding = one("maximum-short", [ADD], groups__web__maximum=1)
    assert finding.at == 120
    assert "maximum-short" not in codes([ADD])


def test_a_promise_that_no_count_keeps():
    hopeless = [{"kind": "answers", "share": "99 %", "within": "20 ms"}]
    found = one("promise-hopeless", [], groups__web__promises=hopeless)
    assert found.path == "promises.0.within"
    assert "it is about the slowest answers" in found.text
    within = found.mend.settings["promises.0.within"]
    assert "promise-hopeless" not in codes([], groups__web__promises=[{**hopeless[0], "within": within}])
    assert "promise-hopeless" not in codes([], groups__web__promises=[{"kind": "answers", "share": "90 %", "within": "2 s"}])
