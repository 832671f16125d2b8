"""The demo's pictures and their truth, for tests that draw along true edges."""

import json

from playwright.sync_api import Page

from tests.conftest import ROOT
from tests.ui.hands import drag, picture_point

PICTURES = ROOT / "demo" / "pictures"
TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())


def edge_of(name: str, edge: str) -> dict:
    """An edge of a picture by its name, one that is crooked in reality too."""
    known = TRUTH[name]
    return next(e for e in known["edges"] + known["untrue"] if e["name"] == edge)


def size_of(name: str) -> tuple[int, int]:
    return TRUTH[name]["width"], TRUTH[name]["height"]


def drag_along(page: Page, name: str, edge: str) -> None:
    """Draw along an edge with the tool in the hand."""
    ends = edge_of(name, edge)["points"]
    drag(page, *(picture_point(page, *end, size_of(name)) for end in ends))
