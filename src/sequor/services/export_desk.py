"""The desk of exports: hands them to the engine as their turn comes, enters what came of them."""

import logging
import threading
import time
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from sqlalchemy import select, update
from sqlalchemy.exc import NoResultFound
from sqlalchemy.orm import Session

from sequor.core.errors import Cancelled, NotFound, UnusableInput
from sequor.core.language import ENGLISH, english, mark, speaking
from sequor.core.recipe import Recipe
from sequor.core.render.size import most_grown
from sequor.making.exports import Exported, ExportOptions, export
from sequor.pictures.encode import SUFFIXES
from sequor.pictures.naming import Named, distinct, file_name
from sequor.services.beside import put_beside
from sequor.services.names import named_of
from sequor.services.pictures import OriginalFacts, facts_of_row
from sequor.services.resources import Resources
from sequor.services.servers import Message
from sequor.services.working import in_words
from sequor.store import ledger
from sequor.store.acting import asker_of
from sequor.store.failures import DatabaseAway
from sequor.store.files import export_name
from sequor.store.models import ENDED, Export, ExportStage, now
from sequor.work.engine import Job, Lane, Task

log = logging.getLogger(__name__)
_PLAIN, _FILLED = 2.5, 4.8
"""Memory of an export, and of one with a fill, in decoded originals (measured in tests/bench)."""
_AGAIN_S = 2.0
"""After so many seconds a database that is away is told again what came of an export."""
_SWEEP_S = 30.0
"""So often it is looked for what is queued and not on its way, besides when one says so."""
_SAY_S, _HEARD_S = 1.0, 5.0
_MOST_BEGUN = 4
"""An export that was begun so often, by runs of the program that were killed too, is not begun
again: it may be what kills them."""


def options_of(export: Export) -> ExportOptions:
    """How an export is written."""
    stored = export.options or {"format": export.format, "quality": export.quality}
    return ExportOptions.model_validate(stored)


def memory_mb(facts: OriginalFacts, recipe: Recipe) -> float:
    """Memory that an export takes."""
    times = _FILLED if recipe.fills or recipe.mends else _PLAIN
    return facts.decoded_mb * times * most_grown(recipe.frame)


@dataclass(frozen=True)
class _Order:
    """An export as it is handed to the engine."""

    number: int
    named: Named
    options: ExportOptions
    task: Task


class ExportDesk:
    """Hands exports to the engine and enters what came of them.

    An export is *queued* until it ends; whether it runs is known here. Every way out:

    - *done*: its file is there, whole;
    - *failed*: with a sentence, also when it was begun too often without coming to its end, when
      its picture cannot be read, or when what came of it could not be entered;
    - *cancelled*: a person called it off; what ends later changes nothing about that;
    - its row is gone, with its picture out of the bin: its file goes too.

    What is queued and is not on its way, whatever became of who asked for it, is taken up by a
    sweep. A file that is done and is to lie beside its original, too, is put there afterwards, once
    more at the next sweep should the program end in between; its row says why where it cannot be.
    """

    def __init__(self, resources: Resources) -> None:
        self._resources = resources
        self._jobs: dict[int, Job] = {}
        self._askers: dict[int, str] = {}
        self._lock = threading.Lock()
        # What came of exports is entered by one thread, which may have to wait for the database.
        self._clerk = ThreadPoolExecutor(1, thread_name_prefix="exports")
        # Copies go where they are wanted by another, which may have to wait for a slow disk.
        self._placing = ThreadPoolExecutor(1, thread_name_prefix="placing")
        self._being_placed: set[int] = set()
        self._stopping, self._look = threading.Event(), threading.Event()
        self._sweeper: threading.Thread | None = None
        self._elsewhere: tuple[float, dict[int, float]] = 0.0, {}
        resources.servers.on("exports", self._hear)

    def start(self) -> None:
        """Begin what is queued, and look for it now and then from here on; again does nothing."""
        with self._lock:
            if self._sweeper is None:
                self._sweeper = threading.Thread(target=self._sweep, daemon=True, name="exports")
                self._sweeper.start()
                if self._resources.servers.several:
                    threading.Thread(target=self._say, daemon=True, name="exports-said").start()

    def submit(self, export_ids: Iterable[int], asker: str = "") -> None:
        """Begin exports when their turn comes; their rows must be committed.

        Parameters
        ----------
        asker : str
            Who asked, so that another one's do not wait for all of theirs.
        """
        numbers = list(export_ids)
        if not self._resources.servers.keeps_house:
            self._resources.servers.tell("exports", {"asked": numbers, "asker": asker})
            return
        self._askers |= dict.fromkeys(numbers, asker)
        self.start()
        self._look.set()

    def is_running(self, export_id: int) -> bool:
        """Whether an export has begun and is not finished."""
        job = self._jobs.get(export_id)
        return job.running if job else export_id in self._running_elsewhere()

    def progress(self, export_id: int) -> float:
        """Share done of an export that is running."""
        job = self._jobs.get(export_id)
        return job.progress if job else self._running_elsewhere().get(export_id, 0.0)

    def cancel(self, export_id: int) -> None:
        """Stop the work on an export that was called off."""
        if not self._resources.servers.keeps_house:
            self._resources.servers.tell("exports", {"called_off": export_id})
            return
        self._askers.pop(export_id, None)
        job = self._jobs.get(export_id)
        if job:
            job.cancel()

    def _running_elsewhere(self) -> dict[int, float]:
        """The share done of what runs, as the server that keeps house said last."""
        heard_s, running = self._elsewhere
        return running if time.monotonic() - heard_s < _HEARD_S else {}

    def _hear(self, message: Message) -> None:
        """What another server's desk says."""
        if "running" in message:
            shares = {int(number): share for number, share in message["running"].items()}
            self._elsewhere = time.monotonic(), shares
        elif self._resources.servers.keeps_house and "called_off" in message:
            self.cancel(message["called_off"])
        elif self._resources.servers.keeps_house:
            self.submit(message["asked"], message["asker"])

    def _say(self) -> None:
        """Tell the desks of other servers how far what runs is."""
        while not self._stopping.wait(_SAY_S):
            with self._lock:
                jobs = dict(self._jobs)
            running = {number: job.progress for number, job in jobs.items() if job.running}
            if running:
                self._resources.servers.tell("exports", {"running": running})

    def stop(self) -> None:
        """Let go of everything; what was running is begun again at the next start."""
        self._stopping.set()
        self._look.set()
        if self._sweeper:
            self._sweeper.join()
        self._clerk.shutdown(wait=True, cancel_futures=True)
        self._placing.shutdown(wait=True, cancel_futures=True)
        self._take_back()

    def _take_back(self) -> None:
        """What runs is stopped with the program and did not kill it: that it was begun is not
        counted.
        """
        with self._lock:
            running = [number for number, job in self._jobs.items() if job.running]
        if not running:
            return
        try:
            self._resources.database.write(partial(_not_begun, running), small=True)
        except Exception:
            log.exception("which exports the program's end interrupts could not be entered")

    def _sweep(self) -> None:
        """Take up what is queued and not on its way."""
        while not self._stopping.is_set():
            self._look.clear()
            try:
                for number in self._waiting():
                    self._begin(number)
                for number in self._to_place():
                    self._placing.submit(self._place, number)
            except Cancelled:  # the engine is being stopped
                return
            except DatabaseAway:
                self._stopping.wait(_AGAIN_S)
                continue
            except Exception:
                log.exception("queued exports were not looked for; once more in a moment")
                self._stopping.wait(_AGAIN_S)
                continue
            self._look.wait(_SWEEP_S)

    def _waiting(self) -> list[int]:
        with self._resources.database.reading() as session:
            numbers = session.scalars(select(Export.id).where(Export.state.not_in(ENDED)))
            with self._lock:
                return sorted(number for number in numbers if number not in self._jobs)

    def _to_place(self) -> list[int]:
        with self._resources.database.reading() as session:
            query = select(Export.id).where(Export.state == "done", Export.placed == "")
            found = sorted(set(session.scalars(query)) - self._being_placed)
        self._being_placed.update(found)
        return found

    def _place(self, export_id: int) -> None:
        try:
            self._put_beside(export_id)
        except Exception:  # the database is away, say: once more at the next sweep
            log.exception("export %s was not put beside its original yet", export_id)
        finally:
            self._being_placed.discard(export_id)

    def _put_beside(self, export_id: int) -> None:
        """Put a copy of a finished file beside its original."""
        with self._resources.database.reading() as session:
            found = session.get(Export, export_id)
            if found is None or not found.picture.opened_from:
                return
            options, original = options_of(found), Path(found.picture.opened_from)
            made = self._resources.files.export(export_id, SUFFIXES[options.format])
            name = found.file_name or made.name
        try:
            path, problem = str(put_beside(made, original, options.beside, name)), None
        except OSError as refused:
            path = None
            problem = english(
                "The file was made, but could not be put into {parent}: {value}.",
                parent=original.parent / options.beside,
                value=refused.strerror or refused,
            )
        self._resources.database.write(partial(_placed, export_id, path, problem), small=True)

    def _begin(self, export_id: int) -> None:
        try:
            order = self._order(export_id, self._askers.pop(export_id, ""))
        except (NoResultFound, NotFound, Cancelled):  # it went with its picture, or was called off
            return
        except UnusableInput as problem:
            self._resources.database.write(
                partial(_end, export_id, "failed", str(problem)), small=True
            )
            return
        with self._lock:
            self._jobs[export_id] = job = self._resources.engine.submit(order.task)
        job.when_begun(lambda: self._count_begun(export_id))
        job.when_done(lambda ended: self._later(order, ended))

    def _count_begun(self, export_id: int) -> None:
        """What only waited in a run of the program that was killed did not kill it."""
        if not self._stopping.is_set():
            self._clerk.submit(self._enter_begun, export_id)

    def _enter_begun(self, export_id: int) -> None:
        try:
            self._resources.database.write(partial(_begun, export_id), small=True)
        except Exception:
            log.exception("that export %s was begun could not be entered", export_id)

    def _order(self, export_id: int, asker: str) -> _Order:
        with self._resources.database.reading() as session:
            found = session.get_one(Export, export_id)
            if found.state in ENDED:
                raise Cancelled
            if found.begun >= _MOST_BEGUN:
                raise UnusableInput(
                    english(
                        "The export was begun {most_begun} times and never came to its end; most "
                        "likely there is not enough memory for it. The picture and its recipe are "
                        "kept.",
                        most_begun=_MOST_BEGUN,
                    )
                )
            picture, recipe = found.picture, ledger.recipe_of(found.entry)
            named = named_of(session, picture, options_of(found).pattern, found.created_at)
            return self._ordered(found, named, recipe, asker)

    def _ordered(self, found: Export, named: Named, recipe: Recipe, asker: str) -> _Order:
        options, facts = options_of(found), facts_of_row(found.picture.original)
        name = export_name(found.id, SUFFIXES[options.format])
        task = Task(
            export,
            (
                self._resources.task_resources,
                facts.sha256,
                recipe,
                options.size,
                options.choice,
                name,
            ),
            Lane.EXPORT,
            about=f"picture {found.picture_id}",
            # What was interrupted is asked for by nobody who is still there.
            asker=asker or asker_of(found.author_id),
            memory_mb=memory_mb(facts, recipe),
            # One picture's exports follow each other, so that another's find a worker.
            alone=f"exports:{found.picture_id}",
            limit_s=3600,
            key=("export", found.id, facts.sha256, found.created_at),
            originals=(facts.sha256,),
            makes=(name,),
            language=ENGLISH,  # what goes wrong is kept
        )
        return _Order(found.id, named, options, task)

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
            except Exception:  # it stays queued, and the sweep begins it again, but not for ever
                log.exception("what came of export %s could not be entered", order.number)
                break
        with self._lock:
            self._jobs.pop(order.number, None)

    def _finish(self, order: _Order, job: Job) -> None:
        write = partial(self._resources.database.write, small=True)
        try:
            made: Exported = job.result(0)
        except Cancelled:
            kept = write(partial(_end, order.number, "cancelled", None))
        except Exception as problem:
            with speaking(ENGLISH):
                said = in_words(self._resources, problem, mark("The export"))
            kept = write(partial(_end, order.number, "failed", said))
        else:
            kept = write(partial(_done, order, made))
        if kept:
            if order.options.beside:
                self._look.set()
            return
        # A worker that was killed could not clean up itself; what was called off is not wanted.
        for path in (self._resources.files.root / "exports").glob(f".partial-{order.number}-*"):
            path.unlink(missing_ok=True)
        suffix = SUFFIXES[order.options.format]
        self._resources.files.export(order.number, suffix).unlink(missing_ok=True)


def _placed(export_id: int, path: str | None, problem: str | None, session: Session) -> None:
    """Enter where a copy lies, or why there is none."""
    found = session.get(Export, export_id, with_for_update={"of": Export})
    if found is not None:
        found.placed, found.problem = path, problem


def _begun(export_id: int, session: Session) -> None:
    """Count that an export was begun."""
    session.execute(update(Export).where(Export.id == export_id).values(begun=Export.begun + 1))


def _not_begun(export_ids: list[int], session: Session) -> None:
    """Count once less that exports were begun."""
    counted = Export.id.in_(export_ids), Export.begun > 0
    session.execute(update(Export).where(*counted).values(begun=Export.begun - 1))


def _end(export_id: int, state: ExportStage, problem: str | None, session: Session) -> bool:
    """Enter that an export ended without a file; whether its file is to be kept: never."""
    found = _open(session, export_id)
    if found is not None:
        found.state, found.problem, found.finished_at = state, problem, now()
    return False


def _done(order: _Order, made: Exported, session: Session) -> bool:
    """Enter a file that was made; whether it is still wanted. Another server may have entered it
    just now, should it have taken over.
    """
    found = _open(session, order.number)
    if found is None:
        known = session.get(Export, order.number)
        return known is not None and known.state == "done"
    size, suffix = (made.width, made.height), SUFFIXES[order.options.format]
    found.state, found.problem, found.finished_at = "done", None, now()
    others = session.scalars(
        select(Export.file_name).where(
            Export.picture_id == found.picture_id, Export.file_name.is_not(None)
        )
    )
    name = file_name(order.options.pattern, order.named, size, suffix)
    found.file_name = distinct([*(other or "" for other in others), name])[-1]
    found.width, found.height = size
    found.byte_size = made.byte_size
    found.empty_pixels = made.empty_pixels
    found.filled_share = made.filled_share
    found.doubt = made.judged.doubt if made.judged else None
    found.flaws = len(made.judged.flaws) if made.judged else None
    return True


def _open(session: Session, export_id: int) -> Export | None:
    """An export that has not ended, locked; None where it was called off or is gone."""
    query = select(Export).where(Export.id == export_id, Export.state.not_in(ENDED))
    return session.scalar(query.with_for_update(of=Export))
