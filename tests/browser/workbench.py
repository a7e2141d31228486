"""The real interface in a real browser: a service on a free port, Chromium without a screen, and how a person acts."""

import re
import shutil
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx2
import uvicorn
from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from jostle.api.app import create_app
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.formats.shipped import demo_plan
from jostle.provider.stream import Service
from jostle.records.store import Store
from tests.patience import PATIENCE

# Without certificates, which take a tenth of a second to read; changes whatever is there
PLAIN = httpx2.Client(timeout=PATIENCE, verify=False, headers={"If-Match": "*"})
FLAGS = (
    "--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --hide-scrollbars --force-device-scale-factor=1"
)


class Stage:
    """One address for one service after the other, so that the browser keeps what it has fetched of the page."""

    def __init__(self) -> None:
        self.app = create_app(None)
        # What it keeps is found by content, so that each service finds what another has made
        self.rehearser = Rehearser()
        self.under_way = 0

    @property
    def state(self) -> Any:
        return self.app.state

    def put_on(self, folder: Path, with_demo: bool) -> None:
        """A service over records in a folder, once the one before has answered all that it was asked."""
        until = time.monotonic() + PATIENCE
        while self.under_way:
            assert time.monotonic() < until, "something is never answered"
            threading.Event().wait(0.01)
        store = Store(folder / "jostle.sqlite")
        if with_demo and not store.plans():
            store.add_plan(demo_plan())
        self.app = create_app(store)
        self.state.desk.rehearser = self.rehearser

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        asked = scope["type"] == "http" and not scope["path"].endswith("/events")
        self.under_way += asked
        try:
            await self.app(scope, receive, send)
        finally:
            self.under_way -= asked


@contextmanager
def served(folder: Path, with_demo: bool, port: int = 0) -> Iterator[str]:
    """A service over records in a folder, on a port of its own unless one is named; gives its address."""
    stage = Stage()
    stage.put_on(folder, with_demo)
    with playing(stage, port) as address:
        yield address


@contextmanager
def playing(stage: Stage, port: int = 0) -> Iterator[str]:
    """Serve whatever is on a stage; gives its address."""
    server = Service(stage, port)  # type: ignore[arg-type]
    ready = threading.Event()
    thread = threading.Thread(target=_run, args=(server, ready), daemon=True)
    thread.start()
    assert ready.wait(PATIENCE)
    try:
        yield f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(PATIENCE)
        assert not thread.is_alive(), "something held the service up"


def _run(server: uvicorn.Server, ready: threading.Event) -> None:
    started = server.startup

    async def startup(*words: Any, **named: Any) -> None:
        await started(*words, **named)
        ready.set()

    server.startup = startup  # type: ignore[method-assign]
    server.run()


def scoped(css: str) -> str:
    """A selector whose classes are named as in the sheets; the build adds to a module's class what sets it apart."""
    return re.sub(
        r"\[[^\]]*\]|\.([a-z][\w-]*)",
        lambda found: f':is(.{found[1]}, [class^="{found[1]}_"], [class*=" {found[1]}_"])' if found[1] else found[0],
        css,
    )


class Browser(webdriver.Chrome):
    """Chromium whose selectors name classes as the sheets do."""

    def execute(self, driver_command: str, params: dict[str, Any] | None = None) -> dict[str, Any]:
        if params and params.get("using") == By.CSS_SELECTOR:
            params = {**params, "value": scoped(params["value"])}
        return super().execute(driver_command, params)


def open_browser(width: int, height: int, dark: bool = False) -> Browser:
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or "chromium"
    for flag in FLAGS.split():
        options.add_argument(flag)
    options.add_argument(f"--user-data-dir={tempfile.mkdtemp()}")
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = Browser(options=options, service=webdriver.ChromeService(shutil.which("chromedriver")))
    driver.set_script_timeout(PATIENCE)
    resize(driver, width, height)
    features = {"prefers-reduced-motion": "reduce", "prefers-color-scheme": "dark" if dark else "light"}
    named = [{"name": name, "value": value} for name, value in features.items()]
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": named})
    return driver


def resize(driver: webdriver.Chrome, width: int, height: int) -> None:
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


def connect(driver: webdriver.Chrome, *, offline: bool = False, latency: int = 0) -> None:
    """Have a browser be without the service, or have each answer only after so many ms."""
    how = {"offline": offline, "latency": latency, "downloadThroughput": -1, "uploadThroughput": -1}
    driver.execute_cdp_cmd("Network.enable", {})
    driver.execute_cdp_cmd("Network.emulateNetworkConditions", how)


@contextmanager
def connected(driver: webdriver.Chrome, *, offline: bool = False, latency: int = 0) -> Iterator[None]:
    """The same for a while. What it logs of being without is taken away."""
    connect(driver, offline=offline, latency=latency)
    try:
        yield
    finally:
        connect(driver)
        if offline:
            driver.get_log("browser")


def showed(driver: webdriver.Chrome) -> str:
    """What stands on the page, and where, for whoever reads of a test that failed."""
    text = driver.execute_script("return document.body ? document.body.innerText : ''")
    return f"{driver.current_url}\n{' | '.join(line for line in str(text).splitlines() if line.strip())}"


class Workbench:
    """What a person sees and does. Waiting is always for something that the page shows."""

    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver = driver
        self.address = address
        # ms until an answer comes, once a page is open
        self.latency = 0

    def open(self, path: str) -> None:
        self.driver.get(self.address + path)
        if self.latency:
            self.wait_for("main")
            connect(self.driver, latency=self.latency)

    def ask(self, path: str, body: Any = None) -> Any:
        """Asks the service, as another window would."""
        answer = PLAIN.get(self.address + path) if body is None else PLAIN.post(self.address + path, json=body)
        answer.raise_for_status()
        return answer.json()

    def until(self, shown: Callable[[], Any]) -> Any:
        wait = WebDriverWait(self.driver, PATIENCE, poll_frequency=0.05, ignored_exceptions=[StaleElementReferenceException])
        return wait.until(lambda _: shown(), f"not within {PATIENCE:.0f} s")

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def wait_for(self, css: str) -> WebElement:
        return self.until(lambda: next((one for one in self.all(css) if one.is_displayed()), None))

    def in_view(self, element: WebElement) -> WebElement:
        """An element, brought into the middle of what is seen."""
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
        return element

    def named(self, tag: str, text: str) -> WebElement:
        return self.until(lambda: next((one for one in self.all(tag) if one.text.strip() == text), None))

    def text(self, css: str) -> str:
        return str(self.until(lambda: self.all(css)[0].text if self.all(css) else None))

    def waits_for_text(self, css: str, text: str) -> None:
        self.until(lambda: any(text in one.text for one in self.all(css)))

    def keys(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def take_hold(self, css: str) -> Callable[[int], None]:
        """Takes hold of an element with the mouse; what is given back moves it by so many px, up or down, and holds on."""
        box = self.wait_for(css).rect
        where = {"x": box["x"] + box["width"] / 2, "y": box["y"] + box["height"] / 2}

        def mouse(kind: str, held: int) -> None:
            event = {**where, "type": kind, "button": "left" if held else "none", "buttons": held, "clickCount": held}
            self.driver.execute_cdp_cmd("Input.dispatchMouseEvent", event)

        def move(by: int) -> None:
            where["y"] += by
            mouse("mouseMoved", 1)

        mouse("mouseMoved", 0)
        mouse("mousePressed", 1)
        return move

    def word(self, path: str) -> WebElement:
        return self.wait_for(f'[data-path="{path}"]')

    def write_word(self, path: str, *keys: str) -> None:
        """Types in the place of what a word of the page says, and keeps it."""
        self.word(path).click()
        field = self.wait_for(".word-editor input")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(*keys, Keys.ENTER)

    def threshold(self, policy: str) -> WebElement:
        return self.wait_for(f'.threshold[aria-label^="{policy}:"]')

    def figure(self, name: str) -> str:
        """A figure of the verdict, by its heading."""
        rows = self.until(lambda: [one.text.split("\n") for one in self.all(".verdict > div")])
        return next(row[1] for row in rows if row[0].startswith(name))

    def takes(self) -> list[str]:
        return [str(one.get_attribute("title")) for one in self.all(".take .name")]

    def mark(self, take: int, label: str) -> WebElement:
        """A mark of a take's chip, which shows itself while the pointer is there."""
        chip = self.wait_for(f'[data-take="{take}"]')
        ActionChains(self.driver).move_to_element(chip).perform()
        return self.wait_for(f'[data-take="{take}"] [aria-label="{label}"]')

    def current_take(self) -> str:
        return str(self.wait_for(".take.here .name").get_attribute("title"))

    def waits_for_take(self, change: str) -> None:
        self.until(lambda: self.current_take() == change)
