"""What lives in a running service, seen and steered from a terminal."""

import json
from datetime import datetime

import httpx2
import pytest
from pydantic import TypeAdapter
from typer.testing import CliRunner

from jostle.cli.main import app
from jostle.cli.steer import ACTS
from jostle.live.hand import GroupHand
from tests.browser.workbench import served
from tests.patience import PATIENCE


@pytest.fixture(scope="module")
def port(tmp_path_factory):
    with served(tmp_path_factory.mktemp("steered"), with_demo=True) as address:
        begun = {"at": "2025-07-08T00:00", "until": "2025-07-08T10:00", "days": 2}
        httpx2.post(f"{address}/api/plans/1/live", json=begun, timeout=PATIENCE).raise_for_status()
        yield address.rpartition(":")[2]


def run(*words, code=0):
    done = CliRunner().invoke(app, list(map(str, words)))
    assert done.exit_code == code, done.output
    return done.output


def test_the_state_of_all_and_of_one(port):
    told = run("state", "--port", port)
    assert told.startswith("Tue 8 Jul 10:00:00, paused")
    assert "booking-web" in told
    one = json.loads(run("state", "--group", "booking-web", "--port", port, "--json"))
    assert len(one["tiles"]) >= 3
    assert "add-on-cpu: average CPU" in run("state", "--group", "booking-web", "--port", port)


def test_hands_are_laid(port):
    assert run("hand", "booking-web", "set", 20, "--port", port) == "booking-web: count set to 20\n"
    tiles = json.loads(run("state", "--group", "booking-web", "--port", port, "--json"))["tiles"]
    number = next(tile["number"] for tile in tiles if tile["state"] == "serving")
    assert run("hand", "booking-web", "load", number, "--cpu", "80%", "--for", "5min", "--port", port).endswith("for 5 min\n")
    assert "add-on-cpu paused for 30 min" in run(
        "hand", "booking-web", "pause", "--policy", "add-on-cpu", "--for", "30min", "--port", port
    )
    assert "held" in run("hand", "booking-web", "hold", "--port", port)
    assert "left alone" in run("hand", "booking-web", "leave-alone", "--port", port)


def test_numbers_are_written_as_people_write_them_and_limits_said(port):
    assert (
        run("hand", "booking-web", "set", 500, "--port", port)
        == "booking-web: count set to 500; 40 is the most, and so many it is\n"
    )
    assert run("hand", "booking-web", "set", 20, "--port", port) == "booking-web: count set to 20\n"
    assert run("hand", "booking-web", "change-count", "-1", "--port", port) == "booking-web: 1 fewer\n"
    assert run("hand", "booking-web", "change-count", "2", "--port", port) == "booking-web: 2 more\n"


def test_as_json_instants_are_in_iso_and_numbers_numbers(port):
    view = json.loads(run("state", "--port", port, "--json"))
    assert view["now"].startswith("2025-07-08T10:")
    assert datetime.fromisoformat(view["ends"]) > datetime.fromisoformat(view["now"])
    done = json.loads(run("hand", "booking-web", "release", "--json", "--port", port))
    assert (datetime.fromisoformat(done["at"]), done["group"]) == (datetime.fromisoformat(view["now"]), "booking-web")


def test_each_act_is_one_of_the_service():
    known = {tag.replace(" ", "-") for tag in TypeAdapter(GroupHand).json_schema()["discriminator"]["mapping"]}
    assert set(ACTS) <= known


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["hand", "booking-web", "kill", "99999"], "no instance 99999"),
        (["hand", "booking-web", "sing"], "sing: is not done by hand; there is: set, change-count, kill,"),
        (["hand", "quay", "hold"], "no group quay"),
        (["hand", "booking-web", "pause", "--for", "soon"], "soon"),
        (["state", "--plan", "77"], "no plan 77"),
    ],
)
def test_what_cannot_be_is_refused(port, words, said):
    assert said in " ".join(run(*words, "--port", port, code=2).split())


def test_a_service_that_is_not_there_is_said():
    assert "no service answers at 127.0.0.1:9" in " ".join(run("state", "--port", 9, code=2).split())
