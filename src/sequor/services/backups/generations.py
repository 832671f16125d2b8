"""The generations of a backup: what each says that it holds, and whether it does."""

import hashlib
import json
import os
import re
import stat
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.services.backups.tables import tables

ABOUT, VERSION = "backup.json", 2
STAMP = re.compile(r"\d{8}-\d{6}-\d{6}")
READ_AT_ONCE = min(4, os.cpu_count() or 1)
"""Files that are read at once: hashing takes a core each."""
_OLD_DATABASE = re.compile(r"database-[0-9A-Za-z-]+")


class BackedUpFile(BaseModel):
    """A file of a backup: its bytes, and the SHA-256 of its content."""

    model_config = ConfigDict(extra="forbid")

    byte_size: int = Field(ge=0)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class About(BaseModel):
    """What a generation is: of when and which schema, how many rows each table has with the hashes
    of their files, and its files.
    """

    model_config = ConfigDict(extra="forbid")

    format: Literal["sequor-backup"] = "sequor-backup"
    version: int = VERSION
    made_at: datetime
    revision: str
    tables: dict[str, int]
    checksums: dict[str, str]
    files: dict[str, BackedUpFile]


@dataclass(frozen=True)
class Generation:
    """A finished generation in its folder; its tables are in ``database`` below that."""

    folder: Path
    about: About
    database: str = "database"

    def table(self, name: str) -> Path:
        """The file of a table."""
        return plain(self.folder, f"{self.database}/{name}.jsonl")

    def holds(self, name: str, sha256: str) -> bool:
        """Whether it has a file with that content."""
        found = self.about.files.get(name)
        if found is None or found.sha256 != sha256:
            return False
        try:
            return hash_of(plain(self.folder, name)) == sha256
        except (OSError, UnusableInput):
            return False


def generations(folder: Path) -> list[Generation]:
    """The finished generations of a backup, the newest first; last what a program wrote that knew
    only one.
    """
    found = []
    for path in folder.iterdir() if folder.is_dir() else ():
        if STAMP.fullmatch(path.name) and not path.is_symlink() and (path / ABOUT).is_file():
            found.append(Generation(path, _read_about(path)))
    found.sort(key=lambda one: one.folder.name, reverse=True)
    return found + ([_first_version(folder)] if (folder / ABOUT).is_file() else [])


def read_backup(folder: Path, chosen: str = "") -> Generation:
    """A generation of a backup, if it is one and its tables are what was written.

    Raises
    ------
    UnusableInput
        When it is not.
    """
    found = [one for one in generations(folder) if chosen in ("", one.folder.name)]
    if not found:
        which = tr("generation {chosen}", chosen=chosen) if chosen else tr("finished backup")
        raise UnusableInput(tr("{folder} holds no {which}.", folder=folder, which=which))
    generation = found[0]
    known = {table.name for table in tables()}
    for name in generation.about.tables:
        path = generation.table(name)
        wanted = generation.about.checksums.get(name)
        if name not in known or not path.is_file() or hash_of(path) != wanted:
            raise UnusableInput(
                tr("The backup is not whole: its table {name} was changed or is gone.", name=name)
            )
    return generation


def good_copy(folder: Path, name: str, sha256: str) -> Path | None:
    """A file of a backup, in whichever generation has it whole."""
    for generation in generations(folder):
        if generation.holds(name, sha256):
            return generation.folder / name
    return None


def recorded_hash(folder: Path, name: str) -> str | None:
    """What the newest generation that has a file says of its content."""
    for generation in generations(folder):
        if name in generation.about.files:
            return generation.about.files[name].sha256
    return None


def _first_version(folder: Path) -> Generation:
    """A backup of version 1: one generation, with the sizes of its files only. Originals are known
    by their names; exports are what they are now.
    """
    stored = _json_of(folder)
    database = str(stored.pop("database", ""))
    if not _OLD_DATABASE.fullmatch(database) or not isinstance(stored.get("files"), dict):
        raise UnusableInput(tr("{folder} is not that of a backup.", folder=folder / ABOUT))
    _check_names(stored["files"])
    files = {}
    for name, byte_size in stored["files"].items():
        path = plain(folder, name)
        sha256 = own_hash(name) or hash_or_none(path)
        if sha256 is None or not path.is_file() or path.stat().st_size != byte_size:
            raise UnusableInput(
                tr("The backup is not whole: {name} is missing or was changed.", name=name)
            )
        files[name] = {"byte_size": byte_size, "sha256": sha256}
    return Generation(folder, _about(folder, {**stored, "files": files}), database)


def _read_about(folder: Path) -> About:
    about = _about(folder, _json_of(folder))
    _check_names(about.files)
    return about


def _json_of(folder: Path) -> dict[str, Any]:
    try:
        stored = json.loads((folder / ABOUT).read_text())
    except ValueError as problem:
        raise UnusableInput(
            tr("{folder} is not that of a backup.", folder=folder / ABOUT)
        ) from problem
    version = stored.get("version") if isinstance(stored, dict) else None
    if not isinstance(version, int):
        raise UnusableInput(tr("{folder} is not that of a backup.", folder=folder / ABOUT))
    if version > VERSION:
        raise UnusableInput(tr("{folder} was written by a newer version of Sequor.", folder=folder))
    return dict(stored)


def _about(folder: Path, stored: dict[str, Any]) -> About:
    try:
        return About.model_validate(stored)
    except ValidationError as problem:
        raise UnusableInput(
            tr("{folder} is not that of a backup.", folder=folder / ABOUT)
        ) from problem


def _check_names(names: Iterable[str]) -> None:
    for name in names:
        kind, *rest = Path(name).parts or ("",)
        if kind not in ("originals", "exports") or ".." in rest or Path(name).is_absolute():
            raise UnusableInput(
                tr("The backup names a file that cannot belong to it: {name}.", name=name)
            )


def own_hash(name: str) -> str | None:
    """The hash that a file must have by its name; exports have none in theirs."""
    return Path(name).name if name.startswith("originals/") else None


def plain(folder: Path, name: str) -> Path:
    """A file of a backup, which no link leads out of it.

    Raises
    ------
    UnusableInput
    """
    path = folder
    for part in Path(name).parts:
        path = path / part
        if path.is_symlink():
            raise UnusableInput(
                tr("The backup is not whole: {name} is a link to somewhere else.", name=name)
            )
    return path


def hash_of(path: Path) -> str:
    """The hash of a regular file; a link is not followed."""
    handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW)
    with os.fdopen(handle, "rb") as file:
        if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
            raise OSError(22, tr("is no file"))
        return hashlib.file_digest(file, "sha256").hexdigest()


def hash_or_none(path: Path) -> str | None:
    """The same, None where the file cannot be read."""
    try:
        return hash_of(path)
    except OSError:
        return None
