"""A picture of a horizon in a set, over HTTP, and what tests of the interface do with it."""

import io

import numpy as np
import pytest
from flask.testing import FlaskClient

from tests.conftest import horizon_picture, line
from tests.pictures.test_reading_files import as_png
from tests.waiting import until


@pytest.fixture
def set_id(browserless: FlaskClient) -> int:
    return browserless.post("/api/sets", json={"name": "Trial"}).json["id"]


@pytest.fixture
def picture(browserless: FlaskClient, set_id: int) -> dict:
    content = as_png(horizon_picture(1.33))
    added = send(browserless, set_id, "horizon.png", content).json["picture"]
    return browserless.get(f"/api/pictures/{added['id']}").json


def send(client: FlaskClient, set_id: int, name: str, content: bytes):
    return client.post(f"/api/sets/{set_id}/pictures", data={"file": (io.BytesIO(content), name)})


def level_line(tilt_deg: float = 1.33, id: str = "a", **more: object) -> dict:
    """An edit that draws a level line through the middle of the horizon picture."""
    rise = np.tan(np.radians(tilt_deg)) * 400
    reading = line("level", 50, 300 - rise, 850, 300 + rise)
    points = [list(point) for point in reading.points]
    return {"do": "draw_reading", "id": id, "kind": "level", "points": points, **more}


def turn(deg: float, axis: str = "roll") -> dict:
    return {"do": "turn_by", "axis": axis, "deg": deg}


def keep(client: FlaskClient, state: dict, *edits: dict):
    """Enter edits after the entry that a state shows."""
    body = {"based_on": state["entry_id"], "edits": edits}
    return client.post(f"/api/pictures/{state['id']}/ledger", json=body)


def draft(client: FlaskClient, state: dict, *edits: dict):
    """Try edits of the entry that a state shows."""
    body = {"based_on": state["entry_id"], "edits": edits}
    return client.post(f"/api/pictures/{state['id']}/draft", json=body)


def finished(client: FlaskClient, export: dict) -> dict:
    def ended() -> dict | None:
        found = client.get(f"/api/exports/{export['id']}").json
        return None if found["state"] in ("queued", "running") else found

    return until(ended)
