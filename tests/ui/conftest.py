"""The real application, started as a person starts it, and Debian's Chromium."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Request, expect, sync_playwright

from tests.running import Application
from tests.ui.hands import own_set

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]

SIGNS = ("Content Security Policy", "caught the following error")
"""Of what the console says: something was refused, or a part of the page fell down."""
TIMEOUT_MS = 60_000
"""For a machine that is full of other work; nothing waits so long on one that is not."""
expect.set_options(timeout=TIMEOUT_MS)


@pytest.fixture(scope="session")
def application(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    running = Application(tmp_path_factory.mktemp("ui") / "var", "--empty")
    running.start()
    yield running
    if running.process and running.process.poll() is None:
        running.stop()


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
    response = request.response()
    status = response.status if response else "-"
    address, sent = request.url.split("/api/")[1][:60], (request.post_data or "")[-90:]
    return f"{request.method} {address} {status} {sent}"


@pytest.fixture
def page(application: Application, browser: Browser) -> Iterator[Page]:
    """A window of 1280 x 800; a script error, a refused or a missing resource fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    let_in(context, application)
    page = context.new_page()
    problems: list[str] = []
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.on(
        "console",
        lambda message: (
            problems.append(message.text) if any(sign in message.text for sign in SIGNS) else None
        ),
    )
    page.on(
        "response",
        lambda response: problems.append(response.url) if response.status == 404 else None,
    )
    calls: list[str] = []
    page.on(
        "requestfinished",
        lambda request: calls.append(told(request)) if "/api/" in request.url else None,
    )
    page.set_default_timeout(TIMEOUT_MS)
    yield page
    # Shown by pytest when the test has failed: what the page asked for last, and what it complained
    # about.
    print(
        *calls[-20:], *(alert.inner_text() for alert in page.get_by_role("alert").all()), sep="\n"
    )
    context.close()
    assert problems == []


@pytest.fixture
def set_page(page: Page, application: Application, request: pytest.FixtureRequest) -> Page:
    """A window with a new set of its own; it shows nothing yet."""
    name = request.node.name[:80]
    made = page.request.post(f"{application.url}/api/sets", data={"name": name}).json()
    own_set(page, f"{application.url}/sets/{made['id']}")
    return page
