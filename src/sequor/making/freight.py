"""What goes along with the tasks of `making` to workers on other machines, and comes back.

Originals go by a depot (`store.depot`) to the worker's own data folder, where they stay within a
budget; what a task made goes back the same way. Each is checked by its hash when it is fetched.
"""

import logging
import os
import time
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.making.worker_cache import OriginalLost, TaskResources, check_original
from sequor.store.depot import Depot, NotThere, WrongContent
from sequor.store.files import FileStore
from sequor.work.engine import Task, Unreachable, WorkerDied
from sequor.work.far.freight import WorkOutcome

log = logging.getLogger(__name__)
_MB = 2**20
_LOOK_EVERY_S = 60.0
_KEPT_SHARE = 0.9
"""Of its budget is what a worker keeps after it removed what it did not look at for longest."""


class DamagedInDepot(UnusableInput):
    """What the depot has as an original is something else."""

    def __init__(self, sha256: str) -> None:
        super().__init__(sha256)
        self.sha256 = sha256


class FetchingStore(FileStore):
    """A worker's own data folder, which gets the originals that it lacks from a depot."""

    had_again = (*FileStore.had_again, "originals")

    def __init__(self, root: Path, reserve_mb: float, depot: Depot) -> None:
        super().__init__(root, reserve_mb)
        self._depot = depot

    def original(self, sha256: str) -> Path:
        """Where an original is; it is fetched first where it is not there.

        Raises
        ------
        DamagedInDepot
            When the depot has something else under its name.
        Unreachable
            When the depot does not answer.
        """
        path = super().original(sha256)
        if path.exists():
            os.utime(path)  # looked at just now
        else:
            try:
                self._depot.fetch_original(sha256, path)
            except NotThere:
                pass  # who opens it says that it is gone
            except WrongContent:
                raise DamagedInDepot(sha256) from None
            except OSError as problem:
                raise Unreachable(str(problem)) from problem
        return path


class SentFreight:
    """The server's side (`work.far.freight.Freight`).

    Parameters
    ----------
    files : FileStore
        The data folder.
    """

    def __init__(self, files: FileStore, depot: Depot) -> None:
        self._files, self._depot = files, depot
        self._there: set[str] = set()

    def send(self, task: Task) -> Task:
        """A task with what it needs in the depot."""
        for sha256 in task.originals:
            path = self._files.original(sha256)
            if sha256 in self._there or not path.exists():  # what is gone, the worker says
                continue
            if not self._depot.has_original(sha256):
                self._depot.put_original(path, sha256)
            self._there.add(sha256)
        resources, *others = task.arguments
        assert isinstance(resources, TaskResources)
        return replace(task, arguments=(resources.max_megapixels, *others))

    def receive(self, task: Task, outcome: WorkOutcome) -> WorkOutcome:
        """What came of a task, with its files in their places."""
        if outcome.error is not None:
            self._there.difference_update(task.originals)
            if isinstance(outcome.error, DamagedInDepot | OriginalLost):
                self._mend(outcome.error.sha256)
            return outcome
        for name in task.makes:
            try:
                self._depot.fetch_made(outcome.files[name], self._files.root / name)
            except (KeyError, NotThere, WrongContent) as problem:
                log.error("a worker left something else than it said: %r", problem)
                raise WorkerDied from None
        return outcome

    def _mend(self, sha256: str) -> None:
        """A worker does not find an original, or finds something else: put it into the depot once
        more, unless it is lost here, too, or the depot has no other.
        """
        path = self._files.original(sha256)
        check_original(path, sha256)
        if not self._depot.is_original_itself(path, sha256):
            self._depot.put_original(path, sha256)
        log.error("a worker did not find original %s in its depot as it is here", sha256)
        raise Unreachable("a worker did not find an original in its depot")


class FetchingWorkshop:
    """The worker's side (`work.far.freight.Workshop`).

    Parameters
    ----------
    most_mb : float
        How large what it keeps of originals may become.
    """

    def __init__(self, files: FetchingStore, depot: Depot, most_mb: float) -> None:
        self._files, self._depot, self._most = files, depot, int(most_mb * _MB)
        self._looked_s = 0.0

    def unpack(self, task: Task) -> Task:
        """A task as this machine does it."""
        self._keep_within_budget()
        max_megapixels, *others = task.arguments
        assert isinstance(max_megapixels, float)
        resources = TaskResources(self._files, max_megapixels)
        return replace(task, arguments=(resources, *others))

    def leave(self, task: Task) -> Mapping[str, str]:
        """Leave the files that a task made in the depot, by their hashes."""
        left = {}
        for name in task.makes:
            path = self._files.root / name
            left[name] = self._depot.put_made(path)
            path.unlink()
        return left

    def _keep_within_budget(self) -> None:
        """Originals are the depot's: here they are kept for a while."""
        now = time.monotonic()
        if now - self._looked_s < _LOOK_EVERY_S:
            return
        self._looked_s = now
        if self._files.sizes_of("originals")[1] > self._most:
            self._files.trim_below("originals", int(self._most * _KEPT_SHARE))
