"""Putting the house in order at a start, after whatever ended the run before."""

import logging

from sqlalchemy import select

from sequor.services.means import Means
from sequor.store.models import Export, Original

log = logging.getLogger(__name__)


def tidy(means: Means) -> None:
    """Remove files that a kill left behind and no row names, and receipts of the last run."""
    means.database.forget_receipts()
    with means.database.reading() as session:
        originals = list(session.scalars(select(Original.sha256)))
        exports = list(session.scalars(select(Export.id).where(Export.state == "done")))
    removed = means.files.clean(originals, exports)
    if removed:
        log.warning("%s files were left over from an interrupted run and were removed", removed)
