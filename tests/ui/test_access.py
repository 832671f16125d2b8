"""Every view, in both schemes and at three sizes, by axe-core's rules of WCAG 2.2 A and AA and its
best practices: no violation of any impact."""

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, ViewportSize, expect

from tests.conftest import ROOT
from tests.ui.demo import PICTURES
from tests.ui.hands import draw_horizon, horizon_file, open_bench, settled, wait_for

AXE = (ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js").read_text()
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
VIOLATIONS = """async (tags) => {
  const found = await axe.run(document, { runOnly: { type: 'tag', values: tags } });
  return found.violations.map(({ id, impact, nodes }) =>
    `${id} (${impact}): ` + nodes.map(({ html, any, all, none }) => {
      const why = [...any, ...all, ...none].map(({ message }) => message);
      return `${html.slice(0, 200)} ${why}`;
    }).join('; '));
}"""
RESTS = """(scheme) =>
  document.documentElement.classList.contains(scheme) &&
  !document.getAnimations().some((one) => one instanceof CSSTransition)"""
ARRANGED = """() => new Promise((done) => {
  const lies = () =>
    [...document.querySelectorAll('[data-place]')].map((card) => {
      const { left, top, width } = card.getBoundingClientRect();
      return [left, top, width, getComputedStyle(card).visibility].join(' ');
    }).join();
  const look = (before) => requestAnimationFrame(() => setTimeout(() => {
    const now = lies();
    if (now === before && !now.includes('hidden')) done();
    else look(now);
  }));
  look(lies());
})"""
"""Done when the cards of a sheet lie where they lay a frame ago: rows that a window of another size
makes anew are hidden until they were measured, and hidden links have no words."""
SIZES: list[ViewportSize] = [
    {"width": 1280, "height": 800},
    {"width": 820, "height": 1180},
    {"width": 390, "height": 844},
]


def violations(page: Page, ready: Callable[[], None] = lambda: None) -> dict[str, list[str]]:
    """What is wrong with what is shown, by size and scheme."""
    found = {}
    for scheme in ("light", "dark"):
        # No colour is on its way from one to the other, and the window is not given another size
        # meanwhile: of two such changes at once the browser may tell the page of one only.
        page.emulate_media(color_scheme=scheme, reduced_motion="reduce")
        page.wait_for_function(RESTS, arg=scheme)
        for size in SIZES:
            page.set_viewport_size(size)
            page.evaluate(ARRANGED)
            ready()
            page.wait_for_function(RESTS, arg=scheme)
            if not page.evaluate("() => 'axe' in window"):
                page.evaluate(AXE)
            wrong = page.evaluate(VIOLATIONS, TAGS)
            if wrong:
                found[f"{size['width']} {scheme}"] = wrong
    page.set_viewport_size(SIZES[0])
    return found


@pytest.mark.parametrize("step", [1, 2, 3, 4, 5])
def test_every_step_of_the_bench(set_page: Page, tmp_path: Path, step: int) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 2.0))
    draw_horizon(page, 2.0)
    wait_for(page, lambda now: bool(now["recipe"]["readings"]))
    page.keyboard.press(str(step))
    steps = page.get_by_role("navigation", name="Steps").get_by_role("button")
    expect(steps.nth(step - 1)).to_have_attribute("aria-current", "step")

    def ready() -> None:
        settled(page)
        if step == 5:  # what can be pressed fades in
            expect(page.get_by_role("button", name="Export", exact=True)).to_be_enabled()

    assert violations(page, ready) == {}


def test_what_lies_over_the_bench(set_page: Page) -> None:
    page = set_page
    open_bench(page, PICTURES / "pumping-station-from-the-left.jpg")
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    assert violations(page) == {}
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.keyboard.press("/")
    expect(dialog).to_be_visible()
    assert violations(page) == {}
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.keyboard.press("a")
    expect(page.get_by_role("button", name="Ink all")).to_be_visible()
    assert violations(page, lambda: settled(page)) == {}


def test_every_other_page(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.5, name="another.png"))
    other = page.url.rsplit("/", 1)[1]
    open_bench(page, horizon_file(tmp_path, 1.0))
    server, number = page.url.rsplit("/pictures/", 1)
    shown = page.request.get(f"{server}/api/pictures/{number}").json()
    sheet, chosen = f"/sets/{shown['set_id']}", f"pictures={number},{other}"
    found, titles = {}, set()
    for address in (
        sheet,
        f"{sheet}/review?{chosen}",
        f"{sheet}/carry?{chosen}",
        f"/pictures/{number}/versions",
        f"/pictures/{number}/history",
        "/exports",
        "/bin",
        "/storage",
    ):
        page.goto(f"{server}{address}")
        expect(page.get_by_role("heading", level=1)).to_have_count(1)
        page.wait_for_load_state("networkidle")
        found |= {f"{address} {where}": wrong for where, wrong in violations(page).items()}
        titles.add(page.title())
    assert found == {}
    # Each window says which page it is, and those of a picture which picture.
    assert len(titles) == 8
    assert sum("horizon.png" in title for title in titles) >= 2


def test_a_review_that_waits_for_a_picture(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    server, number = page.url.rsplit("/pictures/", 1)
    shown = page.request.get(f"{server}/api/pictures/{number}").json()
    held: list[Route] = []
    page.route("**/api/pictures/*/proposal", lambda route: held.append(route))
    page.goto(f"{server}/sets/{shown['set_id']}/review?pictures={number}")
    expect(page.get_by_role("img", name="The picture is being read")).to_be_visible()
    assert violations(page) == {}
    for route in held:
        route.abort()


def test_what_holds_is_said_when_the_hand_rests(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 2.0))
    said = page.get_by_role("status", name="What holds")
    expect(said).to_contain_text("keeps all of the picture")
    draw_horizon(page, 2.0)
    expect(said).to_contain_text("2.00° anticlockwise")
    stage = page.get_by_role("group", name="Stage")
    description = page.locator(f"#{stage.get_attribute('aria-describedby')}")
    expect(description).to_contain_text("1 reading.")
    expect(description).to_contain_text("2.00° anticlockwise")


SHAPES = """() => [...document.querySelectorAll('[aria-label="Field book"] button[aria-pressed]')]
  .filter((tool) => tool.querySelector('svg'))
  .map((tool) => [...tool.querySelectorAll('svg *')]
    .map((e) => `${e.tagName} ${e.getAttribute('d')} ${e.getAttribute('stroke-dasharray')}`)
    .join())"""
"""How the sign of each kind is drawn, whatever its colour."""


def test_no_kind_of_reading_is_told_by_its_colour_alone(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    shapes = page.evaluate(SHAPES)
    assert len(shapes) == 8
    assert len(set(shapes)) == 8
    # Nor what is in the hand: it is said, too.
    tools = page.get_by_role("region", name="Field book").get_by_role("button", pressed=True)
    expect(tools.filter(has_text="Line")).to_have_count(1)


STYLE = """(element) => {
  const { transitionDuration, color, outlineStyle } = getComputedStyle(element);
  return [transitionDuration, color, outlineStyle];
}"""


@pytest.mark.parametrize("media", ["reduced_motion", "contrast", "forced_colors"])
def test_what_the_system_asks_for(set_page: Page, tmp_path: Path, media: str) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    button = page.get_by_role("navigation", name="Steps").get_by_role("button", name="Measure")
    if media == "reduced_motion":
        page.emulate_media(reduced_motion="reduce")
        assert button.evaluate(STYLE)[0] == "0.001s"
    elif media == "contrast":
        soft = page.get_by_text("tilt as shot")
        ink = page.evaluate("() => getComputedStyle(document.body).color")
        assert soft.evaluate(STYLE)[1] != ink
        page.emulate_media(contrast="more")
        assert soft.evaluate(STYLE)[1] == ink
    else:
        page.emulate_media(forced_colors="active")
        assert button.evaluate(STYLE)[2] == "solid"
