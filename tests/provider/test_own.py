"""Providers of another making: few metrics by name, another order, moods, a clock that nobody can tell anything."""

import json
import runpy
from contextlib import contextmanager
from pathlib import Path
from threading import Event, Thread

import pytest
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.formats.plan_file import read_plan_file
from jostle.live.afar import Afar, BegunAnew
from jostle.live.patience import LetGo, Patience
from jostle.provider.client import HttpProvider
from jostle.provider.provider import AMISS, Refused
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests.patience import PATIENCE
from tests.plans import ADD, REMOVE, plan
from tests.provider.own import Own, readings_in
from tests.provider.serving import serving
from tests.provider.test_afar import lively, same

HOUR = 3600.0
DOCS = Path(__file__).parents[2] / "docs"
RACK = DOCS / "example-rack.yaml"


@contextmanager
def rack():
    with serving(runpy.run_path(str(DOCS / "example_provider.py"))["create"]()) as url:
        yield url


def test_the_example_is_kept_from_a_terminal_by_its_one_metric():
    with rack() as url:
        kept = CliRunner().invoke(app, ["live", str(RACK), "--days", "0.05", "--provider", url])
        assert kept.exit_code == 0, kept.output
        assert "from 2 to 3: more" in kept.output
        told = CliRunner().invoke(app, ["live", str(RACK), "--days", "0.06", "--provider", url, "--json"])
    found = json.loads(told.stdout)["rack"]
    assert found["wanted"] >= 3
    assert found["load"]["arrived"] == pytest.approx(0.06 * 86400 * 120, rel=0.02)


@pytest.mark.parametrize(
    ("metrics", "said"),
    [
        (["backlog"], "does not measure cpu, by which add goes; it measures backlog"),
        ([], "it measures nothing"),
        ([{"name": "cpu", "unit": "number"}], "tells cpu as a number; add goes by a share"),
        ([{"name": "cpu", "kind": "counter"}], "tells cpu as counted up; add goes by a share"),
    ],
)
def test_what_a_policy_needs_and_is_not_measured_is_refused_by_name(metrics, said):
    made = plan(groups__web__policies=[ADD, REMOVE])

    def change(path, told):
        if path == "/":
            told["groups"]["web"]["metrics"] = metrics

    with serving(Own(create_standin(World(made)), change)) as url, pytest.raises(Refused, match=said):
        Afar(made, "web", HttpProvider(url))


def test_metrics_and_zones_in_another_order_and_fewer_of_them_come_to_the_same():
    made, known = lively(), {}

    def change(path, told):
        if path == "/":
            note = told["groups"]["web"]
            names = [one["name"] for one in note["metrics"]]
            known["rows"] = [names.index("free_seats"), names.index("arrivals"), names.index("cpu")]
            note["metrics"] = ["free_seats", {"name": "arrivals", "unit": "rate"}, {"name": "cpu"}, "a-thing-of-ours"]
            note["zones"].reverse()
        readings = readings_in(path, told)
        if readings:
            number = len(readings["metered"])
            readings["values"] = [[*(rows[k] for k in known["rows"]), [1e9] * number] for rows in readings["values"]]

    with serving(Own(create_standin(World(made)), change)) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.go_on(3 * HOUR)
        same(kept.figures(), made)


PLAIN = [(b"content-type", b"text/plain")]
MOODS = [
    (500, PLAIN, b"Traceback (most recent call last)"),
    (429, [*PLAIN, (b"retry-after", b"0.2")], b"later"),
    (200, PLAIN, b"<html>busy</html>"),
    (200, PLAIN, b'{"time": "soon"}'),
    (200, PLAIN, b"[[1, 2]]"),
    (409, PLAIN, b"not in the mood"),
    (503, PLAIN, b""),
]


@pytest.mark.parametrize("mood", MOODS)
@pytest.mark.parametrize("path", ["/clock", "/groups/web/counts", "/groups/web/answered", "/groups/web/more"])
def test_whatever_it_answers_for_a_while_it_is_kept_as_if_it_had_not(mood, path):
    made, told = lively(), []
    with serving(odd := Own(create_standin(World(made)), meant=lambda method, asked: asked == path)) as url:
        kept = Afar(made, "web", HttpProvider(url), patience=Patience(3 * PATIENCE, told.append, bears=AMISS))
        for hour in (1, 2, 3):
            # More often than it is asked again at once
            odd.moods += [mood] * 4
            kept.go_on(hour * HOUR)
        assert not odd.moods or path == "/groups/web/more"
        same(kept.figures(), made)
    assert told


def test_a_refusal_says_what_was_asked_and_the_status():
    made = lively()
    with serving(Own(create_standin(World(made)), moods=[MOODS[0]] * 9)) as url, pytest.raises(ConnectionError) as lost:
        HttpProvider(url).describe()
    assert "answers GET / with status 500" in str(lost.value)


def test_one_in_real_time_is_kept_as_it_goes_and_asked_nothing_that_it_cannot():
    made = lively()
    world = World(made)

    def change(path, told):
        if path == "/":
            told["can"] = [one for one in told["can"] if one not in ("clock", "decisions", "figures")]

    with serving(own := Own(create_standin(world), change)) as url:
        world.set_clock(None, 3600)
        kept = Afar(made, "web", HttpProvider(url), patience=Patience(3 * PATIENCE, bears=AMISS))
        kept.go_on(3 * HOUR - kept.every)
        assert kept.figures() is None
        assert kept.provider.load("web").arrived > 0
    asked = {one for one in own.asked if one[0] == "POST"}
    assert asked <= {("POST", f"/groups/web/{act}") for act in ("answered", "more", "fewer")} | {
        one for one in asked if "/instances/" in one[1]
    }
    assert any(": add" in said for _, said in kept.lines)


def test_a_clock_that_goes_back_is_noticed_with_both_sides():
    made, back = lively(), Event()

    def change(path, told):
        if back.is_set() and path == "/clock":
            told["groups"]["web"] = 600.0

    with serving(Own(create_standin(World(made)), change)) as url:
        kept = Afar(made, "web", HttpProvider(url))
        kept.go_on(HOUR)
        back.set()
        with pytest.raises(BegunAnew, match="went back, from Mon 7 Jul 01:00:00 to Mon 7 Jul 00:10:00"):
            kept.go_on(2 * HOUR)


def test_letting_go_ends_a_keeper_whatever_its_provider_answers():
    made = lively()
    with serving(own := Own(create_standin(World(made)))) as url:
        patience = Patience(3 * PATIENCE, bears=AMISS)
        kept = Afar(made, "web", HttpProvider(url), patience=patience)
        own.moods = [(429, [*PLAIN, (b"retry-after", b"3600")], b"")] * 1000
        keeping = Thread(target=pytest.raises, args=(LetGo, kept.keep_on), daemon=True)
        keeping.start()
        while len(own.moods) == 1000:
            Event().wait(0.01)
        patience.over.set()
        kept.provider.close()
        keeping.join(PATIENCE)
        assert not keeping.is_alive()


def test_the_plan_beside_the_example_is_sound():
    assert read_plan_file(RACK).groups["rack"].policies
