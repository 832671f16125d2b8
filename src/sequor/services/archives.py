"""Archives: pictures with everything that was decided, as an open ZIP, out and in again.

The layout is in docs/keeping.md: ``manifest.json``, described by ``manifest.schema.json``, and
``originals/`` by the hash of their content. What comes in is checked to its end, in workers, before
any of it is kept.
"""

import json
import tempfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO, Any

from sqlalchemy.orm import Session
from zipstream import ZipStream

from sequor.core.errors import UnusableInput
from sequor.core.language import english, tr
from sequor.making.archives import (
    BROKEN,
    LEFT_OUT,
    MANIFEST,
    ORIGINALS,
    SCHEMA,
    ArchivedEntry,
    ArchivedOriginal,
    ArchivedPicture,
    ArchivedSet,
    Contents,
    Manifest,
    checked_pictures,
    contents_of,
    refused,
    unpack,
)
from sequor.making.exports import ExportOptions
from sequor.services.fairness import check_space
from sequor.services.intake import readable
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.services.sets import SetLine
from sequor.services.working import run_task
from sequor.store import curating, library
from sequor.store.curating import NewEntry
from sequor.store.ledger import Unreadable, recipe_of
from sequor.store.models import Original, Picture, PictureSet, now
from sequor.work.engine import Lane, Task

_READING_MB = 1500.0
"""Memory of reading a manifest: one picture of it at a time, of which there may be so much
(measured with 4 million values)."""
_LIMIT_S = 1800.0
"""A manifest of a thousand ledgers of a thousand entries each takes so long to be solved."""


def manifest_schema() -> str:
    """The JSON Schema of the manifest."""
    return json.dumps(Manifest.model_json_schema(), indent=2) + "\n"


def archive(
    resources: Resources, set_id: int | None = None, picture_ids: list[int] | None = None
) -> tuple[str, Iterator[bytes]]:
    """A set, or some pictures with all their versions, as a name and the bytes of a ZIP.

    An entry that cannot be read is left out, which the archive says.

    Raises
    ------
    UnusableInput
        When an original is lost.
    """
    with resources.database.reading() as session:
        pictures = _chosen(session, set_id, picture_ids)
        manifest = _manifest(session, pictures)
    name = manifest.sets[0].name if len(manifest.sets) == 1 else "sets"
    stream = ZipStream(sized=False)
    stream.add(manifest.model_dump_json(indent=1), MANIFEST)
    stream.add(manifest_schema(), SCHEMA)
    if manifest.left_out:
        stream.add("".join(f"{line}\n" for line in manifest.left_out), LEFT_OUT)
    for original in manifest.originals:
        path = resources.files.original(original.sha256)
        if not path.exists():
            raise UnusableInput(
                tr(
                    "The original of {name} is gone from the data folder; add the file again, "
                    "then archive.",
                    name=original.name,
                )
            )
        stream.add_path(str(path), f"{ORIGINALS}{original.sha256}")
    return name, iter(stream)


def bring_in(
    resources: Resources, stream: IO[bytes], reply: Reply[list[SetLine], T], size: int = 0
) -> T:
    """Take an archive in; every set of it becomes a new one.

    1. Workers look through it and count what it claims (`making.archives`).
    2. Its originals are unpacked to where what is received lies, and read one after the other.
    3. A worker checks every ledger and solves every entry.
    4. Originals are put in their place, and everything else is written in one transaction.

    Parameters
    ----------
    reply : Reply
        Made of the sets that were made, and how many pictures each has.

    Raises
    ------
    UnusableInput
        When it is no archive, damaged or not what it says; nothing of it is kept then.
    """
    with resources.files.incoming(stream, size) as (received, _), ExitStack() as stack:
        contents: Contents = _read(resources, contents_of, received)
        most_mb = resources.settings.max_upload_mb
        for listed in contents.originals:
            if listed.byte_size > most_mb * 2**20:
                raise refused(
                    tr(
                        "{name} is larger than the {most_mb:,} MB of a file",
                        name=listed.name,
                        most_mb=most_mb,
                    )
                )
        whole = sum(one.byte_size for one in contents.originals)
        resources.files.space.require_for_files(whole)
        check_space(resources, whole)
        coming = _Coming(resources)
        stack.callback(coming.leave_nothing)
        for listed in contents.originals:
            coming.receive(stack, received, listed)
        photos = {sha256: library.photo_of(one) for sha256, one in coming.originals.items()}
        lines = stack.enter_context(
            tempfile.NamedTemporaryFile("r", dir=resources.files.root / "incoming")
        )
        _read(resources, checked_pictures, received, Path(lines.name), photos)
        return _keep(resources, contents, coming, Path(lines.name), reply)


def _read(
    resources: Resources, function: Callable[..., Any], received: Path, *arguments: object
) -> Any:
    return run_task(
        resources,
        Task(
            function,
            (received, *arguments),
            Lane.PREVIEW,
            about="archive",
            memory_mb=_READING_MB,
            alone="archive",
            limit_s=_LIMIT_S,
        ),
    )


class _Coming:
    """Originals on their way in: received and read, not kept yet."""

    def __init__(self, resources: Resources) -> None:
        self._resources = resources
        self.originals: dict[str, Original] = {}
        self._received: dict[str, Path] = {}
        self._new: set[str] = set()
        self._kept = False

    def receive(self, stack: ExitStack, archive: Path, listed: ArchivedOriginal) -> None:
        """Unpack an original and read it to its end."""
        files, sha256 = self._resources.files, listed.sha256
        try:
            with unpack(archive, sha256) as unpacked:
                received, found = stack.enter_context(files.incoming(unpacked, listed.byte_size))
        except UnusableInput:
            raise
        except BROKEN as problem:
            raise refused(
                tr("{name} cannot be unpacked, the archive is damaged", name=listed.name)
            ) from problem
        if found != sha256:
            raise refused(tr("{name} is not what its checksum says", name=listed.name))
        if not files.original(sha256).exists():
            self._new.add(sha256)
        name = Path(listed.name).name
        self.originals[sha256] = readable(self._resources, received, sha256, name, listed.damaged)
        self._received[sha256] = received

    def store(self) -> None:
        """Put the originals in their place."""
        for sha256, received in self._received.items():
            self._resources.files.store_original(received, sha256)

    def committed(self) -> None:
        """Rows name them."""
        self._kept = True

    def leave_nothing(self) -> None:
        """Unless rows name them, what came is gone again: nobody was told that it is there."""
        if not self._kept:
            self._resources.files.remove(originals=self._new)


def _keep(
    resources: Resources,
    contents: Contents,
    coming: _Coming,
    lines: Path,
    reply: Reply[list[SetLine], T],
) -> T:
    def change(session: Session) -> T:
        made = []
        for name, description in contents.sets:
            one = PictureSet(
                name=curating.free_name(session, library.clean_name(name)), description=description
            )
            session.add(one)
            session.flush()
            made.append(one)
        originals = {sha256: session.merge(one) for sha256, one in coming.originals.items()}
        with lines.open() as file:
            for line in file:
                _add(session, made, originals, json.loads(line))
        listed = [(one, library.count_pictures(session, one.id)) for one in made]
        return reply.to(session, listed)

    with resources.servers.emptying:
        coming.store()
        said = resources.database.write(change)
        coming.committed()
    return said


def _add(
    session: Session, sets: list[PictureSet], originals: dict[str, Original], line: dict[str, Any]
) -> None:
    made = Picture(
        set_id=sets[line["set"]].id,
        original=originals[line["original"]],
        name=library.clean_name(line["name"]),
        version=line["version"],
        version_name=library.clean_name(line["version_name"], "")[:60],
        added_at=datetime.fromisoformat(line["added_at"]),
        file_options=line["file_options"],
    )
    session.add(made)
    session.flush()
    entries = [
        NewEntry(
            entry.pop("parent"),
            {**entry, "created_at": datetime.fromisoformat(entry["created_at"])},
        )
        for entry in line["entries"]
    ]
    curating.write_ledger(session, made, entries, line["head"])
    session.expunge(made)


def _chosen(session: Session, set_id: int | None, ids: list[int] | None) -> list[Picture]:
    if set_id is not None:
        return library.list_pictures(session, library.get_set(session, set_id).id)
    found = curating.with_versions(session, ids or [])
    return [picture for picture in found if picture.binned_at is None]


def _manifest(session: Session, pictures: list[Picture]) -> Manifest:
    if not pictures:
        raise UnusableInput(tr("There is nothing to put into an archive."))
    sets: dict[int, ArchivedSet] = {}
    originals: dict[str, ArchivedOriginal] = {}
    left_out: list[str] = []
    for picture in pictures:
        one = sets.setdefault(
            picture.set_id,
            ArchivedSet(name=picture.set.name, description=picture.set.description, pictures=[]),
        )
        archived = _archived(session, picture, left_out)
        if archived is None:
            continue
        one.pictures.append(archived)
        original = picture.original
        originals[original.sha256] = ArchivedOriginal(
            sha256=original.sha256,
            byte_size=original.byte_size,
            name=picture.name,
            damaged=original.taken_damaged is not None,
        )
    return Manifest(
        made_at=now(),
        sets=list(sets.values()),
        originals=list(originals.values()),
        left_out=left_out,
    )


@dataclass
class _Places:
    """Where the entries of a ledger are in an archive; one that is left out is where the nearest
    one before it is that is not.
    """

    found: dict[int, int | None]

    def of(self, entry_id: int | None) -> int | None:
        """The place of an entry, None before the first."""
        return None if entry_id is None else self.found[entry_id]


def _archived(session: Session, picture: Picture, left_out: list[str]) -> ArchivedPicture | None:
    """A picture with the entries that can be read; None when none of them can."""
    places = _Places({})
    ledger: list[ArchivedEntry] = []
    for entry in curating.ledger_entries(session, picture.id):
        parent = places.of(entry.parent_id)
        try:
            recipe = recipe_of(entry)
        except Unreadable as problem:
            left_out.append(f"{picture.name}, {entry.what}: {problem}")
            places.found[entry.id] = parent
            continue
        places.found[entry.id] = len(ledger)
        ledger.append(
            ArchivedEntry(
                parent=parent, what=entry.what, created_at=entry.created_at, recipe=recipe
            )
        )
    if not ledger:
        left_out.append(english("{name}: no entry of its ledger can be read", name=picture.name))
        return None
    options = picture.file_options
    return ArchivedPicture(
        name=picture.name,
        original=picture.original_sha256,
        version=picture.version,
        version_name=picture.version_name,
        added_at=picture.added_at,
        file_options=ExportOptions.model_validate(options) if options else None,
        ledger=ledger,
        head=places.of(picture.head.id) or 0,
    )
