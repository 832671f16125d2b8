"""The demo sets come in through the door of an upload, once."""

import json
from pathlib import Path

from sqlalchemy import Engine, func, select

from sequor.services.demo import load_demo
from sequor.settings import Settings
from sequor.store.library import list_sets
from sequor.store.models import LedgerEntry, Original, Picture
from sequor.web.app import create_app
from sequor.work.dispatcher import Dispatcher
from tests.conftest import ROOT


def test_loading_twice_changes_nothing(
    empty_tables: Engine, workers: Dispatcher, tmp_path: Path
) -> None:
    settings = Settings(data=tmp_path / "var")
    context = create_app(settings, workers, empty_tables).extensions["sequor"]
    resources = context.resources
    listed = json.loads((ROOT / "demo" / "sets.json").read_text())
    assert 2 <= len(listed) <= 3

    def counts() -> list[int]:
        with resources.database.reading() as session:
            return [
                session.scalar(select(func.count()).select_from(table))
                for table in (Picture, Original, LedgerEntry)
            ]

    load_demo(resources, ROOT / "demo")
    first = counts()
    assert first == [sum(len(found["pictures"]) for found in listed)] * 3
    load_demo(resources, ROOT / "demo")
    assert counts() == first
    with resources.database.reading() as session:
        assert [found.name for found, _ in list_sets(session)] == [
            found["name"] for found in listed
        ]
    context.exports.stop()
