"""The pictures of a set as its contact sheet needs them: columns instead of whole recipes, so that
thousands are there in a moment.
"""

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session, aliased

from sequor.core.propose.proposal import ProposedAxis
from sequor.store.models import Export, LedgerEntry, Original, Picture, StoredProposal
from sequor.store.proposals import is_of


class Card(NamedTuple):
    """A version of a picture.

    ``exported_so`` says whether it was exported as it is now, ``told_roll`` is what it proposes
    itself, as JSON, if it was read and is as shot, ``opened_from`` the path of a file that stays
    where it lies.
    """

    id: int
    name: str
    version: int
    version_name: str
    sha256: str
    added_at: datetime
    taken_at: datetime | None
    width: int
    height: int
    damaged: bool
    taken_damaged: bool
    entry_id: int
    decided: bool
    framed: bool
    recipe_hash: str
    roll_deg: float
    lean_deg: float
    swing_deg: float
    kept_fraction: float
    exported: bool
    exported_so: bool
    told_roll: str | None
    opened_from: str | None

    @property
    def told(self) -> ProposedAxis | None:
        """The roll that the picture tells itself."""
        if self.told_roll is None or self.decided:
            return None
        return ProposedAxis.model_validate_json(self.told_roll)


def cards_of(
    session: Session, set_id: int | None = None, ids: list[int] | None = None
) -> list[Card]:
    """The versions in a set, or some by their numbers, in the order they came."""
    done = select(Export.id).where(Export.picture_id == Picture.id, Export.state == "done")
    then = aliased(LedgerEntry)
    so = done.join(then, Export.entry_id == then.id).where(
        then.recipe_hash == LedgerEntry.recipe_hash
    )
    query = (
        select(
            Picture.id,
            Picture.name,
            Picture.version,
            Picture.version_name,
            Picture.original_sha256,
            Picture.added_at,
            Original.taken_at,
            Original.width,
            Original.height,
            Original.damage.is_not(None),
            Original.taken_damaged.is_not(None),
            LedgerEntry.id,
            LedgerEntry.parent_id.is_not(None),
            LedgerEntry.framed,
            LedgerEntry.recipe_hash,
            LedgerEntry.roll_deg,
            LedgerEntry.lean_deg,
            LedgerEntry.swing_deg,
            LedgerEntry.kept_fraction,
            done.exists(),
            so.exists(),
            func.json_extract(StoredProposal.proposal, "$.roll"),
            Picture.opened_from,
        )
        .join(LedgerEntry, LedgerEntry.id == Picture.head_id)
        .join(Original, Original.sha256 == Picture.original_sha256)
        .outerjoin(StoredProposal, is_of(Picture, LedgerEntry))
        .where(Picture.binned_at.is_(None))
        .order_by(Picture.id)
    )
    if set_id is not None:
        query = query.where(Picture.set_id == set_id)
    if ids is not None:
        query = query.where(Picture.id.in_(ids))
    return [Card._make(row) for row in session.execute(query)]
