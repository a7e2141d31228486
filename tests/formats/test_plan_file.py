import json
import re
from datetime import UTC

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.plan.plan import read_plan
from jostle.core.plan.problem import PlanError
from jostle.formats.json_lines import json_lines
from jostle.formats.plan_file import PlanFileError, read_plan_file, read_plan_text, write_plan
from jostle.formats.shipped import demo_plan
from tests.plans import ADD, data

YAML_PLAN = """\
jostle: 1
name: Quay
time_zone: Atlantic/Faroe
start: 2025-07-07T00:00
machines:
  otter-2: {vcpus: 2, memory_gib: 8, price_per_hour: 0.36}
templates:
  front:
    machine: otter-2
    boot_time: 100 s
demands:
  even:
    layers:
      - {kind: level, rate: 30/s}
groups:
  web:
    template: front
    minimum: 1
    maximum: 10
    demand: even
    work: {kind: requests, cpu_seconds: 100 ms}
    policies:
      - name: add
        kind: trigger
        metric: cpu
        side: above
        threshold: 70 %
        action: add
        amount: 1
"""


def faults(text, **more):
    with pytest.raises(PlanFileError) as caught:
        read_plan_text(text, "quay.yaml", **more)
    return [(p.line, p.place, p.message) for p in caught.value.problems]


def test_yaml_and_json_give_the_same_plan():
    document = data()
    assert read_plan_text(json.dumps(document)) == read_plan_text(json.dumps(document, indent="\t"))
    assert read_plan_text(YAML_PLAN).groups["web"].policies[0].threshold == 0.7


def test_an_error_names_line_path_value_and_what_would_be_right():
    text = YAML_PLAN.replace("threshold: 70 %", "threshold: 70").replace("template: front\n", "template: frint\n")
    with pytest.raises(PlanFileError) as caught:
        read_plan_text(text, "quay.yaml")
    assert str(caught.value).splitlines() == [
        'quay.yaml: line 17: groups.web.template: "frint": no launch template has this name; there is: front',
        "quay.yaml: line 27: groups.web.policies.0.threshold: 70: a share lies between 0 % and 100 %; did you mean 70 %?",
    ]


def test_a_missing_field_is_placed_at_what_lacks_it():
    assert faults(YAML_PLAN.replace("    maximum: 10\n", "")) == [(16, "groups.web.maximum", "is missing and has no default")]


def test_a_key_that_stands_twice():
    assert faults(YAML_PLAN.replace("    minimum: 1\n", "    minimum: 1\n    minimum: 2\n"))[0] == (
        19,
        "groups.web.minimum",
        "stands here twice; keep one",
    )


@pytest.mark.parametrize("text", ["", "- 1", "just words", "{", "a: [1, 2", "a: b: c", "&x [*x]", "\x01"])
def test_what_is_no_plan_at_all_is_said_plainly(text):
    found = faults(text)
    assert found
    assert any(word in found[0][2] for word in ("mapping", "not valid YAML or JSON", "nested too deeply"))


def test_dates_and_words_keep_their_meaning():
    read = read_plan_text(YAML_PLAN.replace("name: Quay", "name: on").replace("2025-07-07T00:00", "2025-07-07 06:30"))
    assert read.name == "on"
    assert read.start.astimezone(UTC).isoformat() == "2025-07-07T05:30:00+00:00"


def test_settings_replace_values_by_path():
    read = read_plan_text(YAML_PLAN, settings={"groups.web.policies.add.threshold": "80 %", "groups.web.maximum": 7})
    assert read.groups["web"].policies[0].threshold == 0.8
    assert read.groups["web"].maximum == 7


def test_a_brought_series_is_read_from_beside_the_plan(tmp_path):
    (tmp_path / "week.csv").write_text("time,requests_per_second\n2025-07-07T00:00Z,5\n2025-07-07T00:01Z,7\n")
    text = YAML_PLAN.replace("{kind: level, rate: 30/s}", "{kind: brought, file: week.csv}")
    (tmp_path / "quay.yaml").write_text("\ufeff" + text, encoding="utf-8")
    layer = read_plan_file(tmp_path / "quay.yaml").demands["even"].layers[0]
    assert layer.samples.rates == [5, 7]


def test_faults_of_a_brought_file_come_with_the_others(tmp_path):
    (tmp_path / "week.csv").write_text("time,requests_per_second\n2025-07-07T00:00Z,five\n2025-07-07T00:01Z,7\n")
    text = YAML_PLAN.replace("{kind: level, rate: 30/s}", "{kind: brought, file: week.csv}").replace("maximum: 10", "maximum: 0")
    found = faults(text, folder=tmp_path)
    assert [line for line, _, _ in found] == [14, 19]
    assert "row 2: requests_per_second" in found[0][2]
    missing = text.replace("week.csv", "weak.csv").replace("maximum: 0", "maximum: 10")
    assert "cannot be opened" in faults(missing, folder=tmp_path)[0][2]


def test_a_file_that_is_not_there_or_not_text(tmp_path):
    with pytest.raises(PlanFileError, match="no such file"):
        read_plan_file(tmp_path / "none.yaml")
    (tmp_path / "odd.yaml").write_bytes(b"name: \xff")
    with pytest.raises(PlanFileError, match="not UTF-8"):
        read_plan_file(tmp_path / "odd.yaml")


def test_the_demo_plan_is_read():
    plan = demo_plan()
    assert plan.groups["booking-web"].demand == "summer-week"
    assert {group.work.kind for group in plan.groups.values()} == {"requests", "jobs", "sessions", "hosting"}


def test_an_outside_metric_is_read_from_its_file(tmp_path):
    plan = data(
        outside={"tide": {"file": "tide.csv"}},
        groups__web__policies=[{**ADD, "metric": "outside", "series": "tide", "threshold": 5}],
    )
    (tmp_path / "tide.csv").write_text("time,height\n2025-07-07T00:00,2\n2025-07-07T01:00,6\n2025-07-07T03:00,1\n")
    path = tmp_path / "quay.json"
    path.write_text(json.dumps(plan))
    samples = read_plan_file(path).outside["tide"].samples
    assert (samples.step, samples.rates) == (3600, [2, 6, 6, 1])
    (tmp_path / "tide.csv").unlink()
    with pytest.raises(PlanFileError, match=r"outside.tide.file: .*cannot be opened"):
        read_plan_file(path)


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        ({"groups__web__version": 3}, "front has versions 1 to 1"),
        ({"groups__web__launch": {"machine": "otter-2"}}, "front version 1 settles this"),
        ({"templates__front": {"boot_time": 60}}, "leaves the machine open; name one: otter-2"),
        ({"templates__front": {"machine": "otter-2"}}, "says how long a boot takes"),
        ({"groups__web__launch": {"subnets": ["nowhere"]}}, "no subnet has this name"),
        ({"groups__web__policies": [{**ADD, "zone": "north"}]}, "the group has no instance there"),
        ({"groups__web__policies": [{**ADD, "metric": "free_seats", "threshold": 3}]}, "requests have no free_seats"),
        ({"groups__web__policies": [{**ADD, "metric": "outside"}]}, "needs series"),
        ({"groups__web__policies": [{"kind": "spare", "name": "s"}]}, "give either share"),
        ({"groups__web__policies": [{**ADD, "bands": [{"beyond": "60 %", "amount": 2}]}]}, "each band lies above"),
        ({"groups__web__promises": [{"kind": "seats", "share": 0.9}]}, "a promise of seats is for sessions"),
        ({"groups__web__owned": 40}, "the number owned cannot be above the maximum of 10"),
        ({"groups__web__calendar": [{"kind": "sleep", "name": "n", "from": "2025-07-07T00:00"}]}, "needs either for"),
        ({"groups__web__hands": [{"kind": "set", "at": "noon", "count": 3}]}, "write a date and time"),
        ({"groups__web__work": {"kind": "sessions", "seats": 4, "length": 15}}, "at least two ticks of 10 s"),
        ({"firewall": {"web": {"ports": [443], "source": "everywhere"}}}, "write an address range"),
    ],
)
def test_what_does_not_fit_is_refused_with_its_place(settings, said):
    with pytest.raises(PlanError, match=re.escape(said)):
        read_plan(data(**settings))


def test_a_plan_that_is_written_reads_back_as_it_was():
    demo = demo_plan()
    assert read_plan_text(write_plan(demo)) == demo


WRITTEN = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.text(st.characters(codec="ascii", min_codepoint=32), max_size=6),
    lambda inside: st.lists(inside, max_size=4) | st.dictionaries(st.text('ab"{}[],: \\', max_size=3), inside, max_size=4),
    max_leaves=20,
)


def places(value, path=()):
    """Every path of plain data, a key or an item each."""
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [found for step, one in inside for found in [(*path, step), *places(one, (*path, step))]]


@given(st.dictionaries(st.text("xyz", max_size=3), WRITTEN, max_size=5), st.sampled_from([None, 0, 2]))
def test_what_is_wrong_in_json_has_the_line_in_which_it_stands(data, indent):
    text = json.dumps(data, indent=indent)
    lines = json_lines(text, 60)
    assert set(lines) == {(), *places(data)}
    rows = text.split("\n")
    for path, line in lines.items():
        if path and isinstance(path[-1], str):
            assert f"{json.dumps(path[-1])}:" in rows[line - 1]
    in_order = [lines[path] for path in places(data)]
    assert in_order == sorted(in_order)


def test_an_error_in_a_long_json_plan_is_told_with_its_line():
    document = data(groups__web__maximum="many")
    document["demands"] = {f"d{k}": document["demands"]["even"] for k in range(400)} | document["demands"]
    text = json.dumps(document, indent=1)
    assert len(text) > 30_000
    with pytest.raises(PlanFileError) as refused:
        read_plan_text(text)
    (problem,) = refused.value.problems
    assert problem.place == "groups.web.maximum"
    assert '"maximum": "many"' in text.split("\n")[problem.line - 1]
