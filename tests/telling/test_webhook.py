"""Notices over HTTP: signed, tried again, and never sent where they are not to go."""

import json
import threading
import time
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest
from fastapi.testclient import TestClient
from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from jostle.telling.receiver import create_receiver
from jostle.telling.webhook import (
    SKEW,
    Unreachable,
    address_of,
    checked,
    deliver,
    is_secret,
    is_signed,
    new_secret,
    signature,
    written,
)

SECRET = "a secret of the harbour"
BODY = written("1-7", "/api/plans/1/live", "begun", "web", 1_751_932_800.0, {"text": "web is short", "kind": "short"})


@contextmanager
def answering(status, headers=()):
    taken = []

    class Answer(BaseHTTPRequestHandler):
        def do_POST(self):
            taken.append((dict(self.headers.items()), self.rfile.read(int(self.headers["content-length"]))))
            self.send_response(status)
            for name, value in headers:
                self.send_header(name, value)
            self.send_header("content-length", "0")
            self.end_headers()

        def log_message(self, *_):
            pass

    server = HTTPServer(("127.0.0.1", 0), Answer)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_port}/notices", taken
    finally:
        server.shutdown()
        server.server_close()


def test_a_notice_is_a_signed_cloud_event():
    with answering(204) as (url, taken):
        assert deliver(url, SECRET, "1-7", BODY, private=True) == (True, "answered 204")
    (headers, body), *_ = taken
    headers = {name.lower(): value for name, value in headers.items()}
    event = json.loads(body)
    assert {name: event[name] for name in ("specversion", "id", "type", "subject", "time")} == {
        "specversion": "1.0",
        "id": "1-7",
        "type": "jostle.notice.begun",
        "subject": "web",
        "time": "2025-07-08T00:00:00+00:00",
    }
    assert headers["content-type"] == "application/cloudevents+json"
    assert headers["host"] == url.split("/")[2]
    assert is_signed(SECRET, headers, body, time.time())
    assert not is_signed("another", headers, body, time.time())
    assert not is_signed(SECRET, headers, body + b" ", time.time())
    assert not is_signed(SECRET, headers, body, time.time() + 2 * SKEW)


def test_the_library_of_the_open_form_takes_what_is_signed_here():
    secret, now = new_secret(), str(int(time.time()))
    headers = {"webhook-id": "1-7", "webhook-timestamp": now}
    signed = signature(secret, "1-7", now, BODY)
    # Of a receiver whose secret was just changed, among others
    for told in (signed, f"v1,{'A' * 43}= {signed}", f"v2,other {signed}"):
        assert Webhook(secret).verify(BODY, headers | {"webhook-signature": told}) == json.loads(BODY)
        assert is_signed(secret, headers | {"webhook-signature": told}, BODY, time.time())
    with pytest.raises(WebhookVerificationError):
        Webhook(new_secret()).verify(BODY, headers | {"webhook-signature": signed})


@pytest.mark.parametrize("told", ["", "v1", "v1,é", "v1,AAAA", "\x00"])
def test_what_is_no_signature_is_refused(told):
    headers = {"webhook-id": "1", "webhook-timestamp": str(int(time.time())), "webhook-signature": told}
    assert not is_signed(SECRET, headers, BODY, time.time())
    assert not is_signed(SECRET, headers, b"\xff\xfe", time.time())


def test_what_can_be_a_secret():
    assert is_secret(new_secret())
    assert is_secret("one of before")
    assert not is_secret("whsec_")
    assert not is_secret("whsec_a")
    assert not is_secret("")


def test_the_signature_is_that_of_the_open_form():
    # Worked out with openssl: printf '1.2.x' | openssl dgst -sha256 -hmac k -binary | base64
    assert signature("k", "1", "2", b"x") == "v1,KqjQ/csRozIUE6D2+kjag2MEwluwj7EelmJ3GcX4ulw="


@pytest.mark.parametrize(("status", "headers"), [(500, ()), (404, ()), (302, [("location", "http://127.0.0.1:1/")])])
def test_a_target_that_fails_or_sends_elsewhere_was_not_told(status, headers):
    with answering(status, headers) as (url, taken):
        outcome = deliver(url, SECRET, "1-7", BODY, private=True)
    assert not outcome.done
    assert outcome.said.startswith(f"answered {status}")
    assert len(taken) == 1


@pytest.mark.parametrize(
    "url", ["ftp://example.org/", "file:///etc/passwd", "example.org", "http://", "https://me:pw@example.org/", "http://[:::"]
)
def test_what_is_no_address_of_the_web_is_refused(url):
    with pytest.raises(Unreachable):
        checked(url)


@pytest.mark.parametrize(
    "host",
    [
        "127.0.0.1",
        "localhost",
        "10.1.2.3",
        "192.168.0.9",
        "169.254.169.254",
        "[::1]",
        "[::ffff:10.0.0.1]",
        "0.0.0.0",
        "2130706433",
        "[64:ff9b::7f00:1]",
        "[64:ff9b:1::1]",
        "[2002:7f00:1::]",
        "[2001:0:7f00:1::]",
        "[::127.0.0.1]",
        "[::ffff:0:7f00:1]",
        "[fe80::1]",
        "[ff02::1]",
        "192.0.0.8",
        "224.0.0.1",
        "239.255.255.250",
        "100.64.0.1",
    ],
)
def test_this_machine_and_its_network_are_sent_to_only_where_that_is_allowed(host):
    with pytest.raises(Unreachable, match="JOSTLE_PRIVATE_TARGETS"):
        address_of(checked(f"http://{host}/"), private=False)
    assert address_of(checked(f"http://{host}/"), private=True)
    with answering(204) as (_, taken):
        outcome = deliver(f"http://{host}/", SECRET, "1-7", BODY, private=False)
        assert "an address of this machine or its network" in outcome.said
        assert not taken


def test_a_name_that_is_not_known_and_a_port_that_is_shut_are_told():
    assert "is not known" in deliver("http://no-such-host.invalid/", SECRET, "1", BODY, private=True).said
    assert "was not reached" in deliver("http://127.0.0.1:1/", SECRET, "1", BODY, private=True).said


def test_the_receiver_says_what_came_and_refuses_what_is_not_signed():
    said = []
    receiver = TestClient(create_receiver(SECRET, said.append, failures=1))
    now = str(int(time.time()))
    headers = {"webhook-id": "1-7", "webhook-timestamp": now, "webhook-signature": signature(SECRET, "1-7", now, BODY)}
    assert receiver.post("/", content=BODY).status_code == 401
    assert receiver.post("/", content=BODY, headers=headers).status_code == 503
    assert receiver.post("/", content=BODY, headers=headers).status_code == 204
    assert receiver.post("/", content=BODY, headers=headers).status_code == 204
    assert receiver.post("/", content=b"x" * 70_000, headers=headers).status_code == 413
    assert said[-1] == "2025-07-08T00:00:00+00:00 jostle.notice.begun: web is short"
    assert len(said) == 3
