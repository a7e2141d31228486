"""Exchanges with servers as they should not be end in time, within their size, with a word that says why."""

import threading
import time
import tracemalloc

import pytest

from jostle.exchange import MOST_BYTES, BadAnswer, Line, NoAnswer
from tests import hostile as servers
from tests.hostile import hostile
from tests.patience import PATIENCE


@pytest.fixture
def line_to():
    lines = []

    def to(url, patience=PATIENCE):
        lines.append(Line(url, patience))
        return lines[-1]

    yield to
    for line in lines:
        line.close()


@pytest.mark.parametrize("server", servers.SLOW)
def test_a_slow_one_is_given_up_after_so_long_in_all(server, line_to):
    with hostile(server) as url:
        began = time.monotonic()
        with pytest.raises(NoAnswer, match=r"no whole answer within 0\.5 s"):
            line_to(url, 0.5).ask("GET", "/")
        assert 0.5 <= time.monotonic() - began < PATIENCE


def test_an_endless_one_is_left_as_soon_as_it_is_too_long(line_to):
    with hostile(servers.endless) as url:
        tracemalloc.start()
        with pytest.raises(BadAnswer, match="is longer than 8 MiB"):
            line_to(url).ask("GET", "/")
        most = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
    assert most < 3 * MOST_BYTES


def test_little_that_unpacks_to_much_is_left_as_soon(line_to):
    servers.bomb()
    with hostile(servers.bomb) as url:
        tracemalloc.start()
        with pytest.raises(BadAnswer, match="is longer than 8 MiB"):
            line_to(url).ask("GET", "/")
        most = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
    assert most < 4 * MOST_BYTES


@pytest.mark.parametrize(
    ("server", "said"),
    [
        (servers.bad_gzip, "is no gzip"),
        (servers.cut_gzip, "ends in the middle of its gzip"),
        (servers.other_packing, "is packed as br"),
        (servers.deep, "depth limit"),
        (servers.not_json, "is not JSON"),
    ],
)
def test_what_cannot_be_read_is_said(server, said, line_to):
    with hostile(server) as url, pytest.raises(BadAnswer, match=said):
        line_to(url).ask("GET", "/").told()


def test_nobody_is_followed_elsewhere(line_to):
    with hostile(servers.redirect) as url:
        assert line_to(url).ask("GET", "/").status == 302


def test_only_the_status_is_read_where_only_that_is_wanted(line_to):
    with hostile(servers.dripping_body) as url:
        assert line_to(url, 5.0).status("GET", "/") == 200


def test_a_line_that_is_closed_breaks_off_what_is_under_way(line_to):
    with hostile(servers.silent) as url:
        line, ended = line_to(url), []

        def ask():
            with pytest.raises(NoAnswer, match="nothing is asked any more"):
                line.ask("GET", "/")
            ended.append(True)

        asking = threading.Thread(target=ask)
        asking.start()
        while not line._open:
            pass
        line.close()
        asking.join(PATIENCE)
        assert ended


@pytest.mark.parametrize("server", [servers.silent, servers.redirect])
def test_a_line_that_was_closed_asks_nothing(line_to, server):
    with hostile(server) as url:
        line = line_to(url)
        line.close()
        for _ in range(50):
            with pytest.raises(NoAnswer, match="nothing is asked any more"):
                line.ask("GET", "/")


def test_a_slow_one_holds_up_no_other(line_to):
    with hostile(servers.silent) as slow, hostile(servers.redirect) as quick:
        waiting = line_to(slow)

        def ask():
            with pytest.raises(NoAnswer):
                waiting.ask("GET", "/")

        threads = [threading.Thread(target=ask) for _ in range(20)]
        for one in threads:
            one.start()
        assert line_to(quick).ask("GET", "/").status == 302
        waiting.close()
        for one in threads:
            one.join(PATIENCE)
            assert not one.is_alive()
