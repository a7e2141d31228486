"""Notices over the API: rules written as sentences, what was told, and what came of sending it."""

import time
from threading import Event

import pytest
from fastapi.testclient import TestClient

from jostle.api import watch_desk
from jostle.api.app import create_app
from jostle.records.store import Store
from jostle.telling.webhook import Outcome
from tests.keeper.test_watching import rushed
from tests.patience import PATIENCE

WATCHING = "/api/plans/1/watching"


@pytest.fixture
def store(tmp_path):
    made = Store(tmp_path / "jostle.sqlite")
    made.add_plan(rushed())
    return made


@pytest.fixture
def service(store):
    return TestClient(create_app(store), base_url="http://127.0.0.1", headers={"If-Match": "*"})


@pytest.fixture
def answers(monkeypatch):
    """What targets answer, one after the other, and then that they took it; what was sent to them."""
    waiting, sent = [], []

    def deliver(url, secret, number, body, private):
        sent.append((url, number))
        return waiting.pop(0) if waiting else Outcome(True, "answered 204")

    monkeypatch.setattr(watch_desk, "deliver", deliver)
    monkeypatch.setattr(watch_desk, "BACK_OFF", (0.01, 0.01))
    return waiting, sent


def changed(service, path, value=None, op="set"):
    return service.post(f"{WATCHING}/changes", json={"op": op, "path": path, "value": value})


def live_until(service, until):
    return service.post("/api/plans/1/live", json={"at": "2025-07-07T00:00", "until": until, "days": 1})


def settled(service):
    """The deliveries, once nothing is on its way; the sender's thread ends then."""
    sender = service.app.state.watch_desk._sender
    if sender is not None:
        sender.join(PATIENCE)
    return service.get(WATCHING).json()["deliveries"]


def sentence(rule):
    return "".join(word["text"] for word in rule["words"])


def test_rules_are_added_changed_and_taken_out(service):
    for kind in ("short", "at_maximum", "overflow", "budget", "differs"):
        assert changed(service, "watches", kind, "add").status_code == 200
    changed(service, "watches.0.for", "90s")
    changed(service, "watches.0.group", "web")
    view = changed(service, "watches.0.quiet", {"from": "9:30 pm", "until": "07:00"}).json()
    assert [sentence(rule) for rule in view["rules"]] == [
        "Tell when web is short of capacity for 90 s, but not from 21:30 to 07:00.",
        "Tell when any group is at its maximum for 5 min.",
        "Tell when any group has overflow for 2 h.",
        "Tell when any group has spent 80 % of a budget.",
        "Tell when any group differs from what was rehearsed by 15 % over an hour.",
    ]
    assert all(word["editor"] for rule in view["rules"] for word in rule["words"] if word["path"])
    assert len(changed(service, "watches.3", op="remove").json()["rules"]) == 4
    assert changed(service, "watches.9", op="remove").status_code == 422
    refused = changed(service, "watches.0.for", "soon").json()
    assert refused["errors"][0]["path"] == "watches.0.for"
    assert changed(service, "watches", "howl", "add").json()["errors"][0]["value"] == '"howl"'


def test_what_comes_to_be_is_told_once_and_again_after_a_restart_not(service, store, answers):
    changed(service, "watches", "short", "add")
    service.post(f"{WATCHING}/targets", json={"url": "https://example.org/notices"})
    live_until(service, "2025-07-07T06:20")
    view = service.get(WATCHING).json()
    assert [one["text"] for one in view["notices"]] == ["web has been short of capacity for 10 min"]
    assert view["notices"][0]["clock"] == "Mon 7 Jul 06:10"
    again = TestClient(create_app(Store(store.path)), base_url="http://127.0.0.1")
    again.post("/api/plans/1/live/steps", json={"by": 7200})
    texts = [one["text"] for one in again.get(WATCHING).json()["notices"]]
    assert len(texts) == 2
    assert texts[0].startswith("web is short of capacity no more")
    settled(service)
    assert [one["done"] for one in settled(again)] == [True, True]
    assert len(answers[1]) == 2
    again.delete("/api/plans/1/live")
    assert again.get(WATCHING).json()["notices"] == []


def test_a_target_that_fails_is_tried_again_and_given_up_in_the_end(service, answers):
    waiting, sent = answers
    waiting += [Outcome(False, "answered 503")] * 2
    changed(service, "watches", "short", "add")
    service.post(f"{WATCHING}/targets", json={"url": "https://example.org/notices"})
    live_until(service, "2025-07-07T06:20")
    (one,) = settled(service)
    assert (one["done"], one["said"], len(sent)) == (True, "answered 204", 3)
    assert len({number for _, number in sent}) == 1
    waiting += [Outcome(False, "answered 503")] * 3
    service.post("/api/plans/1/live/steps", json={"by": 7200})
    last = settled(service)[0]
    assert (last["done"], last["said"], last["again"]) == (False, "answered 503; given up", "")
    assert len(sent) == 6


def test_a_clock_that_is_set_back_holds_up_no_notice(service, answers, monkeypatch):
    waiting, sent = answers
    waiting.append(Outcome(False, "answered 503"))
    real, ahead = time.time, [2 * 365 * 86_400.0]
    monkeypatch.setattr("jostle.core.today.clock", lambda: real() + ahead[0])
    monkeypatch.setattr(watch_desk, "BACK_OFF", (600.0,))
    changed(service, "watches", "short", "add")
    service.post(f"{WATCHING}/targets", json={"url": "https://example.org/notices"})
    live_until(service, "2025-07-07T06:20")
    until = time.monotonic() + PATIENCE
    while service.get(WATCHING).json()["deliveries"][0]["said"] != "answered 503":
        assert time.monotonic() < until
    # It is due two years and ten minutes from now.
    ahead[0] = 0.0
    service.app.state.watch_desk._more.set()
    (one,) = settled(service)
    assert (one["done"], len(sent)) == (True, 2)


def test_a_target_that_takes_long_holds_up_none_of_the_others(service, monkeypatch):
    done, sent = Event(), []

    def deliver(url, secret, number, body, private):
        sent.append(url)
        slow = url.endswith("slow")
        assert not slow or done.wait(PATIENCE)
        return Outcome(True, "answered 204")

    monkeypatch.setattr(watch_desk, "deliver", deliver)
    changed(service, "watches", "short", "add")
    for place in ("slow", "quick"):
        service.post(f"{WATCHING}/targets", json={"url": f"https://example.org/{place}"})
    live_until(service, "2025-07-07T06:20")
    service.post("/api/plans/1/live/steps", json={"by": 7200})
    until = time.monotonic() + PATIENCE
    while sent.count("https://example.org/quick") < 2:
        assert time.monotonic() < until, sent
    assert sent.count("https://example.org/slow") == 1
    done.set()
    assert [one["done"] for one in settled(service)] == [True] * 4


def test_a_target_is_tried_by_hand(service, answers):
    answers[0].append(Outcome(False, "answered 401"))
    view = service.post(f"{WATCHING}/targets", json={"url": "https://example.org/notices"}).json()
    number = view["targets"][0]["number"]
    assert len(view["targets"][0]["secret"]) > 40
    assert service.post(f"{WATCHING}/targets/{number}/trial").json()["said"] == "answered 401; given up"
    assert service.post(f"{WATCHING}/targets/{number}/trial").json()["done"]
    assert service.get(WATCHING).json()["targets"][0]["said"] == "answered 204"
    assert service.post(f"{WATCHING}/targets", json={"url": "https://example.org/notices"}).status_code == 409
    assert service.delete(f"{WATCHING}/targets/{number}").json()["targets"] == []
    assert service.delete(f"{WATCHING}/targets/{number}").status_code == 404


def test_only_the_web_is_sent_to(service):
    refused = service.post(f"{WATCHING}/targets", json={"url": "ftp://example.org/"}).json()["errors"][0]
    assert (refused["path"], refused["value"]) == ("url", '"ftp://example.org/"')
    number = service.post(f"{WATCHING}/targets", json={"url": "http://127.0.0.1:9/"}).json()["targets"][0]["number"]
    said = service.post(f"{WATCHING}/targets/{number}/trial").json()["said"]
    assert "JOSTLE_PRIVATE_TARGETS" in said
