"""Proposals that were made once and are kept."""

from sqlalchemy import ColumnElement, and_, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.core.propose.proposal import VERSION, Proposal, Want
from sequor.store.models import LedgerEntry, Original, Picture, StoredProposal


def find_proposal(session: Session, sha256: str, recipe_hash: str, want: Want) -> Proposal | None:
    """What was proposed for an original and a recipe."""
    found = session.scalar(
        select(StoredProposal).where(
            StoredProposal.original_sha256 == sha256,
            StoredProposal.recipe_hash == recipe_hash,
            StoredProposal.want == want,
            StoredProposal.version == VERSION,
        )
    )
    return Proposal.model_validate(found.proposal) if found else None


def keep_proposal(session: Session, sha256: str, recipe_hash: str, proposal: Proposal) -> None:
    """Keep what was proposed; what is there already is the same and stays."""
    if find_proposal(session, sha256, recipe_hash, proposal.want) is not None:
        return
    kept = StoredProposal(
        original_sha256=sha256,
        recipe_hash=recipe_hash,
        want=proposal.want,
        version=VERSION,
        proposal=proposal.model_dump(mode="json"),
    )
    try:
        with session.begin_nested():
            session.add(kept)
    except IntegrityError:  # it was made twice at the same moment
        pass


def unread(session: Session, most: int) -> list[tuple[int, int]]:
    """Pictures as shot that were not read yet, with the entries that hold; the newest first."""
    query = (
        select(Picture.id, LedgerEntry.id)
        .join(LedgerEntry, LedgerEntry.id == Picture.head_id)
        .join(Original, Original.sha256 == Picture.original_sha256)
        .outerjoin(StoredProposal, is_of(Picture, LedgerEntry))
        .where(
            StoredProposal.id.is_(None),
            LedgerEntry.parent_id.is_(None),
            Original.damage.is_(None),
            Picture.binned_at.is_(None),
        )
        .order_by(Picture.id.desc())
        .limit(most)
    )
    return [(picture_id, entry_id) for picture_id, entry_id in session.execute(query)]


def is_of(picture: type[Picture], entry: type[LedgerEntry]) -> ColumnElement[bool]:
    """Whether a stored proposal is that of a picture by one of its entries."""
    return and_(
        StoredProposal.original_sha256 == picture.original_sha256,
        StoredProposal.recipe_hash == entry.recipe_hash,
        StoredProposal.want == "any",
        StoredProposal.version == VERSION,
    )
