"""The kit keeps with those who keep their promises, and names what those break who do not."""

import json
import runpy
import time
from pathlib import Path

import httpx2
import pytest
from fastapi import Request, Response
from typer.testing import CliRunner

from jostle.cli.main import app as cli
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.life import Life
from jostle.provider.kit import PROMISES, check_provider
from jostle.provider.provider import Refused
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests.patience import PATIENCE
from tests.plans import plan
from tests.provider.own import Own, readings_in
from tests.provider.serving import free_port, serving
from tests.provider.test_afar import aboard

EXAMPLE = Path(__file__).parents[2] / "docs" / "example_provider.py"
SETTINGS = {"days": 1, "groups__web__minimum": 3, "groups__web__maximum": 20, "groups__web__drain": "2 min"}


def standin(world=World):
    return create_standin(world(plan(**SETTINGS)))


def test_the_stand_in_keeps_every_promise():
    with serving(standin()) as url:
        cases = check_provider(url)
    assert [case.broken for case in cases if case.broken] == []
    assert [case.skipped for case in cases if case.skipped] == []
    assert len(cases) == len(PROMISES) > 15


@pytest.mark.parametrize("tried", ["deck", "chat"])
def test_a_host_and_its_guests_keep_them_too(tried):
    made = aboard(24)
    names = sorted(made.groups, key=lambda name: name != tried)
    with serving(create_standin(World(made.model_copy(update={"groups": {name: made.groups[name] for name in names}})))) as url:
        cases = check_provider(url)
    assert [case.broken or case.skipped for case in cases] == [None] * len(PROMISES)


def test_what_lives_embedded_keeps_them_too():
    life = Life(plan(**SETTINGS), "web", 1, 1, Rehearser())
    world = World(plan(**SETTINGS))
    world.place("web").ground = life.ground
    with serving(create_standin(world)) as url:
        cases = check_provider(url)
        told = httpx2.get(f"{url}/groups/web/counts", timeout=PATIENCE).json()
    assert [case.broken or case.skipped for case in cases] == [None] * len(PROMISES)
    counts = life.provider.counts("web")
    assert {name: told[name] for name in ("present", "serving", "found")} == {
        "present": counts.present,
        "serving": counts.serving,
        "found": counts.found,
    }
    assert [one.number for one in life.provider.instances("web")], "none is left to keep"
    number = counts.present
    for _ in range(2):
        life.provider.more("web", "twice", 1, -1)
    assert life.provider.counts("web").present == number + 1
    with pytest.raises(Refused, match=r"instance \d+ is asked|no fault of instance"):
        life.provider.mend("web", "sound", life.provider.instances("web")[-1].number, True)


def test_the_example_keeps_all_that_it_says_it_can():
    with serving(runpy.run_path(str(EXAMPLE))["create"]()) as url:
        cases = check_provider(url)
    assert [case.broken for case in cases if case.broken] == []
    assert sum(case.skipped is not None for case in cases) <= 3
    assert len(EXAMPLE.read_text().splitlines()) < 200


def forgets(app):
    """Does an order again that comes again."""

    @app.middleware("http")
    async def _(request: Request, go_on):
        body = await request.body()
        if b'"key"' in body:
            request._body = body.replace(b'"key":"kit', f'"key":"{time.time_ns()} kit'.encode()).replace(
                b'"key": "kit', f'"key": "{time.time_ns()} kit'.encode()
            )
        return await go_on(request)


class Swallowing(World):
    """Leaves every third event out when it is asked to go on."""

    def happened(self, group, since):
        return (one for one in super().happened(group, since) if since == 0 or one[0] % 3)


def dawdles(app):
    """Takes its time with every order."""

    @app.middleware("http")
    async def _(request: Request, go_on):
        if request.url.path.endswith("/load"):
            time.sleep(2.2)
        return await go_on(request)


def lies(app):
    """Says that all serve."""

    @app.middleware("http")
    async def _(request: Request, go_on):
        answer = await go_on(request)
        if not request.url.path.endswith("/instances"):
            return answer
        told = json.loads(b"".join([part async for part in answer.body_iterator]))
        return Response(json.dumps([one | {"state": "serving"} for one in told]), media_type="application/json")


@pytest.mark.parametrize(
    ("spoiled", "promise", "said"),
    [
        (forgets, "An order that is given again under its key is done once", "one more was asked for three times under one key"),
        (Swallowing, "Events are CloudEvents 1.0, and go on after Last-Event-ID with none missing", "there came"),
        (dawdles, "Every answer comes within two seconds", "GET /groups/web/load took 2."),
        (
            lies,
            "An instance is asked for, boots, warms up and serves, in this order",
            "it serves at the instant at which it was asked for",
        ),
    ],
)
def test_a_broken_promise_is_found_and_named(spoiled, promise, said):
    app = standin(spoiled) if spoiled is Swallowing else standin()
    if spoiled is not Swallowing:
        spoiled(app)
    with serving(app) as url:
        cases = check_provider(url)
    found = {case.promise: case.broken for case in cases if case.broken}
    broken = next((why for name, why in found.items() if name.startswith(promise)), None)
    assert broken is not None, found
    assert said in broken


def unmeasured(value):
    """Readings are of one value throughout, null or 0."""

    def change(path, told):
        readings = readings_in(path, told)
        if readings:
            readings["values"] = [[[value] * len(row) for row in rows] for rows in readings["values"]]

    return change


def renamed(path, told):
    if path == "/":
        for note in told["groups"].values():
            note["metrics"] = [f"our-{one['name']}" for one in note["metrics"]]


def one_missing(path, told):
    if path.endswith("/readings"):
        told["values"] = [rows[:-1] for rows in told["values"]]


def behind_its_clock(path, told):
    if path.endswith("/counts"):
        told["time"] -= 30.0


def never_healthy(path, told):
    if path.endswith("/instances"):
        for one in told:
            if (one["requested"] or 0) > 0 and one["state"] == "serving":
                one.update(state="warming", serves=None)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (unmeasured(None), "are null throughout"),
        (unmeasured(0.0), "and every reading is 0"),
        (renamed, "a plan knows none of its metrics, our-cpu"),
        (one_missing, "it has told 23 metrics, and readings have 22"),
        (behind_its_clock, "s, and the counts"),
        (never_healthy, "still is warming"),
    ],
)
def test_whoever_lies_in_what_it_tells_is_found(change, said):
    with serving(Own(standin(), change)) as url:
        broken = [case.broken for case in check_provider(url) if case.broken]
    assert any(said in one for one in broken), broken


def test_from_a_terminal(tmp_path):
    report = tmp_path / "kit.xml"
    with serving(standin()) as url:
        done = CliRunner().invoke(cli, ["provider", "check", url, "--json", "--junit", str(report)])
        assert done.exit_code == 0, done.output
        cases = json.loads(done.stdout)
        assert all(case["broken"] is None for case in cases)
        assert report.read_text().count("<testcase") == len(cases)
    app = standin()
    lies(app)
    with serving(app) as url:
        done = CliRunner().invoke(cli, ["provider", "check", url])
    assert done.exit_code == 1
    assert "broken  An instance is asked for" in done.stdout


def test_where_nothing_answers_that_speaks_the_protocol_it_says_so():
    done = CliRunner().invoke(cli, ["provider", "check", f"http://127.0.0.1:{free_port()}"])
    assert done.exit_code == 2
    assert "cannot be reached" in done.output
    app = standin()

    @app.middleware("http")
    async def _(request: Request, go_on):
        return Response(json.dumps({"protocol": "jostle-provider", "version": 7}), media_type="application/json")

    with serving(app) as url:
        done = CliRunner().invoke(cli, ["provider", "check", url])
    assert done.exit_code == 2
    assert "speaks version 7 of jostle-provider; this keeper speaks version 1" in done.output.replace("\n", " ")
