"""The tables of the database as files of JSON lines, and back."""

import json
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy import Connection

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.pictures.encode import SUFFIXES
from sequor.store.files import content_hash
from sequor.store.models import Base

_ROWS = 1000
_LEFT_OUT = ("receipts", "kept_answers")


def tables() -> Iterator[sa.Table]:
    """The tables that belong into a backup, those that others refer to first."""
    for table in Base.metadata.sorted_tables:
        if table.name not in _LEFT_OUT:
            yield table


def write_tables(connection: Connection, made: Path) -> tuple[dict[str, int], dict[str, str]]:
    """Every table as JSON lines; the numbers of their rows and the files' hashes."""
    counts: dict[str, int] = {}
    checksums: dict[str, str] = {}
    for table in tables():
        path = made / f"{table.name}.jsonl"
        columns = [column for column in table.columns if column.computed is None]
        count = 0
        with path.open("w") as file:
            rows = connection.execution_options(yield_per=_ROWS).execute(sa.select(*columns))
            for row in rows.mappings():
                file.write(json.dumps(dict(row), default=_as_text) + "\n")
                count += 1
        counts[table.name], checksums[table.name] = count, content_hash(path)
    return counts, checksums


def _as_text(value: object) -> str:
    if isinstance(value, datetime):
        return value.isoformat(sep=" ")
    raise TypeError(type(value).__name__)


def read_table(connection: Connection, path: Path, name: str) -> int:
    """Put the rows of a file into a table as it is now; how many."""
    table = sa.Table(name, sa.MetaData(), autoload_with=connection)
    known = {c.name: c for c in table.columns}
    count, some = 0, []
    statement: sa.TextClause | None = None
    with path.open() as file:
        for line in file:
            row: dict[str, Any] = json.loads(line)
            if not set(row) <= set(known):
                raise UnusableInput(
                    tr("The backup is not whole: {name} has columns of no schema.", name=name)
                )
            some.append({key: _stored(value) for key, value in row.items()})
            if statement is None:
                places = ", ".join(f":{key}" for key in row)
                statement = sa.text(f"INSERT INTO {name} ({', '.join(row)}) VALUES ({places})")
            if len(some) == _ROWS:
                connection.execute(statement, some)
                count, some = count + len(some), []
    if some and statement is not None:
        connection.execute(statement, some)
    return count + len(some)


def _stored(value: object) -> object:
    return json.dumps(value) if isinstance(value, dict | list) else value


def files_of(connection: Connection) -> Iterator[str]:
    """The files that rows name, by their names below the data folder."""
    tables = Base.metadata.tables
    originals, exports = tables["originals"], tables["exports"]
    for sha256 in connection.scalars(sa.select(originals.c.sha256)):
        yield f"originals/{sha256[:2]}/{sha256}"
    done = sa.select(exports.c.id, exports.c.format).where(exports.c.state == "done")
    for number, kind in connection.execute(done):
        yield f"exports/{number}{SUFFIXES[kind]}"
