"""What the documents claim of the interface."""

import re
from pathlib import Path

from flask.testing import FlaskClient

from tests.conftest import ROOT
from tests.web.conftest import keep, level_line


def test_every_test_that_the_documents_name_exists() -> None:
    named = set()
    for name in ("security.md", "steadiness.md"):
        text = (ROOT / "docs" / name).read_text()
        named |= set(re.findall(r"`(tests/[\w/]+\.py)(?:::(\w+))?`", text))
    assert len(named) > 20
    for path, test in named:
        source = (ROOT / path).read_text()
        assert not test or f"def {test}(" in source, f"{path}::{test}"


def test_what_is_only_read_changes_nothing(browserless: FlaskClient, picture: dict) -> None:
    """Every address that can be got, got: the set and the picture stay as they were."""
    state = keep(browserless, picture, level_line()).json
    _, _, _, program, sha256, recipe_hash = state["addresses"]["corrected"].split("/")
    there = {
        **{"set_id": picture["set_id"], "picture_id": picture["id"], "size_id": 1},
        **{"program": program, "original": sha256, "recipe_hash": recipe_hash},
        **{"place": "left", "column": 0, "row": 0, "export_id": 1, "entry_id": state["entry_id"]},
        "token": "t" * 43,
    }
    sheet = browserless.get(f"/api/sets/{picture['set_id']}").json
    document = browserless.get("/api/openapi.json").json
    got = 0
    for path, operations in document["paths"].items():
        if "get" in operations:
            address = re.sub(r"\{(\w+)\}", lambda found: str(there[found[1]]), path)
            query = f"?entry={state['entry_id']}&ids=1&x=0&y=0&width=9&height=9&scale=1"
            answer = browserless.get(f"{address}{query}&c1=0&c2=0&c3=0&c4=0")
            got += answer.status_code < 500
            assert answer.headers["Content-Type"]
    assert got > 15
    assert browserless.get(f"/api/sets/{picture['set_id']}").json == sheet
    assert browserless.get(f"/api/pictures/{picture['id']}").json == {**state, "said": ""}


def test_every_package_is_pinned() -> None:
    # Each with its version and the hashes of its files, so that pip takes no others.
    for name, least in (
        ("requirements.txt", 20),
        ("requirements-test.txt", 20),
        ("requirements-uv.txt", 1),
    ):
        text = (ROOT / name).read_text().replace("\\\n", "")
        packages = [line for line in text.splitlines() if not line.startswith("#")]
        assert len(packages) >= least
        for line in packages:
            pinned = re.fullmatch(
                r"[\w.-]+==[\w.]+( ;[^-]*)?(\s+--hash=sha256:[0-9a-f]{64})+", line
            )
            assert pinned, line
    assert (Path(ROOT) / "frontend" / "package-lock.json").exists()
