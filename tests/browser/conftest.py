import pytest

from tests.browser.workbench import Workbench, served


@pytest.fixture(scope="session")
def browser():
    from tests.browser.workbench import open_browser

    driver = open_browser(1280, 800)
    yield driver
    driver.quit()


@pytest.fixture
def empty(tmp_path, browser):
    """The workbench of a service without any plan."""
    with served(tmp_path, with_demo=False) as address:
        yield Workbench(browser, address)
        leave(browser)


@pytest.fixture
def workbench(tmp_path, browser):
    """The workbench with the demo data, not opened anywhere yet."""
    with served(tmp_path, with_demo=True) as address:
        yield Workbench(browser, address)
        leave(browser)


@pytest.fixture
def opened(workbench):
    """Opens the workbench at booking-web."""
    workbench.open("/rehearse/booking-web")
    workbench.wait_for(".threshold")


def leave(browser):
    """Close the page before its service goes, so that nothing it still asks is refused."""
    browser.get("about:blank")


@pytest.fixture(autouse=True)
def _no_errors_in_the_console(browser):
    browser.get_log("browser")
    yield
    severe = [entry["message"] for entry in browser.get_log("browser") if entry["level"] == "SEVERE"]
    # A refused edit is answered with 422 or 409, which the browser logs; every other error is one of ours.
    refusals = ("422 (Unprocessable", "409 (Conflict")
    assert [message for message in severe if not any(refusal in message for refusal in refusals)] == []
