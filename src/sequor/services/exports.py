"""Exports: asked for, rendered one after the other in the background, called off."""

import logging
import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.render.rendering import Cancelled
from sequor.core.render.size import OutputSize, checked, output_of
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from sequor.pictures.encode import DEFAULT_QUALITY, SUFFIXES, FileChoice, Format
from sequor.pictures.metadata import Metadata
from sequor.pictures.naming import DEFAULT_PATTERN, Named, check_pattern, file_name
from sequor.services.means import Means
from sequor.services.pipeline import Finished, make_file
from sequor.store import library
from sequor.store.ledger import entry_of_picture, recipe_of
from sequor.store.models import Export, ExportStage, LedgerEntry, Picture, now

log = logging.getLogger(__name__)
Bits = Literal[8, 16]
_DECODED = 0.1
"""Share of the work after which the pixels are read."""


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
    with means.sessions.begin() as session:
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
        return made


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


class ExportWorker:
    """Runs exports in a thread of its own.

    What is running is known here, what is finished in the database.
    """

    def __init__(self, means: Means) -> None:
        self._means = means
        self._progress: dict[int, float] = {}
        self._cancelled: set[int] = set()
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="export")
        self._stopping = threading.Event()

    def resume(self) -> None:
        """After a start: what a stop interrupted is queued again."""
        with self._means.sessions.begin() as session:
            waiting = select(Export).where(Export.state.in_(("queued", "running")))
            exports = list(session.scalars(waiting))
            for export in exports:
                export.state = "queued"
            numbers = [export.id for export in exports]
        # Only what is committed: the thread reads and changes the same rows.
        for number in numbers:
            self.submit(number)

    def submit(self, export_id: int) -> None:
        """Begin an export, when those before it are done; its row must be committed."""
        self._thread.submit(self._run, export_id)

    def progress(self, export_id: int) -> float:
        """Share done of an export that is running."""
        return self._progress.get(export_id, 0.0)

    def cancel(self, export_id: int) -> None:
        """Stop an export as soon as possible; its file will not exist."""
        self._cancelled.add(export_id)

    def stop(self) -> None:
        """Let go of everything; what was running is queued again at the next start."""
        self._stopping.set()
        self._thread.shutdown(wait=True, cancel_futures=True)

    def _run(self, export_id: int) -> None:
        try:
            self._export(export_id)
        except Cancelled:
            if not self._stopping.is_set():
                self._finish(export_id, "cancelled")
        except UnusableInput as problem:
            self._finish(export_id, "failed", str(problem))
        except MemoryError:
            self._finish(
                export_id,
                "failed",
                "There was not enough memory for this picture; close other programs and export "
                "it again.",
            )
        except Exception:
            log.exception("export %s failed", export_id)
            self._finish(
                export_id,
                "failed",
                "The export failed for a reason that is in the log; the picture and its recipe "
                "are kept.",
            )
        finally:
            self._progress.pop(export_id, None)
            self._cancelled.discard(export_id)

    def _export(self, export_id: int) -> None:
        if self._is_cancelled(export_id):
            raise Cancelled
        with self._means.sessions.begin() as session:
            export = session.get_one(Export, export_id)
            export.state = "running"
            picture, recipe = export.picture, recipe_of(export.entry)
            named = Named(
                name=picture.name,
                set=picture.set.name,
                number=library.number_in_set(session, picture),
                date=export.created_at.date(),
            )
            stored = export.options or {"format": export.format, "quality": export.quality}
            options = ExportOptions.model_validate(stored)
        source = self._means.files.original(picture.original_sha256)
        limit = self._means.settings.max_megapixels
        original = decode(source, picture.name, limit, stored=True)
        self._progress[export_id] = _DECODED
        target = self._means.files.export(export_id, SUFFIXES[options.format])
        finished = make_file(
            original,
            source,
            target,
            recipe,
            options.size,
            options.choice,
            progress=lambda share: self._progressed(export_id, share),
            cancelled=lambda: self._is_cancelled(export_id),
        )
        size = finished.output.width, finished.output.height
        name = file_name(options.pattern, named, size, SUFFIXES[options.format])
        self._finish(export_id, "done", None, name, finished, target.stat().st_size)

    def _is_cancelled(self, export_id: int) -> bool:
        return self._stopping.is_set() or export_id in self._cancelled

    def _progressed(self, export_id: int, share: float) -> None:
        self._progress[export_id] = _DECODED + share * (1 - _DECODED)

    def _finish(
        self,
        export_id: int,
        state: ExportStage,
        problem: str | None = None,
        name: str | None = None,
        finished: Finished | None = None,
        byte_size: int | None = None,
    ) -> None:
        with self._means.sessions.begin() as session:
            export = session.get_one(Export, export_id)
            export.state = state
            export.problem = problem
            export.finished_at = now()
            if finished:
                export.file_name = name
                export.width, export.height = finished.output.width, finished.output.height
                export.byte_size = byte_size
                export.empty_pixels = finished.rendered.empty_pixels
                export.filled_share = finished.rendered.filled_share
