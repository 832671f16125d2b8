"""Imports run one way (the contracts are in pyproject.toml)."""

import subprocess
import sys
from pathlib import Path

from tests.conftest import ROOT


def test_the_import_contracts_hold() -> None:
    checked = subprocess.run(
        [Path(sys.executable).parent / "lint-imports", "--no-cache"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert checked.returncode == 0, checked.stdout
    assert "7 kept, 0 broken" in checked.stdout
