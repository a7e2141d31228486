"""What a provider cannot mean is refused by name, whatever it is."""

from contextlib import contextmanager

import pytest

from jostle.live.afar import Afar
from jostle.provider.client import HttpProvider
from jostle.provider.provider import Unusable
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests.plans import ADD, REMOVE, plan
from tests.provider.own import Own
from tests.provider.serving import serving

MADE = plan(days=1 / 24, groups__web__policies=[ADD, REMOVE], groups__web__owned=None)


@contextmanager
def lying(path, lie):
    world = World(MADE, 1)
    with serving(Own(create_standin(world), lambda asked, body: lie(body) if asked.endswith(path) else None)) as url:
        yield url


def told(*place, value):
    """A lie: what stands at a place is said to be something else."""

    def lie(body):
        for step in place[:-1]:
            body = body[step]
        body[place[-1]] = value

    return lie


@pytest.mark.parametrize(
    ("path", "lie", "said"),
    [
        ("/", told("first", value=1e308), "first"),
        ("/", told("first", value=float("nan")), "is not JSON"),
        ("/", told("groups", "web", "period", value=0), "groups.web.period"),
        ("/clock", told("groups", "web", value=1e300), "groups.web"),
        ("/clock", told("pace", value=-1), "pace"),
        ("/counts", told("present", value=10**30), "present"),
        ("/counts", told("found", value=-1), "found"),
        ("/answered", told("readings", "at", value=[]), "readings"),
        ("/answered", told("readings", "values", value=[[[0.0]], []]), "readings"),
        ("/answered", told("counts", "serving", value="many"), "serving"),
        ("/answered", told("time", value=None), "time"),
    ],
)
def test_what_cannot_be_meant_is_refused_by_its_place(path, lie, said):
    with lying(path, lie) as url, pytest.raises(Unusable, match=said):
        Afar(MADE, "web", HttpProvider(url)).go_on(1800.0)


def test_an_instance_in_a_zone_that_was_never_told_is_refused():
    said = "instance 0 of web is in 'elsewhere'"
    with lying("/instances", lambda body: body[0].update(zone="elsewhere")) as url, pytest.raises(Unusable, match=said):
        HttpProvider(url).instances("web")


def test_who_tells_the_truth_is_kept():
    with lying("/nowhere", lambda body: None) as url:
        keeper = Afar(MADE, "web", HttpProvider(url))
        keeper.go_on(1800.0)
        assert keeper.stood.time == 1800.0
