"""What is brought is read within limits that are said, and never takes long to be refused."""

import json
import os
import time
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from jostle.formats.calendar_ics import read_calendar
from jostle.formats.plan_file import read_plan_file, read_plan_text
from jostle.formats.series_error import SeriesError
from jostle.formats.series_file import read_series_file
from jostle.formats.shipped import demo_plan
from tests.patience import SLOWNESS
from tests.plans import data, plan

UTC = ZoneInfo("UTC")
BOMB = "a: &a [x,x,x,x,x,x,x,x,x,x]\n" + "".join(
    f"{name}: &{name} [{','.join([f'*{before}'] * 10)}]\n" for before, name in zip("abcdefgh", "bcdefghi", strict=True)
)
TEXTS = {
    "aliases": (BOMB, "more than 100,000 values, aliases counted"),
    "unknown keys": (json.dumps({f"k{n}": n for n in range(60_000)}), "more things are wrong"),
    "brackets": ("{" * 100_000, "nested too deeply"),
    "json brackets": ('{"a":' * 100_000, "nested too deeply"),
    "indentation": ("\n".join(" " * (4 * n) + "a:" for n in range(120)), "nested too deeply"),
    "long yaml": ("a: b\n" * 200_000, "write it as JSON"),
    "long": ("{" + " " * 17_000_000, "longer than 16 MiB"),
    "a number": ("jostle: !!int abc", "cannot be read"),
    "digits": (json.dumps({"jostle": 1})[:-1] + ', "days": ' + "9" * 5000 + "}", "not valid YAML or JSON"),
    "not a number": ('{"days": NaN}', "NaN is no number"),
}


@pytest.mark.parametrize("name", TEXTS)
def test_a_plan_that_would_take_long_is_refused_soon(name):
    text, said = TEXTS[name]
    began = time.process_time()
    with pytest.raises(PlanError, match=said) as refused:
        read_plan_text(text)
    assert time.process_time() - began < 5 * SLOWNESS
    assert len(str(refused.value)) < 20_000


def test_a_plan_as_json_is_read_by_a_reader_of_json(tmp_path):
    document = demo_plan().model_dump_json()
    assert len(document) > 100_000
    began = time.process_time()
    read = read_plan_text(document)
    assert time.process_time() - began < SLOWNESS
    assert read.groups == demo_plan().groups


def test_json_still_knows_the_line_of_what_is_wrong():
    text = json.dumps(data(groups__web__minimum=-3), indent=1)
    line = next(n for n, one in enumerate(text.splitlines(), 1) if '"minimum"' in one)
    with pytest.raises(PlanError, match=f"line {line}: groups.web.minimum"):
        read_plan_text(text)


@pytest.mark.parametrize("file", ["../secret.csv", "/etc/passwd", "inside/../../secret.csv", "link.csv"])
def test_a_plan_reads_no_file_outside_its_folder(tmp_path, file):
    folder = tmp_path / "plans"
    folder.mkdir()
    (tmp_path / "secret.csv").write_text("time,requests\nsecret,1\n")
    (folder / "link.csv").symlink_to(tmp_path / "secret.csv")
    document = data(demands__even={"layers": [{"kind": "brought", "file": file}]})
    (folder / "plan.json").write_text(json.dumps(document))
    with pytest.raises(PlanError, match="lies outside the folder of the plan") as refused:
        read_plan_file(folder / "plan.json")
    assert "secret,1" not in str(refused.value)


def test_a_plan_reads_no_device_and_no_folder(tmp_path):
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "folder.csv").mkdir()
    for file in ("pipe.csv", "folder.csv"):
        (tmp_path / "plan.json").write_text(json.dumps(data(demands__even={"layers": [{"kind": "brought", "file": file}]})))
        with pytest.raises(PlanError, match="is not a file"):
            read_plan_file(tmp_path / "plan.json")


def event(more: str) -> bytes:
    body = f"BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nSUMMARY:at least 3\n{more}\nEND:VEVENT\nEND:VCALENDAR\n"
    return body.encode()


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (event("DTSTART:20250707T080000\nDURATION:PT1H\nX-LONG:" + "a" * 900_000), "a line of more than 20,000 characters"),
        (event("DTSTART:20250707T080000\nDURATION:PT1H\n" + "X-MANY:a\n" * 200_000), "longer than 1024 KiB"),
        (event("DTSTART;TZID=Mars/Base:20250707T080000\nDURATION:PT1H"), "is not a time zone that is known"),
        (event("DTSTART:20250707T080000\nDURATION:PT1H\nRRULE:FREQ=DAILY;INTERVAL=0"), "INTERVAL"),
        (event("DTSTART:20250707T080000\nDURATION:PT1H\nRRULE:FREQ=SECONDLY"), "too often"),
        (event("DTSTART:00010101T080000\nDURATION:PT1H\nRRULE:FREQ=HOURLY"), "between the years 1970 and 2199"),
    ],
)
def test_a_calendar_that_would_take_long_is_refused_soon(content, said):
    began = time.process_time()
    with pytest.raises(PlanError, match=said):
        read_calendar(content, UTC)
    assert time.process_time() - began < 5 * SLOWNESS


def test_a_rehearsal_that_would_not_fit_is_refused_with_a_step_that_does():
    with pytest.raises(PlanError, match=r"tick: \"1 s\": would take 3,\d+ MiB .* more than 512 MiB; a step of 10 s would do"):
        rehearse(plan(days=400, tick="1 s"), "web")


@settings(max_examples=60)
@given(st.one_of(st.binary(max_size=400), st.text(alphabet='{}[]:,"-#&*!|> \n\tabc123.e', max_size=300).map(str.encode)))
def test_any_bytes_are_read_or_refused_in_words(content):
    readers = (
        lambda: read_plan_text(content.decode("utf-8", "replace")),
        lambda: read_calendar(content, UTC),
        lambda: read_series_file(content, UTC, "requests", "line", None, None),
    )
    for reader in readers:
        with pytest.raises((PlanError, SeriesError)) as refused:
            reader()
        assert str(refused.value)
