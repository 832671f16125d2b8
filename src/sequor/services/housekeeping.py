"""Putting the house in order at a start, after whatever ended the run before."""

import logging

from sqlalchemy import select

from sequor.services.resources import Resources
from sequor.store.depot import Depot
from sequor.store.models import Export, Original

log = logging.getLogger(__name__)
_AT_WORK_S = 24 * 3600.0
"""What is half-written and older than that is left behind by nobody who is still at work."""


def tidy(resources: Resources) -> None:
    """Remove what a kill left half-written, and set aside what no row names."""
    # Nobody else puts an original down meanwhile that its row does not name yet.
    with resources.servers.emptying:
        with resources.database.reading() as session:
            originals = list(session.scalars(select(Original.sha256)))
            exports = list(session.scalars(select(Export.id)))
        at_work_s = _AT_WORK_S if resources.servers.several else 0.0
        done = resources.files.clean(originals, exports, at_work_s)
    if done.removed:
        log.warning("%s files of an interrupted run were removed", done.removed)
    if done.set_aside:
        log.warning(
            "%s files that the database does not name were set aside; Storage lists them",
            done.set_aside,
        )
    if done.given_back:
        log.warning("%s originals that were set aside are back in their place", done.given_back)


def clean_depot(resources: Resources) -> None:
    """Remove from where workers on other machines find originals what no row names any more, and
    what they made once it was fetched. The data folder itself may be that place: its originals are
    never removed but by a person.
    """
    settings = resources.settings
    if settings.engine == "local":
        return
    depot, known = Depot(settings.depot_address), None
    if not depot.is_folder(settings.data):
        with resources.database.reading() as session:
            known = list(session.scalars(select(Original.sha256)))
    gone = depot.clean(known, _AT_WORK_S)
    if gone:
        log.info("%s files went from the depot", gone)
