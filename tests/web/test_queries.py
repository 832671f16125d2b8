"""Lists ask the database as often for five hundred rows as for one."""

from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine, event

from sequor.core.recipe import Recipe, Trim
from sequor.store.database import sessions
from sequor.store.entries import entry_columns
from sequor.store.library import get_picture, photo_of
from sequor.store.models import Export, LedgerEntry, Picture

ROWS = (1, 10, 500)


def statements_of(
    client: FlaskClient, engine: Engine, address: str, body: dict | None = None
) -> tuple[int, Any]:
    """How many statements an address needs, and what it answers."""
    statements: list[str] = []

    def count(*arguments: Any) -> None:
        statements.append(arguments[2])

    event.listen(engine, "before_cursor_execute", count)
    try:
        answer = client.post(address, json=body) if body else client.get(address)
    finally:
        event.remove(engine, "before_cursor_execute", count)
    assert answer.status_code == 200, answer.json
    return len(statements), answer.json


def fill(engine: Engine, picture_id: int, kind: str, rows: int) -> None:
    """Make rows up to so many: entries, exports, or pictures of the set."""
    with sessions(engine).begin() as session:
        picture = get_picture(session, picture_id)
        photo = photo_of(picture.original)
        entry = entry_columns(photo, Recipe(trim=Trim(roll_deg=1)), "turned by hand")
        if kind == "ledger":
            there = session.query(LedgerEntry).filter_by(picture_id=picture_id).count()
            for _ in range(rows - there):
                made = LedgerEntry(picture_id=picture_id, parent_id=picture.head_id, **entry)
                session.add(made)
                session.flush()
                picture.head = made
        elif kind == "exports":
            there = session.query(Export).count()
            for number in range(there, rows):
                session.add(
                    Export(
                        picture_id=picture_id,
                        entry_id=picture.head_id,
                        format="png",
                        quality=90,
                        state="done",
                        file_name=f"{number}.png",
                    )
                )
        else:
            there = session.query(Picture).filter_by(set_id=picture.set_id).count()
            for number in range(there + 1, rows + 1):
                made_picture = Picture(
                    set_id=picture.set_id,
                    original=picture.original,
                    name=f"{number}.png",
                    version=number,
                    version_name=f"version {number}",
                )
                session.add(made_picture)
                session.flush()
                first = LedgerEntry(picture_id=made_picture.id, **entry)
                session.add(first)
                session.flush()
                made_picture.head = first


@pytest.mark.parametrize(
    ("kind", "address", "listed"),
    [
        ("sheet", "/api/sets/{set_id}", "pictures"),
        ("exports", "/api/exports?limit=500", "exports"),
        ("exports", "/api/pictures/{id}/exports", "exports"),
        ("ledger", "/api/pictures/{id}/history", "entries"),
        ("versions", "/api/pictures/{id}/versions", "versions"),
    ],
)
def test_lists_ask_as_often_for_many_rows_as_for_one(
    browserless: FlaskClient, engine: Engine, picture: dict, kind: str, address: str, listed: str
) -> None:
    asked = []
    for rows in ROWS:
        fill(engine, picture["id"], kind, rows)
        found, answer = statements_of(browserless, engine, address.format(**picture))
        most = 50 if address.startswith("/api/pictures/{id}/exports") else rows
        assert len(answer[listed]) == min(rows, most)
        asked.append(found)
    assert max(asked) == min(asked)
    assert max(asked) <= 8


def test_names_of_many_files_ask_as_often_as_that_of_one(
    browserless: FlaskClient, engine: Engine, picture: dict
) -> None:
    asked = []
    for rows in ROWS:
        fill(engine, picture["id"], "sheet", rows)
        sheet = browserless.get(f"/api/sets/{picture['set_id']}").json
        body = {
            "picture_ids": [one["id"] for one in sheet["pictures"]],
            "pattern": "{name}-{width}-{date}",
        }
        found, answer = statements_of(browserless, engine, "/api/exports/names", body)
        assert len(answer["names"]) == rows
        asked.append(found)
    assert max(asked) == min(asked)
