"""A plan that is kept but cannot be read: the page says so, and leads out of it."""

import json
import sqlite3

import pytest

from jostle.records.store import Store

pytestmark = pytest.mark.browser


@pytest.fixture
def broken(workbench, tmp_path):
    """The newest plan as records of another time might have it; gives what it was."""
    sound = workbench.ask("/api/plans/1/document")
    with sqlite3.connect(tmp_path / "jostle.sqlite") as raw:
        raw.execute(
            "UPDATE plan SET document = ?, seal = NULL, revision = revision + 1", (json.dumps({**sound, "days": 1e-308}),)
        )
    return sound


def test_it_is_mended_as_a_file(workbench, broken, tmp_path):
    workbench.open("/rehearse/booking-web")
    workbench.waits_for_text("h1", f"The plan {broken['name']} cannot be read")
    workbench.waits_for_text('[role="alert"]', "days")
    assert workbench.named("a", "Save it as it stands").get_attribute("href").endswith("/api/plans/1/stored")
    (tmp_path / "mended.json").write_text(json.dumps(broken))
    workbench.all('input[type="file"]')[0].send_keys(str(tmp_path / "mended.json"))
    workbench.wait_for(".threshold")


def test_it_is_taken_out_after_a_second_word(workbench, broken, tmp_path):
    workbench.open("/groups")
    workbench.named("button", "Take it out").click()
    workbench.named("button", f"Take out {broken['name']} with all that is kept of it").click()
    workbench.waits_for_text("h1", "See the week before it happens")
    assert Store(tmp_path / "jostle.sqlite").plans() == []
