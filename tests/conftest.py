"""What many tests share: open photographs, made pictures, a private database, the application."""

import os
from collections.abc import Iterator
from importlib.util import find_spec
from pathlib import Path

import hypothesis
import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image
from sqlalchemy import Engine, text

from sequor.catalogues import know_all
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Reading, Recipe
from sequor.core.report.report import NoteWords, Report, notes_in_words, report_of
from sequor.core.solve import solve
from sequor.services.engine import engine_for
from sequor.settings import Settings
from sequor.store.database import connect, migrate
from sequor.store.mariadb import PrivateServer, free_port
from sequor.store.models import Base
from sequor.web.app import create_app
from sequor.web.key import key_of
from sequor.work.dispatcher import Dispatcher
from tests.installed import in_memory, prepare, put_into

collect_ignore = [] if find_spec("marionette_driver") else ["engines"]
"""Only ``bin/test --engines`` installs what drives them."""

ROOT = Path(__file__).parents[1]
# No test depends on the machine's speed; the examples are others in every run, by the seed that
# bin/test prints, everywhere the same.
hypothesis.settings.register_profile("sequor", deadline=None)
hypothesis.settings.load_profile("sequor")
know_all()
# Photographs of Debian's package opencv-doc.
OPEN_PICTURES = Path("/usr/share/doc/opencv-doc/examples/data")


@pytest.fixture(scope="session")
def photograph() -> np.ndarray:
    """An open colour photograph, 868 x 600."""
    return np.asarray(Image.open(OPEN_PICTURES / "building.jpg").convert("RGB"))


def line(kind: str, *ends: float, id: str = "a", **more: float) -> Reading:
    """A reading from x1, y1, x2, y2."""
    x1, y1, x2, y2 = ends
    return Reading(id=id, kind=kind, points=((x1, y1), (x2, y2)), **more)


def said_of(photo: PhotoFacts, recipe: Recipe) -> Report:
    """What is said of a recipe in words."""
    return report_of(photo, recipe, solve(photo, recipe))


def notes_of(photo: PhotoFacts, recipe: Recipe, words: str = "") -> list[NoteWords]:
    """The notes of a recipe that hold some words."""
    notes = notes_in_words(recipe, solve(photo, recipe))
    return [note for note in notes if words in note.text]


def horizon_picture(
    tilt_deg: float, width: int = 900, height: int = 600, offset: float = 0.0
) -> np.ndarray:
    """A bright sky over dark water, the border tilted clockwise, anti-aliased exactly enough to
    measure.
    """
    fine = 8
    x, y = np.meshgrid(
        (np.arange(width) + 0.5) - width / 2,
        (np.arange(height * fine) + 0.5) / fine - height / 2 - offset,
    )
    below = (y > np.tan(np.radians(tilt_deg)) * x).reshape(height, fine, width).mean(axis=1)
    sky, water = np.array([205, 218, 236]), np.array([52, 66, 60])
    return (sky * (1 - below[..., None]) + water * below[..., None] + 0.5).astype(np.uint8)


def sea_picture(tilt_deg: float, width: int = 900, height: int = 600) -> np.ndarray:
    """The same with waves, which show that what lies below is water: the nearer to the camera, the
    larger, and longer than they are high.
    """
    x, y = np.meshgrid(np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2)
    near = np.maximum(y - np.tan(np.radians(tilt_deg)) * x, 0.0)
    depth = np.maximum(near, 1.0) / height
    waves = np.sin(4 / depth) * np.sin(0.9 / depth + x / width / depth * 1.5)
    swell = np.minimum(near / 8, 1.0) * (3 + 12 * near / height) * waves
    light = horizon_picture(tilt_deg, width, height) + swell[..., None]
    return np.clip(light + 0.5, 0, 255).astype(np.uint8)


def measured_tilt_deg(pixels: np.ndarray) -> float:
    """Tilt of the one horizon in a picture, measured without the project's code.

    Where each column crosses the middle grey.
    """
    grey = pixels.astype(float).mean(axis=2)
    middle = (grey[:20].mean() + grey[-20:].mean()) / 2
    columns = np.arange(20, grey.shape[1] - 20)
    first = np.argmax(grey[:, columns] < middle, axis=0)
    above, under = grey[first - 1, columns], grey[first, columns]
    crossing = first - 1 + (above - middle) / (above - under)
    return float(np.degrees(np.arctan(np.polyfit(columns, crossing, 1)[0])))


@pytest.fixture(scope="session", autouse=True)
def installed(tmp_path_factory: pytest.TempPathFactory) -> None:
    """Say where the database that is installed once lies; workers of one run share it."""
    own = tmp_path_factory.getbasetemp()
    prepare(own.parent if "PYTEST_XDIST_WORKER" in os.environ else own)


@pytest.fixture(scope="session")
def database() -> Iterator[PrivateServer]:
    """A MariaDB server of the tests' own, with its tables."""
    with in_memory() as folder, PrivateServer(put_into(folder), free_port()) as server:
        migrate(server.url)
        yield server


@pytest.fixture(scope="session")
def engine(database: PrivateServer) -> Iterator[Engine]:
    engine = connect(database.url)
    yield engine
    engine.dispose()


@pytest.fixture
def empty_tables(engine: Engine) -> Engine:
    """The engine, with every table emptied."""
    with engine.begin() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        for table in Base.metadata.tables:
            connection.execute(text(f"TRUNCATE TABLE {table}"))
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
    return engine


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    return Settings(data=tmp_path / "var", frontend=ROOT / "frontend" / "dist", max_megapixels=4.0)


@pytest.fixture(scope="session")
def workers() -> Iterator[Dispatcher]:
    """The engine that does the heavy work, as it ships."""
    engine = engine_for(Settings())
    yield engine
    engine.stop()


def know(client: FlaskClient, settings: Settings) -> None:
    """Let a client ask as the one who started the application."""
    client.environ_base["HTTP_HOST"] = "127.0.0.1:8700"
    key = key_of(settings.data, settings.port)
    client.environ_base["HTTP_AUTHORIZATION"] = f"Bearer {key.text}"


@pytest.fixture
def browserless(
    empty_tables: Engine, workers: Dispatcher, settings: Settings
) -> Iterator[FlaskClient]:
    """A client of the application, without a network."""
    app = create_app(settings, workers, empty_tables)
    with app.test_client() as client:
        know(client, settings)
        yield client
    app.extensions["sequor"].exports.stop()
