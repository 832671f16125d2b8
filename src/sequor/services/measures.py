"""What is counted of what is stored, for those who look after an installation."""

from typing import NamedTuple

from sequor.services.resources import Resources
from sequor.store.exports import count_by_stage
from sequor.store.library import count_all
from sequor.store.models import ExportStage
from sequor.store.proposals import count_unread


class Counted(NamedTuple):
    """How many pictures there are outside the bin, how many of them were not read yet, and how many
    exports of every stage.
    """

    pictures: int
    unread: int
    exports: dict[ExportStage, int]


def counted(resources: Resources) -> Counted:
    """Count, in three queries; raises DatabaseAway."""
    with resources.database.reading() as session:
        return Counted(count_all(session), count_unread(session), count_by_stage(session))
