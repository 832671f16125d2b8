"""Exports, one after the other in the background, with progress and cancel."""

import logging
import threading
from concurrent.futures import ThreadPoolExecutor

from sqlalchemy import select

from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import render_filled
from sequor.core.output import Output, checked, output_of
from sequor.core.recipe import Recipe
from sequor.core.render import Cancelled, Rendered
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from sequor.pictures.encode import SUFFIXES, FileChoice, encode
from sequor.pictures.metadata import Filled
from sequor.pictures.naming import Named, file_name
from sequor.store.database import Sessions
from sequor.store.files import FileStore
from sequor.store.ledger import recipe_of
from sequor.store.models import Export, ExportStage, now
from sequor.web.schemas import ExportOptions

log = logging.getLogger(__name__)

_DECODED, _RENDERED = 0.1, 0.85
"""Share of the work after which the pixels are read, and rendered."""


class ExportWorker:
    """Runs exports in their own thread; what is running is known here, what is finished in the database."""

    def __init__(self, sessions: Sessions, files: FileStore, max_megapixels: float) -> None:
        self._sessions = sessions
        self._files = files
        self._max_megapixels = max_megapixels
        self._progress: dict[int, float] = {}
        self._cancelled: set[int] = set()
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="export")
        self._stopping = threading.Event()

    def resume(self) -> None:
        """After a start: what a stop interrupted is queued again."""
        with self._sessions.begin() as session:
            for export in session.scalars(select(Export).where(Export.state.in_(("queued", "running")))):
                export.state = "queued"
                self.submit(export.id)

    def submit(self, export_id: int) -> None:
        """Queue an export that the database has."""
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
                export_id, "failed", "There was not enough memory for this picture; close other programs and export it again."
            )
        except Exception:
            log.exception("export %s failed", export_id)
            self._finish(
                export_id, "failed", "The export failed for a reason that is in the log; the picture and its recipe are kept."
            )
        finally:
            self._progress.pop(export_id, None)
            self._cancelled.discard(export_id)

    def _export(self, export_id: int) -> None:
        def cancelled() -> bool:
            return self._stopping.is_set() or export_id in self._cancelled

        def progress(share: float) -> None:
            self._progress[export_id] = share

        if cancelled():
            raise Cancelled
        with self._sessions.begin() as session:
            export = session.get_one(Export, export_id)
            export.state = "running"
            picture, recipe, entered = export.picture, recipe_of(export.entry), export.created_at.date()
            set_name = picture.set.name
            options = ExportOptions.model_validate(export.options or {"format": export.format, "quality": export.quality})
        source = self._files.original(picture.original_sha256)
        original = decode(source, picture.name, self._max_megapixels)
        progress(_DECODED)
        solution = solve(original.facts.photo, recipe)
        output = checked(output_of(solution, recipe.frame, options.size), options.size)
        rendered = render_filled(
            original.pixels,
            solution,
            recipe,
            lambda share: progress(_DECODED + share * (_RENDERED - _DECODED)),
            cancelled,
            (output.width, output.height),
        )
        if cancelled():
            raise Cancelled
        target = self._files.export(export_id, SUFFIXES[options.format])
        encode(rendered.pixels, original, source, target, file_choice(options, output), filled_of(recipe, rendered))
        named = Named(picture.name, set_name, picture.id, output.width, output.height, entered)
        with self._sessions.begin() as session:
            session.get_one(Export, export_id).file_name = file_name(options.pattern, named, SUFFIXES[options.format])
        self._finish(
            export_id,
            "done",
            width=output.width,
            height=output.height,
            byte_size=target.stat().st_size,
            empty_pixels=rendered.empty_pixels,
            filled_share=rendered.filled_share,
        )

    def _finish(self, export_id: int, state: ExportStage, problem: str | None = None, **facts: float) -> None:
        with self._sessions.begin() as session:
            export = session.get_one(Export, export_id)
            export.state = state
            export.problem = problem
            export.finished_at = now()
            for name, value in facts.items():
                setattr(export, name, value)


def file_choice(options: ExportOptions, output: Output) -> FileChoice:
    """How the file of an export is written."""
    return FileChoice(options.format, options.quality, options.bits, options.srgb, options.metadata, output.ppi)


def filled_of(recipe: Recipe, rendered: Rendered) -> Filled | None:
    """What the metadata say of a fill; None when there is none."""
    return Filled(rendered.filled_share, recipe.corners.method) if rendered.filled_share > 0 else None
