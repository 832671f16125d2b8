"""The real application, started as a person starts it, and Debian's Chromium."""

from collections.abc import Callable, Generator, Iterator

import pytest
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Page,
    Request,
    ViewportSize,
    expect,
    sync_playwright,
)

from tests.installed import in_memory
from tests.running import Application, running
from tests.ui.hands import own_set

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # No renderer is started ahead of need: that is a third of what a window costs.
    "--disable-features=SpareRendererForSitePerProcess,MediaRouter,OptimizationHints,PaintHolding",
]

SIGNS = ("Content Security Policy", "caught the following error")
"""Of what the console says: something was refused, or a part of the page fell down."""
TIMEOUT_MS = 60_000
"""For a machine that is full of other work; nothing waits so long on one that is not."""
expect.set_options(timeout=TIMEOUT_MS)
SIZE: ViewportSize = {"width": 1280, "height": 800}
FAILED = pytest.StashKey[bool]()


@pytest.fixture(scope="session")
def application() -> Iterator[Application]:
    with in_memory() as folder, running(folder / "var", "--empty") as application:
        yield application


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield chromium
        chromium.close()


def let_in(context: BrowserContext, application: Application) -> None:
    """Give a browser the key, as the address that `bin/start` prints does."""
    cookie = {"name": f"sequor-{application.port}", "value": application.key}
    context.add_cookies([{**cookie, "url": application.url}])


def told(request: Request) -> str:
    """A finished request in one line."""
    response = request.existing_response
    status = response.status if response else "-"
    address, sent = request.url.split("/api/")[1][:60], (request.post_data or "")[-90:]
    return f"{request.method} {address} {status} {sent}"


class Window:
    """A window of 1280 x 800, emptied between tests: a new one takes seconds of a processor."""

    def __init__(self, browser: Browser, application: Application) -> None:
        self._browser, self._application = browser, application
        self._context: BrowserContext | None = None

    def opened(self) -> Page:
        """It, as one that was just opened."""
        if self._context is None:
            self._context = self._browser.new_context(viewport=SIZE, accept_downloads=True)
            self._context.new_page().set_default_timeout(TIMEOUT_MS)
        let_in(self._context, self._application)
        return self._context.pages[0]

    def emptied(self) -> None:
        """Nothing of a test is left in it."""
        assert self._context is not None
        page, *others = self._context.pages
        for other in others:
            other.close()
        page.unroute_all(behavior="ignoreErrors")
        page.goto("about:blank")
        self._context.clear_cookies()
        engine = self._context.new_cdp_session(page)
        everything = {"origin": self._application.url, "storageTypes": "all"}
        engine.send("Storage.clearDataForOrigin", everything)
        engine.detach()
        page.set_viewport_size(SIZE)
        page.emulate_media(
            color_scheme="light",
            contrast="no-preference",
            forced_colors="none",
            reduced_motion="no-preference",
        )
        page.mouse.move(0, 0)

    def closed(self) -> None:
        """The next test gets another one."""
        if self._context is not None:
            self._context.close()
            self._context = None


@pytest.fixture(scope="session")
def window(application: Application, browser: Browser) -> Iterator[Window]:
    window = Window(browser, application)
    yield window
    window.closed()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item, call: pytest.CallInfo[None]
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """A test can be asked whether it failed."""
    report = yield
    if report.when == "call":
        item.stash[FAILED] = report.failed
    return report


@pytest.fixture
def page(window: Window, request: pytest.FixtureRequest) -> Iterator[Page]:
    """The window; a script error, a refused or a missing resource fails the test."""
    page = window.opened()
    problems: list[str] = []
    calls: list[str] = []
    listeners: dict[str, Callable[..., None]] = {
        "pageerror": lambda error: problems.append(str(error)),
        "console": lambda message: problems.extend(
            message.text for sign in SIGNS if sign in message.text
        ),
        "response": lambda response: problems.extend(
            [response.url] if response.status == 404 else []
        ),
        "requestfinished": lambda request: calls.extend(
            [told(request)] if "/api/" in request.url else []
        ),
    }
    for event, listener in listeners.items():
        page.on(event, listener)  # type: ignore[call-overload]
    yield page
    # Shown by pytest when the test has failed: what the page asked for last, what it complained
    # about, and what stood on it.
    alerts = [alert.inner_text() for alert in page.get_by_role("alert").all()]
    print(*calls[-20:], *alerts, sep="\n")
    failed = request.node.stash.get(FAILED, True)
    if failed:
        print(page.locator("body").aria_snapshot())
    for event, listener in listeners.items():
        page.remove_listener(event, listener)
    if problems or failed:
        window.closed()
    else:
        window.emptied()
    assert problems == []


@pytest.fixture
def set_page(page: Page, application: Application, request: pytest.FixtureRequest) -> Page:
    """A window with a new set of its own; it shows nothing yet."""
    name = request.node.name[:80]
    made = page.request.post(f"{application.url}/api/sets", data={"name": name}).json()
    own_set(page, f"{application.url}/sets/{made['id']}")
    return page
