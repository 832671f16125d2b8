"""The real application and a window of each of the other engines."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.engines.hand import Hand
from tests.engines.windows import window_of
from tests.running import Application, running


@pytest.fixture
def application(tmp_path: Path) -> Iterator[Application]:
    with running(tmp_path / "var", "--empty") as application:
        yield application


@pytest.fixture(params=["firefox", "webkit"])
def hand(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Hand]:
    folder = tmp_path / request.param
    folder.mkdir()
    with window_of(request.param, folder) as window:
        yield Hand(window)
