"""Whether originals are sound: noted when one is found lost, checked in the background."""

import logging
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from sequor.making.verify import lost_originals
from sequor.making.worker_cache import OriginalLost
from sequor.services.resources import Resources
from sequor.store.models import Original, now
from sequor.work.engine import Job, Lane, Task

log = logging.getLogger(__name__)
_MANY = 20
"""Originals that are read in one task, so that others get their turn."""


def mark_lost(resources: Resources, sha256: str, how: str) -> None:
    """Note that the file of an original is gone or damaged."""
    log.error("original %s %s", sha256, how)
    _note(resources, {sha256: how}, None)


def lost(resources: Resources, sha256: str, how: str) -> OriginalLost:
    """What is raised when the file of an original is gone or damaged; it is noted, too."""
    mark_lost(resources, sha256, how)
    return OriginalLost(sha256, how)


def mark_given_back(resources: Resources, sha256: str) -> None:
    """Note that an original is what it was again."""
    _note(resources, {sha256: None}, now())


def verify(resources: Resources) -> None:
    """Have all originals read again in the background, those first that were not for longest."""
    with resources.database.reading() as session:
        order = select(Original.sha256).order_by(Original.verified_at, Original.sha256)
        hashes = list(session.scalars(order))
    _verify_next(resources, hashes)


def _verify_next(resources: Resources, hashes: list[str]) -> None:
    if not hashes:
        return
    some, others = hashes[:_MANY], hashes[_MANY:]

    def ended(job: Job) -> None:
        try:
            lost = job.result(0)
            _note(resources, {sha256: lost.get(sha256) for sha256 in some}, now())
        except Exception as problem:  # another time
            log.info("originals were not verified to the end: %r", problem)
            return
        for sha256, how in lost.items():
            log.error("original %s %s", sha256, how)
        _verify_next(resources, others)

    task = Task(
        lost_originals, (resources.task_resources, tuple(some)), Lane.BACKGROUND, about="originals"
    )
    resources.engine.submit(task).when_done(ended)


def _note(resources: Resources, damage: dict[str, str | None], at: datetime | None) -> None:
    def change(session: Session) -> None:
        for sha256, how in damage.items():
            values: dict[str, object] = {"damage": how}
            if at:
                values["verified_at"] = at
            session.execute(update(Original).where(Original.sha256 == sha256).values(values))

    resources.database.write(change, small=True)
