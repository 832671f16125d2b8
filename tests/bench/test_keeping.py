"""Many pictures and long memory, measured: 5,000 on a sheet, 5,000 entries in a ledger, a stance
for 300, a backup beside cp.
"""

import hashlib
import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from PIL import Image
from playwright.sync_api import Page, expect
from sqlalchemy import Engine

from sequor.core.recipe import Recipe, Trim
from sequor.services import backups
from sequor.store import ledger, library
from sequor.store.database import connect, sessions
from sequor.store.files import FileStore
from sequor.store.mariadb import PrivateServer
from sequor.store.models import Original, Picture
from tests.bench.targets import Measured, hold_to, tell
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.running import Application
from tests.store.test_ledger import original
from tests.web.conftest import keep, level_line, send

pytest_plugins = ["tests.ui.conftest"]
MANY, SERIES = 5000, 300


def best_of(times: int, act) -> float:
    """The quickest of some runs, in seconds."""
    took = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        took.append(time.perf_counter() - start)
    return min(took)


def test_a_ledger_of_5000_entries(
    browserless: FlaskClient, engine: Engine, empty_tables: Engine
) -> None:
    set_id = browserless.post("/api/sets", json={"name": "Bench"}).json["id"]
    added = send(browserless, set_id, "a.png", as_png(horizon_picture(1.33))).json["picture"]
    with sessions(engine).begin() as session:
        head = library.get_picture(session, added["id"]).head.id
        for number in range(MANY):
            recipe = Recipe(trim=Trim(roll_deg=number / 1000))
            head = ledger.append(session, added["id"], head, recipe, "turned by hand").head.id
    path = f"/api/pictures/{added['id']}"

    def opened() -> None:
        assert len(browserless.get(f"{path}/history").json["entries"]) == MANY + 1

    hold_to(Measured("a ledger of 5,000 entries opens", best_of(3, opened), 0.5, "s"))
    state = browserless.get(path).json

    def undone() -> None:
        nonlocal state
        state = browserless.post(f"{path}/undo", json={"based_on": state["entry_id"]}).json

    tell(Measured("undo in it", best_of(10, undone) * 1000, 50, "ms"))


def test_a_stance_for_300_pictures(browserless: FlaskClient, engine: Engine) -> None:
    set_id = browserless.post("/api/sets", json={"name": "Bench"}).json["id"]
    added = send(browserless, set_id, "a.png", as_png(horizon_picture(1.33))).json["picture"]
    first = browserless.get(f"/api/pictures/{added['id']}").json
    first = keep(browserless, first, level_line()).json
    with sessions(engine).begin() as session:
        size = {"width": first["file"]["width"], "height": first["file"]["height"]}
        targets = []
        for number in range(SERIES):
            about = original(f"{number:064d}")
            about.width, about.height, about.focal35_mm = size["width"], size["height"], None
            made = library.add_picture(session, set_id, about, f"{number}.jpg")
            targets.append({"picture_id": made.id, "entry_id": made.head.id})
    body = {
        "based_on": first["entry_id"],
        "parts": ["focal", "lens", "stance", "shape"],
        "targets": targets,
    }
    start = time.perf_counter()
    done = browserless.post(f"/api/pictures/{first['id']}/carry", json=body)
    took = time.perf_counter() - start
    assert done.json["count"] == SERIES
    hold_to(Measured("a stance carried over to 300 pictures", took, 3, "s"))


def test_a_backup_beside_cp(engine: Engine, empty_tables: Engine, tmp_path: Path) -> None:
    """Half a gigabyte in files of 8 MB, with the disk's own cache flushed after each."""
    files = FileStore(tmp_path / "data")
    with sessions(engine).begin() as session:
        for number in range(64):
            name = f"{number:064x}"
            path = files.original(name)
            path.parent.mkdir(exist_ok=True)
            path.write_bytes(os.urandom(8 << 20))
            about = original(name)
            about.byte_size = 8 << 20
            session.add(about)
    os.sync()

    def copied() -> None:
        shutil.rmtree(tmp_path / "cp", ignore_errors=True)
        subprocess.run(["cp", "-r", files.root, tmp_path / "cp"], check=True)
        os.sync()

    def backed_up() -> None:
        shutil.rmtree(tmp_path / "backup", ignore_errors=True)
        backups.back_up(engine, files, tmp_path / "backup")

    plain, ours = best_of(3, copied), best_of(3, backed_up)
    hold_to(Measured("speed of a backup in that of cp", plain / ours, 0.6, at_least=True))
    again = best_of(2, lambda: backups.back_up(engine, files, tmp_path / "backup"))
    hold_to(Measured("a backup when nothing has changed", again, 3, "s"))


@pytest.fixture
def large_set(application: Application) -> int:
    """A set of 5,000 pictures: few files, each under many names, so that it is made in time."""
    _, made = application.post("/api/sets", {"name": "Large"})
    _, added = application.upload(made["id"], "a.png", as_png(horizon_picture(1.33)))
    server = PrivateServer(
        application.data / "mariadb", int(application.environment["SEQUOR_DB_PORT"])
    )
    engine = connect(server.url)
    files = FileStore(application.data)
    thumbnail = files.root / "thumbnails"
    with sessions(engine).begin() as session:
        first = library.get_picture(session, added["picture"]["id"])
        known, recipe_hash = first.original, first.head.recipe_hash
        for _ in range(600):
            found = list(thumbnail.rglob(f"{known.sha256}-*.jpg"))
            if found:
                break
            time.sleep(0.1)
        for number in range(MANY - 1):
            sha256 = hashlib.sha256(str(number).encode()).hexdigest()
            about = Original(
                **{
                    c.name: getattr(known, c.name)
                    for c in Original.__table__.columns
                    if c.name != "sha256"
                },
                sha256=sha256,
            )
            picture = Picture(set_id=made["id"], original=about, name=f"sea-{number}.png")
            session.add(picture)
            session.flush()
            entry = library.new_entry(library.photo_of(about), Recipe(), "as shot")
            entry.picture_id = picture.id
            session.add(entry)
            session.flush()
            picture.head = entry
            target = files.thumbnail(found[0].parent.parent.name, sha256, recipe_hash)
            shutil.copyfile(found[0], target)
    engine.dispose()
    return int(made["id"])


def test_a_sheet_of_5000_pictures(page: Page, application: Application, large_set: int) -> None:
    page.goto(application.url)
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    start = time.perf_counter()
    page.get_by_role("navigation", name="Sets").get_by_text("Large").click()
    page.wait_for_function(
        """() => {
          const seen = [...document.querySelectorAll('main [data-place] img')];
          return seen.length >= 6 && seen.slice(0, 6).every((i) => i.complete && i.naturalWidth);
        }"""
    )
    took = time.perf_counter() - start
    tell(Measured("a sheet of 5,000: first thumbnails", took, 1, "s"))
    blank_ms = page.evaluate(
        """async () => {
          const main = document.querySelector('main');
          let worst = 0, since = new Map();
          for (let row = 0; row < 60; row++) {
            main.scrollTop += 304;
            const until = performance.now() + 60;
            while (performance.now() < until) {
              await new Promise(requestAnimationFrame);
              const box = main.getBoundingClientRect();
              const now = performance.now();
              for (const card of main.querySelectorAll('[data-place]')) {
                const place = card.getBoundingClientRect();
                if (place.bottom < box.top || place.top > box.bottom) continue;
                const image = card.querySelector('img');
                const name = image.src;
                if (image.complete && image.naturalWidth) since.delete(name);
                else {
                  if (!since.has(name)) since.set(name, now);
                  worst = Math.max(worst, now - since.get(name));
                }
              }
            }
          }
          return worst;
        }"""
    )
    tell(Measured("60 rows scrolled, the longest blank card", blank_ms, 150, "ms"))
    used = page.evaluate("performance.memory.usedJSHeapSize") / 2**20
    tell(Measured("memory of the page's program", used, 250, "MB"))
    assert page.locator("[data-place]").count() < 60


def test_the_command_line_beside_its_libraries(tmp_path: Path) -> None:
    Image.fromarray(horizon_picture(1.33)).save(tmp_path / "a.jpg")
    command = ["level", str(tmp_path / "a.jpg"), str(tmp_path / "b.jpg"), "--force"]
    python = str(Path(sys.executable))

    def ours() -> None:
        line = ["--level", "50,290,850,310"]
        run = [python, "-m", "sequor.cli", *command, *line]
        subprocess.run(run, check=True, capture_output=True)

    def libraries() -> None:
        subprocess.run([python, "-c", "import numba, scipy.optimize"], check=True)

    ours()
    ratio = best_of(5, ours) / best_of(5, libraries)
    tell(Measured("one small picture on the command line, by its libraries' import", ratio, 1.5))


def test_forty_pictures_on_two_cores(tmp_path: Path, large_jpeg: Path) -> None:
    """Eight of them, so that it ends; each of 24 megapixels."""
    folder = tmp_path / "in"
    folder.mkdir()
    for number in range(8):
        os.link(large_jpeg, folder / f"{number}.jpg")
    python = sys.executable
    took = []
    for jobs in ("1", "2"):
        run = [python, "-m", "sequor.cli", "level", str(folder), str(tmp_path / jobs)]
        more = ["--trim", "roll=1.3", "--jobs", jobs]
        start = time.perf_counter()
        subprocess.run([*run, *more], check=True, capture_output=True)
        took.append(time.perf_counter() - start)
    speed = took[0] / took[1]
    tell(Measured("two processes, in the speed of one", speed, 1.7, at_least=True))
