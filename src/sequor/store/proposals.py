"""Proposals that were made once and are kept."""

from datetime import timedelta

from sqlalchemy import ColumnElement, Select, and_, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.core.propose import proposal
from sequor.core.propose.proposal import Proposal, Want
from sequor.store.models import LedgerEntry, Original, Picture, StoredProposal, Unsettled, now

_FIRST_WAIT, _LONGEST_WAIT = timedelta(minutes=10), timedelta(days=7)


def find_proposal(session: Session, sha256: str, recipe_hash: str, want: Want) -> Proposal | None:
    """What was proposed for an original and a recipe."""
    found = session.scalar(
        select(StoredProposal).where(
            StoredProposal.original_sha256 == sha256,
            StoredProposal.recipe_hash == recipe_hash,
            StoredProposal.want == want,
            StoredProposal.version == proposal.VERSION,
        )
    )
    return Proposal.model_validate(found.proposal) if found else None


def store_proposal(session: Session, sha256: str, recipe_hash: str, made: Proposal) -> None:
    """Keep what was proposed; what is there already is the same and stays."""
    if find_proposal(session, sha256, recipe_hash, made.want) is not None:
        return
    kept = StoredProposal(
        original_sha256=sha256,
        recipe_hash=recipe_hash,
        want=made.want,
        version=proposal.VERSION,
        proposal=made.model_dump(mode="json"),
    )
    try:
        with session.begin_nested():
            session.add(kept)
    except IntegrityError:  # it was made twice at the same moment, or its picture was deleted
        pass


def unread(session: Session, most: int) -> list[tuple[int, int]]:
    """Pictures as shot that were not read yet, with the entries that hold; the newest first.

    Those that were tried and could not be read come again when it is time.
    """
    waits = and_(
        Unsettled.picture_id == Picture.id,
        Unsettled.version == proposal.VERSION,
        Unsettled.again_at > now(),
    )
    query = _unread().outerjoin(Unsettled, waits).where(Unsettled.picture_id.is_(None))
    found = session.execute(query.order_by(Picture.id.desc()).limit(most))
    return [(picture_id, entry_id) for picture_id, entry_id in found]


def count_unread(session: Session) -> int:
    """How many pictures as shot were not read yet, those among them that could not be."""
    return session.scalar(select(func.count()).select_from(_unread().subquery())) or 0


def is_unread(session: Session, picture_id: int) -> bool:
    """Whether a picture as shot was not read yet."""
    return session.execute(_unread().where(Picture.id == picture_id)).first() is not None


def _unread() -> Select[int, int]:
    return (
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
    )


def leave_unsettled(session: Session, picture_id: int, reason: str) -> None:
    """Note that a picture was tried to be read and could not be; it is tried again later, and each
    time after twice as long.
    """
    if session.get(Picture, picture_id) is None:  # it was deleted meanwhile
        return
    found = session.get(Unsettled, picture_id)
    if found is None or found.version != proposal.VERSION:
        found = session.merge(Unsettled(picture_id=picture_id, version=proposal.VERSION, tries=0))
    found.tries += 1
    found.reason = reason[:300]
    wait = min(_LONGEST_WAIT, _FIRST_WAIT * 2 ** (found.tries - 1))
    found.again_at = now() + wait
    session.flush()


def is_of(picture: type[Picture], entry: type[LedgerEntry]) -> ColumnElement[bool]:
    """Whether a stored proposal is that of a picture by one of its entries."""
    return and_(
        StoredProposal.original_sha256 == picture.original_sha256,
        StoredProposal.recipe_hash == entry.recipe_hash,
        StoredProposal.want == "any",
        StoredProposal.version == proposal.VERSION,
    )
