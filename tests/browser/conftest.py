import pytest
from selenium.common.exceptions import WebDriverException

from tests.browser.workbench import Stage, Workbench, playing, showed


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    """A test that fails says what its page showed."""
    report = yield
    driver = item.funcargs.get("browser")
    if report.failed and call.when == "call" and driver is not None:
        try:
            report.sections.append(("The page showed", showed(driver)))
        except WebDriverException as error:
            report.sections.append(("The page showed", f"nothing that could be read: {error}"))
    return report


@pytest.fixture(scope="session")
def browser():
    from tests.browser.workbench import open_browser

    driver = open_browser(1280, 800)
    yield driver
    driver.quit()


@pytest.fixture(scope="session")
def stage():
    """One address for the services of all tests, and what is on at it."""
    made = Stage()
    with playing(made) as address:
        yield made, address


@pytest.fixture
def empty(tmp_path, browser, stage):
    """The workbench of a service without any plan."""
    yield from on_stage(stage, browser, tmp_path, with_demo=False)


@pytest.fixture
def workbench(tmp_path, browser, stage):
    """The workbench with the demo data, not opened anywhere yet."""
    yield from on_stage(stage, browser, tmp_path, with_demo=True)


def on_stage(stage, browser, folder, with_demo):
    service, address = stage
    service.put_on(folder, with_demo)
    yield Workbench(browser, address)
    leave(browser)


@pytest.fixture
def opened(workbench):
    """Opens the workbench at booking-web."""
    workbench.open("/rehearse/booking-web")
    workbench.wait_for(".threshold")


def leave(browser):
    """Close the page before its service goes, so that nothing it still asks is refused, and nothing of it is remembered."""
    browser.execute_script("if (location.protocol === 'http:') { localStorage.clear(); sessionStorage.clear(); }")
    browser.get("about:blank")


@pytest.fixture(autouse=True)
def _no_errors_in_the_console(browser):
    browser.get_log("browser")
    yield
    severe = [entry["message"] for entry in browser.get_log("browser") if entry["level"] == "SEVERE"]
    # A refused edit is answered with 422 or 409, which the browser logs; every other error is one of ours.
    refusals = ("422 (Unprocessable", "409 (Conflict")
    assert [message for message in severe if not any(refusal in message for refusal in refusals)] == []
