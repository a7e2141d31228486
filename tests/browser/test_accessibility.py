"""What an accessibility checker says of each view."""

from pathlib import Path

import pytest

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
PLACES = [
    "/groups",
    "/rehearse/booking-web",
    "/rehearse/live-track",
    "/rehearse/manifest-worker?instance=3&strips=latency_p95",
    "/library",
    "/library/demands/quotes",
    "/library/machines",
    "/live?why=1",
    "/costs?begin=2025-07-08&end=2025-07-08",
    "/tune/tryout?search=1",
]


@pytest.mark.parametrize("place", PLACES)
def test_an_accessibility_checker_finds_nothing(workbench, place):
    """All its rules in the light; in the dark, where only the inks differ, those about contrast."""
    if place.startswith(("/live", "/costs")):
        workbench.ask("/api/plans/1/live", {"at": "2025-07-07T00:00", "until": "2025-07-09T08:00", "days": 7})
    if place.startswith("/tune"):
        workbench.ask("/api/plans/1/groups/tryout/searches", {"sets": 20, "seeds": 1})
    workbench.open(place)
    workbench.wait_for(".group-row, .strip canvas, .sheet td, .layer canvas, [data-instance], figure em, svg circle")
    workbench.driver.execute_script(AXE.read_text())
    assert faults(workbench, {"resultTypes": ["violations"]}) == []
    workbench.driver.execute_script("document.documentElement.setAttribute('data-mantine-color-scheme', 'dark')")
    assert faults(workbench, {"resultTypes": ["violations"], "runOnly": ["color-contrast"]}) == []


def faults(workbench, how):
    return workbench.driver.execute_async_script(
        "const done = arguments[1]; axe.run(document, arguments[0]).then(r => done(r.violations.map("
        "v => ({id: v.id, impact: v.impact, nodes: v.nodes.map(n => n.target.join(' ') + ': ' + n.failureSummary)}))))",
        how,
    )
