"""Reading archives: what an archive holds, and its manifest piece by piece, in a worker.

An archive comes from outside. What it claims is counted before anything of it is built up: the
manifest is parsed as a stream, and never more of it is in memory than one picture.
"""

import json
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO, Annotated, Any, Literal

import ijson
from pydantic import BaseModel, ConfigDict, FailFast, Field, ValidationError

from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.language import mark, tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.making.exports import ExportOptions
from sequor.making.worker_cache import TaskResources
from sequor.store.entries import entry_columns
from sequor.work.engine import TaskControl

FORMAT, VERSION = "sequor-archive", 2
MANIFEST, SCHEMA, ORIGINALS, LEFT_OUT = (
    *("manifest.json", "manifest.schema.json", "originals/", "left-out.txt"),
)
_MOST_MANIFEST = 512 * 2**20
_MOST_FILES, _MOST_SETS, _MOST_PICTURES, _MOST_ENTRIES = 50_000, 2_000, 100_000, 20_000
"""Of an archive; the last of one picture. Ten times what the largest studio has."""
_MOST_OF_ONE = 4_000_000
"""Values in what the manifest says of one picture: 20,000 entries of 200 values."""
_METHODS = {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED}
_READ_AT_ONCE = 2048
"""Bytes of a manifest that are parsed before any of it is looked at: levels without end cost their
square (measured: 64 kB of brackets 13 s, 8 kB 168 MB, 2 kB 10 MB)."""
_MOST_SILENT = 100_000
"""Bytes of one value, or of space between two: names have a thousand."""
_ENCRYPTED = 0x1
"""Flag bit 0 of a member (APPNOTE.TXT 4.4.4)."""
_HASH = "^[0-9a-f]{64}$"
BROKEN = (
    *(zipfile.BadZipFile, zlib.error, EOFError, OSError, RuntimeError, NotImplementedError),
    *(ValueError, OverflowError, ijson.JSONError),
)
"""What the standard library and the parser raise at a file that is damaged in one way or another;
an UnusableInput, a ValueError too, has its own words."""


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class ArchivedEntry(_Part):
    """An entry of a ledger; ``parent`` is the place of the one it was based on, from 0."""

    parent: int | None = Field(ge=0)
    what: str = Field(max_length=200)
    created_at: datetime
    recipe: Recipe


class ArchivedPicture(_Part):
    """A version of a picture: its ledger, oldest entry first, and the place of what holds."""

    name: str = Field(min_length=1, max_length=255)
    original: str = Field(pattern=_HASH)
    version: int = Field(ge=1, le=1000)
    version_name: str = Field(default="", max_length=60)
    added_at: datetime
    file_options: ExportOptions | None = None
    ledger: Annotated[list[ArchivedEntry], FailFast()] = Field(
        min_length=1, max_length=_MOST_ENTRIES
    )
    head: int = Field(ge=0)


class ArchivedSet(_Part):
    """A set with its pictures."""

    name: str = Field(min_length=1, max_length=120)
    description: str = Field(default="", max_length=1000)
    pictures: list[ArchivedPicture]


class ArchivedOriginal(_Part):
    """A file below ``originals/``: the SHA-256 of its content, which is its name, and its size;
    ``damaged`` where it was taken in as damaged.
    """

    sha256: str = Field(pattern=_HASH)
    byte_size: int = Field(ge=1, le=2**40)
    name: str = Field(min_length=1, max_length=255)
    damaged: bool = False


class Manifest(_Part):
    """What an archive holds; ``left_out`` says what could not go along, and why."""

    format: Literal["sequor-archive"] = "sequor-archive"
    version: int = VERSION
    made_at: datetime
    sets: list[ArchivedSet]
    originals: list[ArchivedOriginal]
    left_out: list[str] = []


@dataclass(frozen=True)
class Contents:
    """What an archive holds at first sight: its sets by name and description, and its originals."""

    sets: tuple[tuple[str, str], ...]
    originals: tuple[ArchivedOriginal, ...]


def refused(why: str) -> UnusableInput:
    """What is said of an archive that cannot be taken in."""
    return UnusableInput(
        tr("This archive cannot be taken in: {why}. Nothing of it was kept.", why=why)
    )


def contents_of(control: TaskControl, resources: TaskResources, received: Path) -> Contents:
    """What an archive holds, once it is sure that its pieces are what they claim to be.

    Raises
    ------
    UnusableInput
        When it is no archive, damaged, or larger than any real one.
    """
    with _opened(received) as archive:
        names = _members(archive)
        head: dict[str, Any] = {}
        sets: list[tuple[str, str]] = []
        originals: dict[str, ArchivedOriginal] = {}
        pictures = 0
        for kind, value in _pieces(archive):
            if control.cancelled():
                raise Cancelled
            if kind == "original":
                found = _valid(ArchivedOriginal, value, tr("an original"))
                originals[found.sha256] = found
            elif kind == "picture":
                pictures += 1
                if pictures > _MOST_PICTURES:
                    raise refused(
                        tr(
                            "it holds more than {most_pictures:,} pictures",
                            most_pictures=_MOST_PICTURES,
                        )
                    )
            elif kind == "set":
                about = _valid(ArchivedSet, {**value, "pictures": []}, tr("a set"))
                sets.append((about.name, about.description))
            else:
                head |= value
            if max(len(sets), len(originals)) > _MOST_FILES or len(sets) > _MOST_SETS:
                raise refused(tr("it holds more sets or files than any real one"))
        _valid(Manifest, {**head, "sets": [], "originals": []}, tr("its manifest"))
        _check_originals(archive, names, originals)
        return Contents(tuple(sets), tuple(originals.values()))


def checked_pictures(
    control: TaskControl,
    resources: TaskResources,
    received: Path,
    target: Path,
    photos: Mapping[str, PhotoFacts],
) -> int:
    """Check the pictures of an archive to the last entry and write them as the store wants them.

    Parameters
    ----------
    target : Path
        Gets a line of JSON for every picture: the number of its set, its columns, its entries with
        the places of those they are based on, and the place of what holds.
    photos : mapping of str to PhotoFacts
        The originals that were read, by their hashes.

    Returns
    -------
    int
        The number of pictures.
    """
    set_number = count = 0
    taken: set[tuple[int, str, int]] = set()
    with _opened(received) as archive, target.open("w") as file:
        for kind, value in _pieces(archive):
            if kind == "set":
                set_number += 1
            if kind != "picture":
                continue
            if control.cancelled():
                raise Cancelled
            picture = _valid(ArchivedPicture, value, tr("picture {count}", count=count + 1))
            key = set_number, picture.original, picture.version
            if picture.original not in photos:
                raise refused(tr("the original of {name} is not listed", name=picture.name))
            if key in taken:
                raise refused(
                    tr(
                        "version {version} of {name} is in it twice",
                        version=picture.version,
                        name=picture.name,
                    )
                )
            taken.add(key)
            file.write(json.dumps(_line(set_number, picture, photos[picture.original])) + "\n")
            count += 1
    return count


@contextmanager
def unpack(received: Path, sha256: str) -> Iterator[IO[bytes]]:
    """An original of an archive as a stream."""
    with zipfile.ZipFile(received) as archive, archive.open(f"{ORIGINALS}{sha256}") as stream:
        yield stream


def _line(set_number: int, picture: ArchivedPicture, photo: PhotoFacts) -> dict[str, object]:
    if picture.head >= len(picture.ledger):
        raise refused(
            tr("the ledger of {name} has no entry {head}", name=picture.name, head=picture.head)
        )
    entries = []
    for place, entry in enumerate(picture.ledger):
        if entry.parent is not None and entry.parent >= place:
            raise refused(tr("the ledger of {name} is not in order", name=picture.name))
        columns = entry_columns(photo, entry.recipe, entry.what)
        entries.append({**columns, "parent": entry.parent, "created_at": _utc(entry.created_at)})
    options = picture.file_options
    return {
        "set": set_number,
        "name": picture.name,
        "original": picture.original,
        "version": picture.version,
        "version_name": picture.version_name,
        "added_at": _utc(picture.added_at),
        "file_options": options.model_dump(mode="json") if options else None,
        "entries": entries,
        "head": picture.head,
    }


def _utc(moment: datetime) -> str:
    if not 1970 <= moment.year <= 9998:
        raise refused(tr("a time in it is none: {isoformat}", isoformat=moment.isoformat()))
    return moment.replace(tzinfo=None, microsecond=0).isoformat()


@contextmanager
def _opened(received: Path) -> Iterator[zipfile.ZipFile]:
    try:
        with zipfile.ZipFile(received) as archive:
            yield archive
    except UnusableInput:
        raise
    except BROKEN as problem:
        raise refused(tr("it is no ZIP file with a manifest, or a damaged one")) from problem


def _members(archive: zipfile.ZipFile) -> set[str]:
    """The names of its files, if all of them can be unpacked."""
    members = archive.infolist()
    names = {member.filename for member in members}
    if len(members) > _MOST_FILES:
        raise refused(tr("it holds more than {most_files:,} files", most_files=_MOST_FILES))
    if len(names) < len(members):
        raise refused(tr("a file is in it twice"))
    for member in members:
        if member.flag_bits & _ENCRYPTED:
            raise refused(tr("it is encrypted"))
        if member.compress_type not in _METHODS:
            raise refused(
                tr(
                    "it is packed in a way that is not read (method {compress_type}); only "
                    "stored and deflated ones are",
                    compress_type=member.compress_type,
                )
            )
    if MANIFEST not in names:
        raise refused(tr("there is no {manifest} in it", manifest=MANIFEST))
    return names


def _check_originals(
    archive: zipfile.ZipFile, names: set[str], originals: Mapping[str, ArchivedOriginal]
) -> None:
    listed = {f"{ORIGINALS}{sha256}": original for sha256, original in originals.items()}
    foreign = names - {MANIFEST, SCHEMA, LEFT_OUT} - listed.keys()
    if foreign:
        raise refused(
            tr(
                "there is something in it that its manifest does not list: {min!r}",
                min=min(foreign),
            )
        )
    missing = listed.keys() - names
    if missing:
        raise refused(tr("an original is missing: {min}", min=min(missing)))
    for name, original in listed.items():
        if archive.getinfo(name).file_size != original.byte_size:
            raise refused(tr("{name} has not the size that the manifest says", name=original.name))


def _valid(kind: type[Any], value: object, what: str) -> Any:
    try:
        return kind.model_validate(value)
    except (ValidationError, RecursionError) as problem:
        said = ""
        if isinstance(problem, ValidationError):
            first = problem.errors(include_url=False, include_input=False)[0]
            said = f": {'.'.join(map(str, first['loc']))}: {first['msg']}"
        raise refused(
            tr("{what} is not what docs/keeping.md describes{said}", what=what, said=said[:300])
        ) from problem


class _Counted:
    """A member of an archive, read no further than it may be large, nor any value of it; ``silent``
    are the bytes since the last one.
    """

    def __init__(self, stream: IO[bytes], most: int) -> None:
        self._stream, self._left, self.silent = stream, most, 0
        self._left_out = 0

    def read(self, size: int = -1) -> bytes:
        part = self._stream.read(min(size, 1 << 20) if size >= 0 else 1 << 20)
        self._left -= len(part)
        self.silent += len(part)
        if self._left < 0 or self.silent > _MOST_SILENT:
            raise refused(tr("its manifest is larger than any real one"))
        return part

    def count_left_out(self) -> None:
        """One more that the archive says was left out."""
        self._left_out += 1
        if self._left_out > _MOST_FILES:
            raise refused(tr("it says more than any real one"))


_SET, _PICTURE, _ORIGINAL = "sets.item", "sets.item.pictures.item", "originals.item"
_LEFT = "left_out.item"


_PLAIN = ("string", "number", "boolean", "null")
_NO_MANIFEST = mark("its manifest is not what docs/keeping.md describes")


class _Whole:
    """A picture or an original that is built up from what is read of it."""

    def __init__(self, piece: str) -> None:
        self.piece, self._held, self._builder = piece, 0, ijson.ObjectBuilder()
        self.kind = "picture" if piece == _PICTURE else "original"

    @property
    def value(self) -> Any:
        """All of it."""
        return self._builder.value

    def take(self, event: str, value: Any) -> None:
        """The next that was read; the first must open it."""
        if not self._held and event != "start_map":
            raise refused(_NO_MANIFEST)
        self._held += 1
        if self._held > _MOST_OF_ONE:
            raise refused(tr("it says more of one picture than of any real one"))
        self._builder.event(event, value)


def _pieces(archive: zipfile.ZipFile) -> Iterator[tuple[str, Any]]:
    """The manifest in pieces: ``picture`` and ``original`` as they come, ``set`` after its
    pictures, ``head`` for everything else, and all of them once.

    Whatever stands where one of these must is refused before it is built up.
    """
    with archive.open(MANIFEST) as member:
        stream = _Counted(member, _MOST_MANIFEST)
        about: dict[str, Any] = {}
        whole: _Whole | None = None
        for prefix, event, value in ijson.parse(stream, _READ_AT_ONCE, use_float=True):
            stream.silent = 0
            if whole is not None:
                whole.take(event, value)
                if prefix == whole.piece and event == "end_map":
                    yield whole.kind, whole.value
                    whole = None
            elif prefix in (_PICTURE, _ORIGINAL):
                whole = _Whole(prefix)
                whole.take(event, value)
            elif prefix == _SET and event == "start_map":
                about = {}
            elif prefix == _SET and event == "end_map":
                yield "set", about
            elif prefix == _LEFT and event == "string":
                stream.count_left_out()
            elif event in _PLAIN:
                yield from _plain(prefix, value, about)
            elif not _is_frame(prefix, event):
                raise refused(_NO_MANIFEST)


def _plain(prefix: str, value: Any, about: dict[str, Any]) -> Iterator[tuple[str, Any]]:
    """A single value: of the set that is being read, ``about``, or of the manifest itself."""
    parent, _, name = prefix.rpartition(".")
    if parent == _SET:
        about[name] = value
    elif not parent and name:
        _check_version(name, value)
        yield "head", {name: value}
    else:
        raise refused(_NO_MANIFEST)


def _is_frame(prefix: str, event: str) -> bool:
    """Whether an event belongs to what holds the pieces of a manifest together."""
    if event == "map_key":
        return prefix in ("", _SET)
    if event in ("start_map", "end_map"):
        return prefix == ""
    return prefix in ("sets", "sets.item.pictures", "originals", "left_out")


def _check_version(name: str, value: object) -> None:
    if name == "version" and isinstance(value, int) and value > VERSION:
        raise refused(tr("it is of version {value}, which a newer Sequor wrote", value=value))
