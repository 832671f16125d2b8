"""What a person does at the screen, for the tests: add files, draw, read off, export."""

import math
import re
from collections.abc import Callable
from pathlib import Path
from weakref import WeakKeyDictionary

import numpy as np
from PIL import Image
from playwright.sync_api import FloatRect, Locator, Page, expect

from tests.conftest import horizon_picture
from tests.waiting import until

WIDTH, HEIGHT = 1800, 1200
ON_SCREEN = """([x, y, w, h]) => {
  const image = document.querySelector('[data-stage] img');
  const matrix = new DOMMatrix(getComputedStyle(image).transform);
  const point = new DOMPoint(x / w * image.clientWidth, y / h * image.clientHeight);
  const spot = matrix.transformPoint(point);
  const box = image.parentElement.getBoundingClientRect();
  return [box.left + spot.x / spot.w, box.top + spot.y / spot.w];
}"""
"""Where a point of a source of a size is in the window, by the browser's own layout."""

LIES_STILL = """() => new Promise((done) => {
  const stage = document.querySelector('[data-stage]');
  const lies = () => {
    const { left, top, width, height } = stage.getBoundingClientRect();
    const image = stage.querySelector('img');  // none where the picture bends
    const transform = image && getComputedStyle(image).transform;
    return [left, top, width, height, transform].join(' ');
  };
  const look = (before) => requestAnimationFrame(() => setTimeout(() => {
    const now = lies();
    if (now === before) done();
    else look(now);
  }));
  look(lies());
})"""
"""Done when the stage and its picture lie where they lay a frame ago: a stage that was given
another size is drawn in it a frame later."""

_SETS: WeakKeyDictionary[Page, str] = WeakKeyDictionary()


def own_set(page: Page, address: str) -> None:
    """Remember which set a window works in."""
    _SETS[page] = address


def set_of(page: Page) -> str:
    """The address of the set that a window works in."""
    return _SETS[page]


def add(page: Page, *files: Path) -> None:
    """Choose files on the contact sheet of the window's set."""
    if page.url != _SETS[page]:
        page.goto(_SETS[page])
    page.get_by_label("Picture files").set_input_files([str(file) for file in files])


def horizon_file(folder: Path, tilt_deg: float, name: str = "horizon.png", **size: int) -> Path:
    Image.fromarray(horizon_picture(tilt_deg, **({"width": WIDTH, "height": HEIGHT} | size))).save(
        folder / name
    )
    return folder / name


def open_bench(page: Page, file: Path) -> Locator:
    """Put a file into the window's set, without the contact sheet, and open it on the bench."""
    server, _, number = _SETS[page].rpartition("/sets/")
    sent = {"name": file.name, "mimeType": "image/*", "buffer": file.read_bytes()}
    added = page.request.post(
        f"{server}/api/sets/{number}/pictures", multipart={"file": sent}
    ).json()
    page.goto(f"{server}/pictures/{added['picture']['id']}")
    picture = page.get_by_role("img", name=file.name)
    expect(picture).to_be_visible()
    page.wait_for_function("() => document.querySelector('img[alt*=\"corrected\"]').complete")
    settled(page)
    return picture


def resized(page: Page, width: int, height: int) -> None:
    """Give the window another size and wait until it is drawn in it."""
    page.set_viewport_size({"width": width, "height": height})
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")


def settled(page: Page) -> None:
    """Wait until everything is kept and the picture lies still.

    The points of a drag are worked out from where it lies.
    """
    expect(page.get_by_role("group", name="Stage")).to_have_attribute("data-settled", "true")
    page.evaluate(LIES_STILL)


def state(page: Page) -> dict:
    """The picture on the bench as the server has it, when everything is kept."""
    settled(page)
    server, _, number = page.url.rpartition("/pictures/")
    return page.request.get(f"{server}/api/pictures/{number}").json()


def wait_for(page: Page, condition: Callable[[dict], bool]) -> dict:
    """The state of the picture as soon as a condition holds for it."""

    def come() -> dict | None:
        found = state(page)
        return found if condition(found) else None

    return until(come)


def entered(page: Page, before: int) -> dict:
    """The state when another entry of the ledger holds than before."""
    return wait_for(page, lambda now: now["entry_id"] != before)


def picture_point(
    page: Page, x: float, y: float, size: tuple[int, int] = (WIDTH, HEIGHT)
) -> tuple[float, float]:
    """Where a point of the source is on screen, by the browser's own layout of the picture."""
    return tuple(page.evaluate(ON_SCREEN, [x, y, *size]))


def drag(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=4)
    page.mouse.move(*end, steps=4)
    page.mouse.up()


def draw_horizon(page: Page, tilt_deg: float) -> None:
    rise = math.tan(math.radians(tilt_deg)) * WIDTH * 0.45
    drag(
        page,
        picture_point(page, WIDTH * 0.05, HEIGHT / 2 - rise),
        picture_point(page, WIDTH * 0.95, HEIGHT / 2 + rise),
    )
    settled(page)


def tube_of(page: Page) -> FloatRect:
    """Where the vial of the roll is."""
    box = page.get_by_role("slider", name="Roll", exact=True).bounding_box()
    assert box
    return box


def shown_roll(page: Page) -> float:
    return float(
        page.get_by_role("slider", name="Roll", exact=True).get_attribute("aria-valuenow") or "nan"
    )


def expect_roll(page: Page, deg: float, within: float = 0.0051) -> None:
    page.wait_for_function(
        "([deg, within]) => "
        "Math.abs(document.querySelector('[aria-label=Roll]')?.getAttribute('aria-valuenow') - "
        "deg) <= within",
        arg=[deg, within],
    )


def cost(page: Page) -> Locator:
    """What is said of what the frame keeps."""
    return page.get_by_role("region", name="Cost of the frame")


def compare(page: Page, how: str) -> None:
    """As shot and finished together: beside, divided, or over each other."""
    page.get_by_title("As shot against finished").click()
    page.get_by_role("menuitem", name=how).click()


def to_step(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=name).click()


def export(page: Page, folder: Path, open_step: Callable[[], None] | None = None) -> np.ndarray:
    """Export as it stands; the step is opened by its key unless told how."""
    if open_step:
        open_step()
    else:
        page.keyboard.press("5")
    with page.expect_download() as download:
        page.get_by_role("button", name="Export", exact=True).click()
    target = folder / download.value.suggested_filename
    download.value.save_as(target)
    expect(page.get_by_text(re.compile("0 empty pixels"))).to_be_visible()
    return np.asarray(Image.open(target))
