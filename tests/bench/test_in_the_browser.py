"""Measured in Debian's Chromium: from the hand to the moved picture, from a file to its proxy."""

import statistics
import time
from pathlib import Path

from playwright.sync_api import Browser, Page, expect

from tests.bench.load import ask_for_everything, wedged
from tests.bench.targets import Measured, tell
from tests.running import Application
from tests.ui.conftest import let_in
from tests.ui.fingers import Fingers
from tests.ui.hands import horizon_file, settled, tube_of

pytest_plugins = ["tests.ui.conftest"]

WATCH = """() => {
  // From a move of the pointer on the vial to the first frame in which the picture's transform is
  // another one. A move is told soon (pointerrawupdate) and again with the next frame: by then the
  // picture may have followed it already, and what is waited for is the next move's. What counts is
  // when it was first told; the other is the way it was timed before, to be compared with.
  window.latencies = { pointerrawupdate: [], pointermove: [] };
  const image = document.querySelector('[aria-label="Stage"] img');
  const waiting = {};
  for (const kind of Object.keys(window.latencies))
    document.querySelector('[aria-label=Roll]').addEventListener(kind, (event) => {
      if (event.buttons) waiting[kind] ??= { at: event.timeStamp, shown: image.style.transform };
    }, true);
  const tick = () => {
    for (const [kind, { at, shown }] of Object.entries(waiting))
      if (image.style.transform !== shown) {
        window.latencies[kind].push(performance.now() - at);
        delete waiting[kind];
      }
    requestAnimationFrame(tick);
  };
  tick();
}"""


def test_drag_to_moved_picture_and_upload_to_proxy(
    page: Page, application: Application, large_jpeg: Path
) -> None:
    page.goto(application.url)
    page.get_by_label("Name of a new set").fill("Bench")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("heading", name="Bench")).to_be_visible()
    start = time.perf_counter()
    page.get_by_label("Picture files").set_input_files(str(large_jpeg))
    page.get_by_role("link", name="Open large.jpg").click()
    page.wait_for_function(
        "() => document.querySelector('img[alt*=\"corrected\"]')?.complete", timeout=30_000
    )
    tell(Measured("from a file of 24 MP to its proxy", time.perf_counter() - start, 1.0, "s"))

    drag(page, "calm", 40)
    settled(page)
    state = wedged(application, int(page.url.rpartition("/")[2]))
    page.reload()
    page.wait_for_function("() => document.querySelector('img[alt*=\"corrected\"]')?.complete")
    ask_for_everything(application, state)
    drag(page, "with everything asked for", 80)


SHOWN = """() => {
  // When the first places for pictures stood there, and when every picture in view did.
  const seen = (image) => image.complete && image.naturalWidth > 0;
  const tick = () => {
    const coming = document.querySelector('[aria-label="The pictures are coming…"]');
    if (coming && window.comingAt === undefined) window.comingAt = performance.now();
    const images = [...document.querySelectorAll('main img, [data-stage] img')].filter(
      (image) => image.getBoundingClientRect().top < innerHeight);
    if (images.length && images.every(seen) && window.shownAt === undefined)
      window.shownAt = performance.now();
    requestAnimationFrame(tick);
  };
  tick();
}"""


def test_touch_reload_and_cards(
    page: Page, browser: Browser, application: Application, large_jpeg: Path, tmp_path: Path
) -> None:
    """By touch on a tablet; from a reload to the picture; from skeletons to their pictures."""
    _, made = application.post("/api/sets", {"name": "Touched"})
    _, added = application.upload(made["id"], "large.jpg", large_jpeg.read_bytes())
    for number in range(11):
        file = horizon_file(tmp_path, number / 4, f"card-{number}.png")
        application.upload(made["id"], file.name, file.read_bytes())

    context = browser.new_context(
        viewport={"width": 820, "height": 1180}, has_touch=True, is_mobile=True
    )
    let_in(context, application)
    tablet = context.new_page()
    tablet.goto(f"{application.url}/pictures/{added['picture']['id']}")
    settled(tablet)
    fingers = Fingers(context.new_cdp_session(tablet), timed=False)
    drag(tablet, "by touch", 60, fingers)
    context.close()

    context = browser.new_context(viewport={"width": 1280, "height": 800})
    let_in(context, application)
    desk = context.new_page()
    desk.add_init_script(f"({SHOWN})()")
    addresses = {
        "from a reload of the bench to the picture": (f"/pictures/{added['picture']['id']}", 0.6),
        "from skeletons to twelve pictures": (f"/sets/{made['id']}", 0.3),
    }
    for what, (address, target_s) in addresses.items():
        desk.goto(application.url + address)
        took = []
        for _ in range(7):
            desk.reload()
            desk.wait_for_function("() => window.shownAt !== undefined")
            took.append(desk.evaluate("window.shownAt - (window.comingAt ?? 0)") / 1000)
        tell(Measured(what, statistics.median(took[1:]), target_s, "s"))
    context.close()


def drag(page: Page, how: str, target_ms: float, fingers: Fingers | None = None) -> None:
    """Drag the vial by the mouse or a finger, and tell how long the picture took to follow."""
    page.evaluate(WATCH)
    box = tube_of(page)
    x, y = box["x"] + box["width"] / 3, box["y"] + box["height"] / 2
    if fingers:
        fingers.down((x, y))
    else:
        page.mouse.move(x, y)
        page.mouse.down()
    for step in range(120):
        if fingers:
            fingers.move((x + step, y))
        else:
            page.mouse.move(x + step, y)
        page.wait_for_timeout(25)
    if fingers:
        fingers.up()
    else:
        page.mouse.up()
    told, later = (sorted(found) for found in page.evaluate("Object.values(window.latencies)"))
    assert len(told) > 50
    print(f"\ndrag to moved picture, {how}: median {statistics.median(told):.0f} ms")
    tell(Measured(f"95 % of {len(told)} moves of a drag, {how}", _p95(told), target_ms, "ms"))
    print(f"from the later pointermove: {statistics.median(later):.0f} and {_p95(later):.0f} ms")


def _p95(ordered: list[float]) -> float:
    return ordered[int(len(ordered) * 0.95)]
