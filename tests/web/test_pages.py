"""What the browser is given: compressed where it takes that, and no more than a page needs."""

import json
import re
from functools import cache
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from tests.conftest import ROOT

DIST = ROOT / "frontend" / "dist"
ENTRY = "index.html"


@cache
def parts() -> dict[str, dict]:
    """What was built, and what each part needs at once: Vite's own list."""
    return json.loads((DIST / ".vite" / "manifest.json").read_text())


def needed(name: str) -> set[str]:
    """The files that a part cannot do without, those of the first page among them."""
    found: set[str] = set()
    todo = [ENTRY, name]
    while todo:
        part = parts()[todo.pop()]
        if part["file"] not in found:
            found |= {part["file"], *part.get("css", [])}
            todo += part.get("imports", [])
    return found


def sent(file: str) -> int:
    compressed = DIST / f"{file}.br"
    return (compressed if compressed.is_file() else DIST / file).stat().st_size


@pytest.mark.parametrize(
    ("page", "most_kb"), [("src/sheet/SheetPage.tsx", 180), ("src/bench/BenchPage.tsx", 300)]
)
def test_what_a_page_needs_is_light(page: str, most_kb: int) -> None:
    """Scripts and styles as they are sent; the limits are our own."""
    assert sum(map(sent, needed(page))) <= most_kb * 1000


def test_what_is_seldom_used_comes_when_it_is() -> None:
    with_bench = needed("src/bench/BenchPage.tsx")
    for later in (
        "src/versions/VersionsPage.tsx",
        "src/history/HistoryPage.tsx",
        "src/review/ReviewPage.tsx",
        "src/carry/CarryPage.tsx",
        "src/exports/ExportsPage.tsx",
        "src/picture/BentPicture.tsx",
        "src/bench/KeySheet.tsx",
    ):
        assert parts()[later]["file"] not in with_bench


@pytest.mark.parametrize("accepted", ["br, gzip", "gzip", "br;q=0"])
def test_files_are_sent_as_they_were_compressed(browserless: FlaskClient, accepted: str) -> None:
    """RFC 9110, 12.5.3: only to those who take it, with `Vary` for caches between."""
    file = parts()[ENTRY]["file"]
    answer = browserless.get(f"/{file}", headers={"Accept-Encoding": accepted})
    assert answer.headers["Vary"] == "Accept-Encoding"
    assert answer.mimetype == "text/javascript"
    assert "immutable" in answer.headers["Cache-Control"]
    if accepted.startswith("br,"):
        assert answer.headers["Content-Encoding"] == "br"
        assert answer.data == (DIST / f"{file}.br").read_bytes()
    else:
        assert "Content-Encoding" not in answer.headers
        assert answer.data == (DIST / file).read_bytes()


@pytest.mark.parametrize("name", ["nothing.js", "../index.html", "%2e%2e/%2e%2e/package.json"])
def test_nothing_else_is_sent(browserless: FlaskClient, name: str) -> None:
    assert browserless.get(f"/assets/{name}").status_code == 404


def test_fonts_come_as_they_are(browserless: FlaskClient) -> None:
    font = next(Path(DIST / "assets").glob("*latin-400-normal*.woff2")).name
    answer = browserless.get(f"/assets/{font}", headers={"Accept-Encoding": "br"})
    assert answer.status_code == 200
    assert "Content-Encoding" not in answer.headers


def test_what_a_page_asks_for_first_comes_with_its_scripts(browserless: FlaskClient) -> None:
    bench = browserless.get("/pictures/7").text
    modules = set(re.findall(r'modulepreload" href="/([^"]+)"', bench))
    assert parts()["src/bench/BenchPage.tsx"]["file"] in modules
    assert modules <= needed("src/bench/BenchPage.tsx")
    asked = re.findall(r'as="fetch" crossorigin="anonymous" href="([^"]+)"', bench)
    assert asked == ["/api/options", "/api/file-options", "/api/me", "/api/pictures/7"]
    assert browserless.get("/api/options").status_code == 200
    # A page that asks for something else is given nothing that it does not need.
    assert "/api/pictures" not in browserless.get("/pictures/7/history").text
