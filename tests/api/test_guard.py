import pytest
from starlette.datastructures import Headers

from jostle.api.guard import is_foreign

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
