"""Backups: the database and the files, together, while everything runs; and back again.

A backup is a folder: ``originals/`` and ``exports/`` as in the data folder, ``database-.../`` with
a file of JSON lines for every table, and ``backup.json``, which is written last and says what
belongs to it. What is there already is not copied again, and a backup that did not come to its end
leaves the one before as it was.
"""

import json
import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

import sqlalchemy as sa
from alembic.migration import MigrationContext
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import Connection, Engine

from sequor.core.errors import UnusableInput
from sequor.pictures.encode import SUFFIXES
from sequor.store.database import connect, migrate
from sequor.store.files import FileStore, content_hash, write_whole
from sequor.store.models import Base, now

ABOUT, VERSION = "backup.json", 1
_ROWS = 1000
_LEFT_OUT = ("receipts",)
Progress = Callable[[int, int], None]
"""Told the bytes that are done, and of how many."""


class About(BaseModel):
    """What a backup is: of when and which schema, where its tables are and how many rows each has,
    and its files with their sizes.
    """

    model_config = ConfigDict(extra="forbid")

    format: Literal["sequor-backup"] = "sequor-backup"
    version: int = VERSION
    made_at: datetime
    revision: str
    database: str = Field(pattern=r"^database-[0-9A-Za-z-]+$")
    tables: dict[str, int]
    checksums: dict[str, str]
    files: dict[str, int]


@dataclass
class Report:
    """What was done: files copied and already there, bytes copied, rows; and what is missing."""

    copied: int = 0
    kept: int = 0
    byte_size: int = 0
    rows: int = 0
    missing: list[str] = field(default_factory=list)


def back_up(
    engine: Engine, files: FileStore, folder: Path, progress: Progress = lambda *_: None
) -> Report:
    """Write, or bring up to date, the backup in a folder.

    Raises
    ------
    UnusableInput
        When the folder cannot be used or its disk is full; a backup that is there stays whole.
    """
    _check_folder(files, folder)
    done = Report()
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        stamp = now().strftime("%Y%m%d-%H%M%S-%f")
        made = folder / f"database-{stamp}"
        made.mkdir(mode=0o700)
        before = _read_about(folder)
        with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
            connection.execute(sa.text("START TRANSACTION WITH CONSISTENT SNAPSHOT"))
            revision = MigrationContext.configure(connection).get_current_revision() or ""
            tables, checksums = _write_tables(connection, made)
            wanted = list(_files_of(connection))
            connection.rollback()
        done.rows = sum(tables.values())
        there = _copy(files.root, folder, wanted, before, done, progress)
        about = About(
            made_at=now(),
            revision=revision,
            database=made.name,
            tables=tables,
            checksums=checksums,
            files=there,
        )
        os.sync()
        write_whole(folder / ABOUT, about.model_dump_json(indent=1).encode())
    except OSError as problem:
        raise UnusableInput(
            f"The backup did not come to its end: {problem.strerror}. What was there before is "
            "whole; free some space, or take another folder, and start it again."
        ) from problem
    for old in folder.glob("database-*"):
        if old.name != about.database:
            shutil.rmtree(old, ignore_errors=True)
    return done


def restore(url: str, root: Path, folder: Path, progress: Progress = lambda *_: None) -> Report:
    """Put a backup into an empty data folder and an empty database.

    Parameters
    ----------
    url : str
        The database.
    root : Path
        The data folder.

    Raises
    ------
    UnusableInput
        When it is no backup, or not whole.
    """
    about = read_backup(folder)
    done = Report()
    wanted = [(name, folder / name) for name in about.files]
    for name, path in wanted:
        if not path.is_file() or path.stat().st_size != about.files[name]:
            raise UnusableInput(f"The backup is not whole: {name} is missing or cut off.")
    _copy(folder, root, [name for name, _ in wanted], None, done, progress)
    migrate(url, about.revision)
    engine = connect(url)
    with engine.begin() as connection:
        connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 0"))
        for name, count in about.tables.items():
            done.rows += _read_table(connection, folder / about.database / f"{name}.jsonl", name)
            there = connection.scalar(sa.text(f"SELECT COUNT(*) FROM {name}"))
            if there != count:
                raise UnusableInput(f"The backup is not whole: {name} has {there} of {count} rows.")
        connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 1"))
    engine.dispose()
    migrate(url)
    return done


def read_backup(folder: Path) -> About:
    """What a backup is, if it is one and its tables are what was written.

    Raises
    ------
    UnusableInput
        When it is not.
    """
    about = _read_about(folder)
    if about is None:
        raise UnusableInput(f"{folder} holds no finished backup: there is no {ABOUT} in it.")
    if about.version > VERSION:
        raise UnusableInput(f"{folder} was written by a newer version of Sequor.")
    for name, checksum in about.checksums.items():
        path = folder / about.database / f"{name}.jsonl"
        if name not in about.tables or not path.is_file() or content_hash(path) != checksum:
            raise UnusableInput(
                f"The backup is not whole: its table {name} was changed or is gone."
            )
    for name in about.files:
        kind, *rest = Path(name).parts
        if kind not in ("originals", "exports") or ".." in rest or Path(name).is_absolute():
            raise UnusableInput(f"The backup names a file that cannot belong to it: {name}.")
    return about


def _check_folder(files: FileStore, folder: Path) -> None:
    inside = folder.resolve()
    if inside == files.root.resolve() or files.root.resolve() in inside.parents:
        raise UnusableInput("A backup cannot lie inside the data folder that it is of.")
    if folder.exists() and not folder.is_dir():
        raise UnusableInput(f"{folder} is no folder.")
    if folder.is_dir() and _read_about(folder) is None:
        foreign = [p.name for p in folder.iterdir() if p.name not in ("originals", "exports")]
        if any(not name.startswith("database-") for name in foreign):
            raise UnusableInput(
                f"{folder} holds other things than a backup ({min(foreign)}); take an empty folder."
            )


def _read_about(folder: Path) -> About | None:
    try:
        text = (folder / ABOUT).read_text()
    except FileNotFoundError:
        return None
    try:
        return About.model_validate_json(text)
    except ValidationError as problem:
        raise UnusableInput(f"{folder / ABOUT} is not that of a backup.") from problem


def _tables() -> Iterator[sa.Table]:
    for table in Base.metadata.sorted_tables:
        if table.name not in _LEFT_OUT:
            yield table


def _write_tables(connection: Connection, made: Path) -> tuple[dict[str, int], dict[str, str]]:
    """Every table as JSON lines; the numbers of their rows and the files' hashes."""
    counts: dict[str, int] = {}
    checksums: dict[str, str] = {}
    for table in _tables():
        path = made / f"{table.name}.jsonl"
        columns = [column for column in table.columns if column.computed is None]
        count = 0
        with path.open("w") as file:
            rows = connection.execution_options(yield_per=_ROWS).execute(sa.select(*columns))
            for row in rows.mappings():
                file.write(json.dumps(dict(row), default=_plain) + "\n")
                count += 1
        counts[table.name], checksums[table.name] = count, content_hash(path)
    return counts, checksums


def _plain(value: object) -> str:
    if isinstance(value, datetime):
        return value.isoformat(sep=" ")
    raise TypeError(type(value).__name__)


def _read_table(connection: Connection, path: Path, name: str) -> int:
    """Put the rows of a file into a table as it is now; how many."""
    table = sa.Table(name, sa.MetaData(), autoload_with=connection)
    known = {c.name: c for c in table.columns}
    count, some = 0, []
    statement: sa.TextClause | None = None
    with path.open() as file:
        for line in file:
            row: dict[str, Any] = json.loads(line)
            if not set(row) <= set(known):
                raise UnusableInput(f"The backup is not whole: {name} has columns of no schema.")
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


def _files_of(connection: Connection) -> Iterator[str]:
    """The files that rows name, by their names below the data folder."""
    tables = Base.metadata.tables
    originals, exports = tables["originals"], tables["exports"]
    for sha256 in connection.scalars(sa.select(originals.c.sha256)):
        yield f"originals/{sha256[:2]}/{sha256}"
    done = sa.select(exports.c.id, exports.c.format).where(exports.c.state == "done")
    for number, kind in connection.execute(done):
        yield f"exports/{number}{SUFFIXES[kind]}"


def _copy(
    source: Path,
    target: Path,
    names: list[str],
    before: About | None,
    done: Report,
    progress: Progress,
) -> dict[str, int]:
    """Copy files that are not there yet; the sizes of all that are there then."""
    there: dict[str, int] = {}
    sizes: dict[str, int] = {}
    for name in names:
        try:
            sizes[name] = (source / name).stat().st_size
        except FileNotFoundError:
            done.missing.append(name)
    whole, so_far = sum(sizes.values()), 0
    folders = set()
    for name, size in sizes.items():
        path = target / name
        # An original never changes under its name, nor does an export under its number.
        same = path.exists() and path.stat().st_size == size
        if same:
            done.kept += 1
        else:
            if path.parent not in folders:
                path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
                folders.add(path.parent)
            partial = path.with_name(f".partial-{path.name}")
            try:
                shutil.copyfile(source / name, partial)
                shutil.copystat(source / name, partial)
                os.replace(partial, path)
            finally:
                with suppress(FileNotFoundError):
                    partial.unlink()
            done.copied, done.byte_size = done.copied + 1, done.byte_size + size
        there[name] = size
        so_far += size
        progress(so_far, whole)
    return there
