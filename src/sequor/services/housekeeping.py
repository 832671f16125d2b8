"""Putting the house in order at a start, after whatever ended the run before."""

import logging

from sqlalchemy import select

from sequor.services.resources import Resources
from sequor.store.models import Export, Original

log = logging.getLogger(__name__)


def tidy(resources: Resources) -> None:
    """Remove what a kill left half-written, and set aside what no row names."""
    with resources.database.reading() as session:
        originals = list(session.scalars(select(Original.sha256)))
        exports = list(session.scalars(select(Export.id)))
    done = resources.files.clean(originals, exports)
    if done.removed:
        log.warning("%s files of an interrupted run were removed", done.removed)
    if done.set_aside:
        log.warning(
            "%s files that the database does not name were set aside; Storage lists them",
            done.set_aside,
        )
    if done.given_back:
        log.warning("%s originals that were set aside are back in their place", done.given_back)
