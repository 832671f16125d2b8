"""The browser's types are made from the server's document, and up to date."""

import subprocess
from pathlib import Path

from sequor.web.openapi import document
from tests.conftest import ROOT

API = ROOT / "frontend" / "src" / "api"


def test_the_kept_document_is_the_served_one() -> None:
    assert (API / "openapi.json").read_text() == document(), "run bin/types"


def test_the_types_are_made_from_the_document(tmp_path: Path) -> None:
    subprocess.run(
        ["bash", ROOT / "bin" / "types", tmp_path / "schema.d.ts"], check=True, capture_output=True
    )
    assert (API / "schema.d.ts").read_text() == (tmp_path / "schema.d.ts").read_text(), (
        "run bin/types"
    )
