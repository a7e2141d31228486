"""The page of another origin, in the same real browser, tries to steer the service."""

import threading
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from jostle.demo import PLAN

PAGE = b"<!doctype html><title>Elsewhere</title><p>Elsewhere</p>"

ASK = """
const [address, plan, done] = arguments;
const file = new FormData();
file.append('file', new Blob(['time,requests/s\\n2025-07-07T00:00Z,1\\n2025-07-07T00:01Z,2']), 'x.csv');
const asks = [
  ['/api/demo', {}],
  ['/api/plans', {body: plan, headers: {'Content-Type': 'text/plain'}}],
  ['/api/plans/1/demands/file?name=x', {body: file}],
  ['/api/plans/1/groups/tryout/calendar?keep=true', {body: 'BEGIN:VCALENDAR', headers: {'Content-Type': 'text/plain'}}],
];
Promise.all(asks.map(([path, more]) =>
  fetch(address + path, {method: 'POST', mode: 'no-cors', ...more}).then(r => r.type, e => String(e))
)).then(done);
"""


class Elsewhere(BaseHTTPRequestHandler):
    def do_GET(self):
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(PAGE)

    def log_message(self, *words):
        pass


@contextmanager
def elsewhere():
    server = ThreadingHTTPServer(("127.0.0.1", 0), Elsewhere)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield server.server_port
    finally:
        server.shutdown()
        thread.join()


@pytest.mark.parametrize("host", ["127.0.0.1", "localhost"])
def test_a_page_of_another_origin_changes_nothing(workbench, host):
    before = workbench.ask("/api/plans"), workbench.ask("/api/plans/1")
    with elsewhere() as port:
        workbench.driver.get(f"http://{host}:{port}/")
        outcome = workbench.driver.execute_async_script(ASK, workbench.address, PLAN.read_text())
        assert len(outcome) == 4
        workbench.driver.execute_script(
            "const f = document.createElement('form'); f.method = 'post'; f.action = arguments[0] + '/api/demo';"
            "document.body.append(f); f.submit();",
            workbench.address,
        )
        workbench.until(lambda: "another site's page" in workbench.driver.page_source)
        workbench.driver.get_log("browser")
    assert (workbench.ask("/api/plans"), workbench.ask("/api/plans/1")) == before


def test_a_page_of_another_origin_cannot_frame_it(workbench):
    with elsewhere() as port:
        workbench.driver.get(f"http://localhost:{port}/")
        workbench.driver.execute_script(
            "const f = document.createElement('iframe'); f.src = arguments[0] + '/groups'; document.body.append(f)",
            workbench.address,
        )
        framed = workbench.wait_for("iframe")
        workbench.driver.switch_to.frame(framed)
        workbench.until(
            lambda: "another site's page" in workbench.driver.page_source or "refused" in workbench.driver.page_source
        )
        assert not workbench.all("#root")
        workbench.driver.switch_to.default_content()
        workbench.driver.get_log("browser")


def test_the_report_lives_under_the_same_headers(workbench):
    workbench.open("/api/plans/1/groups/tryout/arrangements/1/report.html")
    body = workbench.wait_for("body")
    assert body.value_of_css_property("max-width") == "900px"
