"""The page goes on by itself when the server or its database was away."""

import os
import signal
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.running import Application
from tests.steadiness.killing import command_of, descendants
from tests.ui.hands import entered, horizon_file, open_bench, state


def test_a_change_that_meets_a_dying_database_is_kept(
    set_page: Page, tmp_path: Path, application: Application
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    before = state(page)["entry_id"]
    assert application.process
    databases = [p for p in descendants(application.process.pid) if "mariadbd" in command_of(p)]
    for pid in databases:
        os.kill(pid, signal.SIGKILL)
    page.keyboard.press("l")
    page.keyboard.press("Enter")
    after = entered(page, before)
    assert len(after["recipe"]["readings"]) == 1
    expect(page.get_by_role("alert")).to_have_count(0)


def test_the_page_waits_for_the_server(
    set_page: Page, tmp_path: Path, application: Application
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    before = state(page)["entry_id"]
    application.stop()
    bar = page.get_by_role("status").filter(has_text="does not answer")
    expect(bar).to_be_visible()
    application.start()
    expect(bar).to_have_count(0)
    # No reload was needed.
    page.keyboard.press("l")
    page.keyboard.press("Enter")
    entered(page, before)
