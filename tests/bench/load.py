"""Everything at once: what a busy moment asks for."""

import threading
from contextlib import suppress
from typing import Any

from tests.running import Application


def wedged(app: Application, picture: int) -> dict[str, Any]:
    """A picture turned so that its corners are to be filled; its state."""
    state = app.send("GET", f"/api/pictures/{picture}")[1]
    edits = [
        {"do": "turn_by", "axis": "roll", "deg": -3},
        {"do": "allow_fill", "allowance": 1},
    ]
    body = {"based_on": state["entry_id"], "edits": edits}
    kept: dict[str, Any] = app.post(f"/api/pictures/{picture}/ledger", body)[1]
    return kept


def ask_for_everything(app: Application, state: dict[str, Any]) -> None:
    """20 exports, 12 fills and 40 crisp views of one picture, at the same moment."""
    for _ in range(20):
        assert app.post(f"/api/pictures/{state['id']}/exports", {"format": "jpeg"})[0] == 202
    images = state["addresses"]["corrected"]
    fills = [",".join([f"sharp.{n}"] * 4) for n in range(1, 13)]
    paths = [f"{images}/filled.jpg?candidates={fill}" for fill in fills]
    box = "y=0&width=1800&height=1200&scale=0.5"
    paths += [f"{images}/view.jpg?x={n * 20}&{box}" for n in range(40)]
    for path in paths:
        threading.Thread(target=_ask, args=(app, path), daemon=True).start()


def _ask(app: Application, path: str) -> None:
    with suppress(OSError):  # when the application is stopped
        app.send("GET", path)
