"""Archives: pictures with everything that was decided, as an open ZIP, out and in again.

The layout is in docs/keeping.md: ``manifest.json``, described by ``manifest.schema.json``, and
``originals/`` by the hash of their content. What comes in is checked to its end before any of it
is kept.
"""

import json
import zipfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import IO, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy.orm import Session
from zipstream import ZipStream

from sequor.core.errors import UnusableInput
from sequor.core.recipe import Recipe
from sequor.services.intake import readable
from sequor.services.means import Means
from sequor.store import keeping, library
from sequor.store.models import Original, Picture, PictureSet, now

FORMAT, VERSION = "sequor-archive", 1
MANIFEST, SCHEMA, ORIGINALS = "manifest.json", "manifest.schema.json", "originals/"
_MOST_MANIFEST = 512 * 2**20
_HASH = "^[0-9a-f]{64}$"


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
    file_options: dict[str, object] | None = None
    ledger: list[ArchivedEntry] = Field(min_length=1)
    head: int = Field(ge=0)


class ArchivedSet(_Part):
    """A set with its pictures."""

    name: str = Field(min_length=1, max_length=120)
    description: str = Field(default="", max_length=1000)
    pictures: list[ArchivedPicture]


class ArchivedOriginal(_Part):
    """A file below ``originals/``: the SHA-256 of its content, which is its name, and its size."""

    sha256: str = Field(pattern=_HASH)
    byte_size: int = Field(ge=1)
    name: str = Field(min_length=1, max_length=255)


class Manifest(_Part):
    """What an archive holds."""

    format: Literal["sequor-archive"] = "sequor-archive"
    version: int = VERSION
    made_at: datetime
    sets: list[ArchivedSet]
    originals: list[ArchivedOriginal]


def manifest_schema() -> str:
    """The JSON Schema of the manifest."""
    return json.dumps(Manifest.model_json_schema(), indent=2) + "\n"


def archive(
    means: Means, set_id: int | None = None, picture_ids: list[int] | None = None
) -> tuple[str, Iterator[bytes]]:
    """A set, or some pictures with all their versions, as a name and the bytes of a ZIP.

    Raises
    ------
    UnusableInput
        When an original is lost.
    """
    with means.database.reading() as session:
        pictures = _chosen(session, set_id, picture_ids)
        manifest = _manifest(session, pictures)
    name = manifest.sets[0].name if len(manifest.sets) == 1 else "sets"
    stream = ZipStream(sized=False)
    stream.add(manifest.model_dump_json(indent=1), MANIFEST)
    stream.add(manifest_schema(), SCHEMA)
    for original in manifest.originals:
        path = means.files.original(original.sha256)
        if not path.exists():
            raise UnusableInput(
                f"The original of {original.name} is gone from the data folder; add the file "
                "again, then archive."
            )
        stream.add_path(str(path), f"{ORIGINALS}{original.sha256}")
    return name, iter(stream)


def bring_in(means: Means, stream: IO[bytes], size: int = 0) -> list[PictureSet]:
    """Take an archive in; every set of it becomes a new one.

    Raises
    ------
    UnusableInput
        When it is no archive, damaged or not what it says; nothing of it is kept then.
    """
    with means.files.incoming(stream, size) as (received, _):
        try:
            with zipfile.ZipFile(received) as opened:
                manifest = _checked_manifest(opened)
                return _take(means, opened, manifest)
        except zipfile.BadZipFile as problem:
            raise _refused("it is no ZIP file, or a damaged one") from problem


def _chosen(session: Session, set_id: int | None, ids: list[int] | None) -> list[Picture]:
    if set_id is not None:
        return library.list_pictures(session, library.get_set(session, set_id).id)
    found = keeping.with_versions(session, ids or [])
    return [picture for picture in found if picture.binned_at is None]


def _manifest(session: Session, pictures: list[Picture]) -> Manifest:
    if not pictures:
        raise UnusableInput("There is nothing to put into an archive.")
    sets: dict[int, ArchivedSet] = {}
    originals: dict[str, ArchivedOriginal] = {}
    for picture in pictures:
        one = sets.setdefault(
            picture.set_id,
            ArchivedSet(name=picture.set.name, description=picture.set.description, pictures=[]),
        )
        one.pictures.append(_archived(session, picture))
        original = picture.original
        originals[original.sha256] = ArchivedOriginal(
            sha256=original.sha256, byte_size=original.byte_size, name=picture.name
        )
    return Manifest(made_at=now(), sets=list(sets.values()), originals=list(originals.values()))


def _archived(session: Session, picture: Picture) -> ArchivedPicture:
    entries = keeping.ledger_entries(session, picture.id)
    places = {entry.id: place for place, entry in enumerate(entries)}
    return ArchivedPicture(
        name=picture.name,
        original=picture.original_sha256,
        version=picture.version,
        version_name=picture.version_name,
        added_at=picture.added_at,
        file_options=picture.file_options,
        ledger=[
            ArchivedEntry(
                parent=None if entry.parent_id is None else places[entry.parent_id],
                what=entry.what,
                created_at=entry.created_at,
                recipe=Recipe.model_validate(entry.recipe),
            )
            for entry in entries
        ],
        head=places[picture.head.id],
    )


def _checked_manifest(opened: zipfile.ZipFile) -> Manifest:
    """What an archive says it holds, if that is what it holds."""
    names = [info.filename for info in opened.infolist()]
    if len({*names}) < len(names):
        raise _refused("a file is in it twice")
    if MANIFEST not in names:
        raise _refused(f"there is no {MANIFEST} in it")
    if opened.getinfo(MANIFEST).file_size > _MOST_MANIFEST:
        raise _refused("its manifest is larger than any real one")
    with opened.open(MANIFEST) as file:
        text = file.read(_MOST_MANIFEST + 1)
    try:
        about = json.loads(text)
        version = about.get("version") if isinstance(about, dict) else None
        if isinstance(version, int) and about.get("format") == FORMAT and version > VERSION:
            raise _refused(f"it is of version {version}, which a newer Sequor wrote")
        manifest = Manifest.model_validate(about)
    except (ValueError, ValidationError, RecursionError) as problem:
        if isinstance(problem, UnusableInput):
            raise
        raise _refused("its manifest is not what docs/keeping.md describes") from problem
    listed = {f"{ORIGINALS}{original.sha256}": original for original in manifest.originals}
    foreign = set(names) - {MANIFEST, SCHEMA} - set(listed)
    if foreign:
        raise _refused(f"there is something in it that its manifest does not list: {min(foreign)}")
    missing = set(listed) - set(names)
    if missing:
        raise _refused(f"an original is missing: {min(missing)}")
    for name, original in listed.items():
        if opened.getinfo(name).file_size != original.byte_size:
            raise _refused(f"{original.name} has not the size that the manifest says")
    known = {original.sha256 for original in manifest.originals}
    for picture in (picture for one in manifest.sets for picture in one.pictures):
        _check_ledger(picture, known)
    return manifest


def _check_ledger(picture: ArchivedPicture, known: set[str]) -> None:
    if picture.original not in known:
        raise _refused(f"the original of {picture.name} is not listed")
    if picture.head >= len(picture.ledger):
        raise _refused(f"the ledger of {picture.name} has no entry {picture.head}")
    for place, entry in enumerate(picture.ledger):
        if entry.parent is not None and entry.parent >= place:
            raise _refused(f"the ledger of {picture.name} is not in order")


def _take(means: Means, opened: zipfile.ZipFile, manifest: Manifest) -> list[PictureSet]:
    """Keep the originals, then everything else in one transaction."""
    originals: dict[str, Original] = {}
    with means.emptying:
        for listed in manifest.originals:
            originals[listed.sha256] = _kept(means, opened, listed)
        entries = {
            id(picture): _entries(picture, originals[picture.original])
            for one in manifest.sets
            for picture in one.pictures
        }

        def change(session: Session) -> list[PictureSet]:
            made = []
            for one in manifest.sets:
                found = PictureSet(
                    name=keeping.free_name(session, one.name), description=one.description
                )
                session.add(found)
                session.flush()
                for picture in one.pictures:
                    _add(session, found, picture, originals[picture.original], entries[id(picture)])
                made.append(found)
            return made

        return means.database.write(change)


def _kept(means: Means, opened: zipfile.ZipFile, listed: ArchivedOriginal) -> Original:
    """An original out of an archive, kept if it is what the manifest says."""
    means.files.space.require_for_files(listed.byte_size)
    with (
        opened.open(f"{ORIGINALS}{listed.sha256}") as stream,
        means.files.incoming(stream, listed.byte_size) as (received, sha256),
    ):
        if sha256 != listed.sha256:
            raise _refused(f"{listed.name} is not what its checksum says")
        found = readable(means, received, sha256, Path(listed.name).name)
        means.files.keep_original(received, sha256)
        return found


def _entries(picture: ArchivedPicture, original: Original) -> list[keeping.NewEntry]:
    photo = library.photo_of(original)
    made = []
    for entry in picture.ledger:
        new = library.new_entry(photo, entry.recipe, entry.what)
        columns = {name: getattr(new, name) for name in (*keeping.COPIED, "framed")}
        at = entry.created_at.replace(tzinfo=None)
        made.append(keeping.NewEntry(entry.parent, {**columns, "created_at": at}))
    return made


def _add(
    session: Session,
    one: PictureSet,
    picture: ArchivedPicture,
    original: Original,
    entries: list[keeping.NewEntry],
) -> None:
    made = Picture(
        set_id=one.id,
        original=session.merge(original),
        name=picture.name,
        version=picture.version,
        version_name=picture.version_name,
        added_at=picture.added_at.replace(tzinfo=None),
        file_options=picture.file_options,
    )
    session.add(made)
    session.flush()
    keeping.write_ledger(session, made, entries, picture.head)


def _refused(why: str) -> UnusableInput:
    return UnusableInput(f"This archive cannot be taken in: {why}. Nothing of it was kept.")
