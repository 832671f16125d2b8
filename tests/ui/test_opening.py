"""A folder put onto the bench as it is: from the command line to the file beside the original."""

import re
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.conftest import horizon_picture
from tests.running import Application
from tests.ui.hands import draw_horizon, settled


def run(application: Application, *words: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "sequor.opening", *map(str, words)]
    return subprocess.run(command, env=application.environment, capture_output=True, text=True)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    made = tmp_path / "Ridge in May"
    made.mkdir()
    Image.fromarray(horizon_picture(1.33)).save(made / "first.png")
    Image.fromarray(horizon_picture(-0.8)).save(made / "second.png")
    (made / "third.png").write_text("no picture")
    (made / "notes.txt").write_text("nothing to open")
    return made


def test_a_folder_is_opened_levelled_and_exported_beside(
    page: Page, application: Application, folder: Path
) -> None:
    before = {path: path.read_bytes() for path in folder.iterdir()}
    ran = run(application, folder)
    assert ran.returncode == 4  # one of them is no picture
    assert "third.png" in ran.stderr
    address = re.fullmatch(r"2 pictures: (\S+)\n", ran.stdout)
    assert address, ran.stdout
    page.context.clear_cookies()
    page.goto(address[1])
    expect(page.get_by_role("heading", name="Ridge in May")).to_be_visible()
    page.get_by_role("link", name=re.compile("first.png")).first.click()
    expect(page.get_by_role("img", name="first.png")).to_be_visible()
    settled(page)
    draw_horizon(page, 1.33)
    page.get_by_role("button", name=re.compile("^5 ?Export")).click()
    page.get_by_text("Also into a folder beside the original").click()
    beside = page.get_by_role("textbox", name="Folder beside the original")
    expect(beside).to_have_value("levelled")
    page.get_by_role("button", name="Export", exact=True).click()
    saved = page.get_by_role("status", name="Saved")
    expect(saved).to_contain_text("and in levelled, beside the original")
    expect(saved).to_be_in_viewport()
    page.goto(address[1].partition("?")[0])
    page.get_by_role("button", name="The set…").click()
    page.get_by_role("button", name="Write the recipes beside the originals").click()
    expect(page.get_by_text("2 recipes written")).to_be_visible()
    assert {path: path.read_bytes() for path in before} == before
    made = {str(path.relative_to(folder)) for path in folder.rglob("*") if path.is_file()}
    assert made - {path.name for path in before} == {
        *("first.png.sequor.json", "second.png.sequor.json", "levelled/first-levelled.jpg")
    }
    # Opened once more it is the same set, and one of its pictures goes straight to the bench.
    again = run(application, folder / "first.png")
    assert (again.returncode, again.stderr) == (0, "")
    page.goto(again.stdout.split()[-1])
    expect(page.get_by_role("img", name="first.png")).to_be_visible()


def test_what_is_not_there_is_said(application: Application, tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    none, empty = tmp_path / "none", tmp_path / "empty"
    for path, status, why in ((none, 2, "does not exist"), (empty, 1, "no picture in")):
        ran = run(application, path)
        assert (ran.returncode, why in ran.stderr) == (status, True), ran.stderr
