"""Measured in Debian's Chromium: from the hand to the moved picture, from a file to its proxy."""

import statistics
import time
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.bench.load import ask_for_everything, wedged
from tests.bench.targets import Measured, tell
from tests.running import Application
from tests.ui.hands import settled

pytest_plugins = ["tests.ui.conftest"]

WATCH = """() => {
  // From the dispatch of a pointer event on the vial to the first frame in which the picture's
  // transform is another one.
  window.latencies = [];
  const image = document.querySelector('[aria-label="Stage"] img');
  let waiting;
  document.querySelector('[aria-label=Roll]').addEventListener('pointermove', (event) => {
    if (event.buttons && waiting === undefined)
      waiting = { at: event.timeStamp, shown: image.style.transform };
  }, true);
  const tick = () => {
    if (waiting && image.style.transform !== waiting.shown) {
      window.latencies.push(performance.now() - waiting.at);
      waiting = undefined;
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


def drag(page: Page, how: str, target_ms: float) -> None:
    """Drag the vial, and tell how long the picture took to follow."""
    page.evaluate(WATCH)
    box = page.get_by_role("slider", name="Roll", exact=True).bounding_box()
    assert box
    page.mouse.move(box["x"] + 300, box["y"] + 15)
    page.mouse.down()
    for step in range(120):
        page.mouse.move(box["x"] + 300 + step, box["y"] + 15)
        page.wait_for_timeout(25)
    page.mouse.up()
    latencies = sorted(page.evaluate("window.latencies"))
    p95 = latencies[int(len(latencies) * 0.95)]
    assert len(latencies) > 50
    print(f"\ndrag to moved picture, {how}: median {statistics.median(latencies):.0f} ms")
    tell(Measured(f"95 % of {len(latencies)} moves of a drag, {how}", p95, target_ms, "ms"))
