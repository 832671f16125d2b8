"""What the request handlers look up about a picture: its facts, an entry of its ledger, its decoded pixels."""

from flask import Response, current_app
from sqlalchemy.orm import Session

from sequor.core.recipe import PhotoFacts
from sequor.pictures import lenses
from sequor.pictures.decode import Picture as DecodedPicture
from sequor.store import library
from sequor.store.models import LedgerEntry
from sequor.web.context import context

_FOREVER = "private, max-age=31536000, immutable"


def photo_facts(picture_id: int) -> PhotoFacts:
    """What the core needs to know about a picture; it never changes, so a drag does not ask the database every time."""
    known = context().photos
    if picture_id not in known:
        with context().sessions() as session:
            known[picture_id] = library.photo_of(library.get_picture(session, picture_id))
    return known[picture_id]


def shot_facts(picture_id: int) -> lenses.Shot:
    """What a picture's file says of its camera and lens."""
    means = context()
    with means.sessions() as session:
        return lenses.shot_of(means.files.original(library.get_picture(session, picture_id).original_sha256))


def entry_of_picture(session: Session, picture_id: int, entry_id: int) -> LedgerEntry:
    """An entry of the ledger of a picture."""
    entry = session.get(LedgerEntry, entry_id)
    if entry is None or entry.picture_id != picture_id:
        raise library.NotFound(f"There is no entry {entry_id} for this picture.")
    return entry


def original_of(picture_id: int) -> DecodedPicture:
    """The original of a picture, decoded; the one used last is kept."""
    means = context()
    with means.sessions() as session:
        picture = library.get_picture(session, picture_id)
    sha256 = picture.original_sha256
    return means.pixels.get(sha256, means.files.original(sha256), picture.name, means.settings.max_megapixels)


def image_answer(content: bytes, kind: str = "image/jpeg") -> Response:
    """An image that never changes under its address."""
    response = current_app.response_class(content, mimetype=kind)
    response.headers["Cache-Control"] = _FOREVER
    return response
