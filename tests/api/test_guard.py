import pytest
from starlette.datastructures import Headers

from jostle.provider.origin import is_foreign

OWN = {"host": "127.0.0.1:8470"}
PAGE = {**OWN, "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"}


@pytest.mark.parametrize(
    ("method", "headers", "foreign"),
    [
        ("POST", OWN, False),
        ("POST", {**OWN, "origin": "http://127.0.0.1:8470", "sec-fetch-site": "same-origin"}, False),
        ("POST", {**OWN, "origin": "http://127.0.0.1:9999"}, True),
        ("POST", {**OWN, "origin": "https://127.0.0.1:8470"}, True),
        ("POST", {**OWN, "origin": "null"}, True),
        ("GET", {**OWN, "sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors"}, True),
        ("GET", {**OWN, "sec-fetch-site": "same-site", "sec-fetch-mode": "cors"}, True),
        ("GET", {**PAGE, "sec-fetch-site": "cross-site"}, False),
        ("GET", {**PAGE, "sec-fetch-site": "none"}, False),
        ("GET", {**PAGE, "sec-fetch-site": "cross-site", "sec-fetch-dest": "iframe"}, True),
        ("POST", {**PAGE, "sec-fetch-site": "cross-site"}, True),
    ],
)
def test_who_is_from_elsewhere(method, headers, foreign):
    assert is_foreign(method, Headers(headers)) is foreign


def test_a_foreign_page_is_refused_in_words_and_changes_nothing(client):
    before = client.get("/api/plans").json()
    for path in ("/api/demo", "/api/plans", "/api/starter"):
        answer = client.post(path, content=b"x", headers={"Origin": "http://elsewhere.example"})
        assert answer.status_code == 403
        assert "another site's page" in answer.json()["detail"]
    assert client.get("/api/plans").json() == before


@pytest.mark.parametrize("path", ["/api/plans", "/api/nothing", "/api/plans/99"])
def test_every_answer_says_what_a_page_may_load(client, path):
    headers = client.get(path).headers
    assert "default-src 'none'" in headers["content-security-policy"]
    assert "frame-ancestors 'none'" in headers["content-security-policy"]
    assert "unsafe" not in headers["content-security-policy"]
    assert headers["x-content-type-options"] == "nosniff"
    assert headers["referrer-policy"] == "no-referrer"


def test_a_body_that_is_too_large_is_refused_before_it_is_read(client):
    for length in (17 * 2**20, 10**30):
        answer = client.post("/api/plans", content=b"{}", headers={"Content-Length": str(length)})
        assert answer.status_code == 413
        assert answer.json()["detail"] == "send at most 16 MiB at once"


def test_a_body_that_does_not_say_how_long_it_is_ends_at_the_limit(client):
    answer = client.post("/api/plans", content=(b" " * 2**20 for _ in range(20)))
    assert (answer.status_code, answer.json()["title"]) == (413, "Too large")


def test_an_unexpected_failure_is_told_in_words_and_logged(client, monkeypatch):
    def fails(*_):
        raise RuntimeError("a broken assumption")

    monkeypatch.setattr(client.app.state.desk.store, "plans", fails)
    client.app.state.desk.store.plan = fails
    quiet = type(client)(client.app, base_url="http://127.0.0.1", raise_server_exceptions=False)
    answer = quiet.get("/api/plans")
    assert (answer.status_code, answer.json()["title"]) == (500, "Our mistake")
    assert "broken assumption" not in answer.text
