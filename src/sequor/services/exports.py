"""Exports: asked for, rendered in the background as their turn comes, called off."""

import logging
import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.render.size import OutputSize, checked, output_of
from sequor.core.solve import solve
from sequor.making.exports import Exported, export
from sequor.pictures.encode import DEFAULT_QUALITY, SUFFIXES, FileChoice, Format
from sequor.pictures.metadata import Metadata
from sequor.pictures.naming import DEFAULT_PATTERN, Named, check_pattern, file_name
from sequor.services.means import Means
from sequor.services.pictures import facts_of_original
from sequor.services.working import in_words
from sequor.store import library
from sequor.store.database import DatabaseAway
from sequor.store.ledger import entry_of_picture, recipe_of
from sequor.store.models import Export, ExportStage, LedgerEntry, Picture, now
from sequor.work.engine import Job, Lane, Task

log = logging.getLogger(__name__)
Bits = Literal[8, 16]
_PLAIN, _FILLED = 2.5, 4.8
"""Memory of an export, and of one with a fill, in decoded originals (measured in tests/bench)."""
_AGAIN_S = 2.0
"""After so many seconds a database that is away is told again what came of an export."""


class ExportOptions(BaseModel):
    """How a file is written (see docs/api.md).

    ``bits`` null keeps the original's depth, as far as the format can.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    format: Format = "jpeg"
    quality: int = Field(default=DEFAULT_QUALITY, ge=1, le=100)
    size: OutputSize = OutputSize()
    bits: Bits | None = None
    srgb: bool = False
    metadata: Metadata = "all"
    pattern: str = Field(default=DEFAULT_PATTERN, min_length=1, max_length=120)

    @property
    def choice(self) -> FileChoice:
        """The kind of file."""
        return FileChoice(self.format, self.quality, self.bits, self.srgb, self.metadata)


def ask_for(
    means: Means,
    picture_ids: list[int],
    options: ExportOptions,
    entry_id: int | None = None,
    several: bool = False,
) -> list[Export]:
    """Put exports of several pictures into the database, all or none; they are not begun yet.

    Parameters
    ----------
    entry_id : int, optional
        The entry of the one picture to export; else those that hold.
    several : bool
        Whether a refusal must say which of the pictures it is about.
    """
    check_pattern(options.pattern)
    means.files.space.require_for_files(0)

    def queue(session: Session) -> list[Export]:
        made = []
        for picture_id in dict.fromkeys(picture_ids):
            picture = library.get_picture(session, picture_id)
            entry = picture.head
            if entry_id is not None:
                entry = entry_of_picture(session, picture_id, entry_id)
            try:
                _check_size(picture, entry, options.size)
            except UnusableInput as problem:
                if not several:
                    raise
                message = f"{picture.name}: {problem} Nothing was exported."
                raise UnusableInput(message) from problem
            made.append(_queued(session, picture, entry, options))
            picture.file_options = options.model_dump(mode="json")
        return made

    return means.database.write(queue)


def _check_size(picture: Picture, entry: LedgerEntry, size: OutputSize) -> None:
    recipe = recipe_of(entry)
    solution = solve(library.photo_of(picture.original), recipe)
    checked(output_of(solution, recipe.frame, size), size)


def _queued(
    session: Session, picture: Picture, entry: LedgerEntry, options: ExportOptions
) -> Export:
    export = Export(
        picture=picture,
        entry=entry,
        format=options.format,
        quality=options.quality,
        options=options.model_dump(mode="json"),
    )
    session.add(export)
    session.flush()
    return export


@dataclass(frozen=True)
class _Order:
    """An export as it is handed to the engine."""

    number: int
    named: Named
    options: ExportOptions
    task: Task


class ExportDesk:
    """Hands exports to the engine and enters what came of them.

    What is on its way is known here, what is finished in the database.
    """

    def __init__(self, means: Means) -> None:
        self._means = means
        self._jobs: dict[int, Job] = {}
        self._lock = threading.Lock()
        # What came of exports is entered by one thread, which may have to wait for the database.
        self._clerk = ThreadPoolExecutor(1, thread_name_prefix="exports")
        self._stopping = threading.Event()

    def resume(self) -> None:
        """After a start: what a stop interrupted is begun again."""
        with self._means.database.reading() as session:
            waiting = select(Export.id).where(Export.state.in_(("queued", "running")))
            numbers = list(session.scalars(waiting.order_by(Export.id)))
        for number in numbers:
            self.submit(number)

    def submit(self, export_id: int, asker: str = "") -> None:
        """Begin an export when its turn comes; its row must be committed.

        Parameters
        ----------
        asker : str
            Who asked, so that another one's do not wait for all of theirs.
        """
        with self._lock:  # a start resumes exports while new ones are asked for
            if export_id in self._jobs:
                return
            order = self._order(export_id, asker)
            self._jobs[export_id] = job = self._means.engine.submit(order.task)
        job.when_done(lambda ended: self._later(order, ended))

    def is_running(self, export_id: int) -> bool:
        """Whether an export has begun and is not finished."""
        job = self._jobs.get(export_id)
        return job is not None and job.running

    def progress(self, export_id: int) -> float:
        """Share done of an export that is running."""
        job = self._jobs.get(export_id)
        return job.progress if job else 0.0

    def cancel(self, export_id: int) -> None:
        """Stop an export as soon as possible; its file will not exist."""
        job = self._jobs.get(export_id)
        if job:
            job.cancel()

    def stop(self) -> None:
        """Let go of everything; what was running is begun again at the next start."""
        self._stopping.set()
        self._clerk.shutdown(wait=True, cancel_futures=True)

    def _order(self, export_id: int, asker: str) -> _Order:
        with self._means.database.reading() as session:
            found = session.get_one(Export, export_id)
            picture, recipe = found.picture, recipe_of(found.entry)
            named = Named(
                name=picture.name,
                set=picture.set.name,
                number=library.number_in_set(session, picture),
                date=found.created_at.date(),
            )
            stored = found.options or {"format": found.format, "quality": found.quality}
            sha256, picture_id = picture.original_sha256, picture.id
        options = ExportOptions.model_validate(stored)
        facts = facts_of_original(self._means, sha256)
        filled = recipe.fill.allowance > 0
        target = self._means.files.export(export_id, SUFFIXES[options.format])
        task = Task(
            export,
            (self._means.kit, sha256, recipe, options.size, options.choice, target),
            Lane.EXPORT,
            about=f"picture {picture_id}",
            asker=asker,
            memory_mb=facts.decoded_mb * (_FILLED if filled else _PLAIN),
            # One picture's exports follow each other, so that another's find a worker.
            alone=f"exports of picture {picture_id}",
            limit_s=3600,
        )
        return _Order(export_id, named, options, task)

    def _later(self, order: _Order, job: Job) -> None:
        if not self._stopping.is_set():
            self._clerk.submit(self._enter, order, job)

    def _enter(self, order: _Order, job: Job) -> None:
        """Enter what came of an export, when the database lets us."""
        while not self._stopping.is_set():
            try:
                self._finish(order, job)
                break
            except DatabaseAway:
                self._stopping.wait(_AGAIN_S)
            except Exception:
                log.exception("what came of export %s could not be entered", order.number)
                break
        self._jobs.pop(order.number, None)

    def _finish(self, order: _Order, job: Job) -> None:
        folder = self._means.files.root / "exports"
        try:
            made: Exported = job.result(0)
        except Cancelled:
            self._end(order, "cancelled")
        except Exception as problem:
            self._end(order, "failed", in_words(self._means, problem, "The export"))
        else:
            self._end(order, "done", made=made)
            return
        # A worker that was killed could not clean up itself.
        for path in folder.glob(f".partial-{order.number}-*"):
            path.unlink(missing_ok=True)
        self._means.files.export(order.number, SUFFIXES[order.options.format]).unlink(
            missing_ok=True
        )

    def _end(
        self,
        order: _Order,
        state: ExportStage,
        problem: str | None = None,
        made: Exported | None = None,
    ) -> None:
        def change(session: Session) -> None:
            found = session.get_one(Export, order.number)
            found.state = state
            found.problem = problem
            found.finished_at = now()
            if made:
                size = made.width, made.height
                suffix = SUFFIXES[order.options.format]
                found.file_name = file_name(order.options.pattern, order.named, size, suffix)
                found.width, found.height = size
                found.byte_size = made.byte_size
                found.empty_pixels = made.empty_pixels
                found.filled_share = made.filled_share

        self._means.database.write(change, small=True)
