"""Many pictures at once, each for itself, in several processes: one bad file stops no other."""

import json
import multiprocessing
import os
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import click

from sequor.cli.leveling import CannotTell, Leveling, level_file
from sequor.cli.report import report
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.pictures.encode import EXTENSIONS, SUFFIXES, Format
from sequor.pictures.inspect import taken_at_of
from sequor.pictures.naming import Named, check_pattern, file_name


@dataclass(frozen=True)
class BatchOrder:
    """How many pictures are to be levelled.

    Attributes
    ----------
    folder : Path
        Where the files go.
    pattern : str
        For their names; see `naming.PARTS`.
    format : str, optional
        Of all files; else each has its picture's own, or JPEG where that cannot be written.
    jobs : int
        Processes.
    """

    folder: Path
    pattern: str
    format: Format | None
    jobs: int


@dataclass(frozen=True)
class FileOutcome:
    """What came of a picture: the file and its line of JSON, or why there is none."""

    source: Path
    line: str = ""
    file: Path | None = None
    problem: str = ""
    untold: bool = False


def level_many(
    sources: list[Path], order: BatchOrder, job: Leveling, say: Callable[[str], None]
) -> list[FileOutcome]:
    """Level pictures; every line of JSON is printed, and every refusal said, as it comes.

    Raises
    ------
    UnusableInput
        When nothing can be done at all.
    """
    check_pattern(order.pattern)
    if not job.dry:
        order.folder.mkdir(parents=True, exist_ok=True)
    outcomes: list[FileOutcome] = []
    with _bar(len(sources)) as step:
        for found in _outcomes(sources, order, job):
            outcome = _unless_taken(found, outcomes) if job.dry else found
            outcomes.append(outcome)
            step()
            if outcome.problem:
                say(f"{outcome.source}: {outcome.problem}")
            else:
                click.echo(outcome.line)
    return outcomes


def _unless_taken(found: FileOutcome, before: list[FileOutcome]) -> FileOutcome:
    """What would come of a picture, unless another one's file would have that name already."""
    first = next((one for one in before if one.file and one.file == found.file), None)
    if first is None:
        return found
    problem = tr(
        "{file} would be there already, of {name}.", file=found.file, name=first.source.name
    )
    return FileOutcome(found.source, problem=problem)


def _outcomes(sources: list[Path], order: BatchOrder, job: Leveling) -> Iterator[FileOutcome]:
    numbered = list(enumerate(sources, 1))
    if order.jobs == 1 or len(sources) == 1:
        for number, source in numbered:
            yield level_one(source, number, order, job)
        return
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(min(order.jobs, len(sources)), mp_context=context) as pool:
        waiting: dict[Future[FileOutcome], Path] = {
            pool.submit(level_one, source, number, order, job): source
            for number, source in numbered
        }
        for done in as_completed(waiting):
            try:
                yield done.result()
            except (BrokenProcessPool, MemoryError):
                problem = tr("its process was stopped; most likely there was not enough memory")
                yield FileOutcome(
                    waiting[done], problem=tr("{problem}: take fewer --jobs.", problem=problem)
                )


def level_one(source: Path, number: int, order: BatchOrder, job: Leveling) -> FileOutcome:
    """Level one of many; a refusal is what comes of it."""
    kind = order.format or EXTENSIONS.get(source.suffix.lower()) or "jpeg"
    moment = taken_at_of(source) or datetime.now(UTC).replace(tzinfo=None)
    named = Named(name=source.name, set=source.parent.name, number=number, moment=moment)

    def target(size: tuple[int, int]) -> Path:
        return order.folder / file_name(order.pattern, named, size, SUFFIXES[kind])

    try:
        done, path = level_file(source, target, job.with_format(kind))
    except CannotTell as problem:
        return FileOutcome(source, problem=str(problem), untold=True)
    except UnusableInput as problem:
        return FileOutcome(source, problem=str(problem))
    except MemoryError:
        return FileOutcome(source, problem=tr("The picture does not fit into memory."))
    line: dict[str, Any] = {"picture": str(source), "file": str(path), **report(done)}
    return FileOutcome(source, json.dumps(line), path)


def usual_jobs() -> int:
    """As many as there are processors."""
    return len(os.sched_getaffinity(0))


@contextmanager
def _bar(count: int) -> Iterator[Callable[[], None]]:
    """A progress bar on a terminal; nothing elsewhere."""
    if not sys.stderr.isatty():
        yield lambda: None
        return
    with click.progressbar(length=count, label="levelling", file=sys.stderr, show_pos=True) as bar:
        yield lambda: bar.update(1)
