"""A window of another engine than the tests of the interface have.

Firefox is driven by its own protocol (Debian has no geckodriver), WebKit by WebDriver; both take
the same scripts and the same actions of a hand (W3C WebDriver, "Actions").
"""

import os
import subprocess
from abc import ABC, abstractmethod
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from marionette_driver.marionette import Marionette
from selenium.webdriver import WebKitGTK, WebKitGTKOptions
from selenium.webdriver.webkitgtk.service import Service

from sequor.store.mariadb import free_port

SIZE = (1280, 860)
_MINI_BROWSER = next(Path("/usr/lib").glob("*/webkit2gtk-4.1/MiniBrowser"), Path("MiniBrowser"))


class Window(ABC):
    """What a job needs of an engine."""

    downloads: Path
    _driver: Any

    @abstractmethod
    def open(self, url: str) -> None:
        """Go to an address and wait until it is there."""

    @abstractmethod
    def run(self, script: str, *given: object) -> Any:
        """What a function's body gives in the page."""

    def choose(self, css: str, file: Path) -> None:
        """Choose a file in a field that is seen."""
        self._driver.find_element("css selector", css).send_keys(str(file))

    @abstractmethod
    def act(self, *hands: dict) -> None:
        """What hands do at once: the input sources of WebDriver."""


class Firefox(Window):
    """Debian's firefox-esr, without a screen."""

    def __init__(self, folder: Path) -> None:
        self.downloads = folder / "downloads"
        self._driver = Marionette(
            bin="/usr/bin/firefox-esr",
            headless=True,
            port=free_port(),
            gecko_log=str(folder / "firefox.log"),
            prefs={"browser.download.folderList": 2, "browser.download.dir": str(self.downloads)},
        )
        self._driver.start_session()
        self._driver.set_window_rect(width=SIZE[0], height=SIZE[1])

    def open(self, url: str) -> None:
        self._driver.navigate(url)

    def run(self, script: str, *given: object) -> Any:
        return self._driver.execute_script(script, script_args=list(given), sandbox=None)

    def act(self, *hands: dict) -> None:
        self._driver._send_message("WebDriver:PerformActions", {"actions": list(hands)})

    def close(self) -> None:
        self._driver.cleanup()


class WebKit(Window):
    """The engine of WebKitGTK, in its own small browser on a screen that nobody sees."""

    def __init__(self, folder: Path, display: str) -> None:
        home = folder / "home"
        self.downloads = folder / "downloads"
        settings = home / ".config"
        settings.mkdir(parents=True)
        (settings / "user-dirs.dirs").write_text(f'XDG_DOWNLOAD_DIR="{self.downloads}"\n')
        options = WebKitGTKOptions()
        options.binary_location = str(_MINI_BROWSER)
        options.add_argument("--automation")
        service = Service(
            "/usr/bin/WebKitWebDriver",
            env={**os.environ, "DISPLAY": display, "HOME": str(home)},
            log_output=str(folder / "webkit.log"),
        )
        self._driver = WebKitGTK(options=options, service=service)
        self._driver.set_window_size(*SIZE)

    def open(self, url: str) -> None:
        self._driver.get(url)

    def run(self, script: str, *given: object) -> Any:
        return self._driver.execute_script(script, *given)

    def act(self, *hands: dict) -> None:
        self._driver.execute("actions", {"actions": list(hands)})

    def close(self) -> None:
        self._driver.quit()


@contextmanager
def window_of(engine: str, folder: Path) -> Iterator[Window]:
    """A window of ``"firefox"`` or ``"webkit"``, whose files lie in a folder."""
    (folder / "downloads").mkdir()
    if engine == "firefox":
        firefox = Firefox(folder)
        try:
            yield firefox
        finally:
            firefox.close()
        return
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", "1", "-screen", "0", "1400x1000x24", "-nolisten", "tcp"],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    try:
        assert screen.stdout is not None
        webkit = WebKit(folder, f":{screen.stdout.readline().strip()}")
        try:
            yield webkit
        finally:
            webkit.close()
    finally:
        screen.kill()
        screen.wait()
