"""Sets and the contact sheet."""

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag

from sequor.core.propose.proposal import Proposal
from sequor.core.report.proposals import brief_words
from sequor.core.report.words import perspective_words, turn_words
from sequor.services.intake import take_in
from sequor.store import library
from sequor.store.ledger import recipe_of
from sequor.store.models import Picture
from sequor.store.proposals import of_heads
from sequor.web.answers import answer
from sequor.web.context import context, means
from sequor.web.images import corrected_address
from sequor.web.schemas import (
    Added,
    NewSet,
    PictureSummary,
    Problem,
    SetContents,
    SetList,
    SetPath,
    SetSummary,
    Upload,
)

api = APIBlueprint(
    "sets",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="sets", description="Sets and the contact sheet")],
)
_STATES = {
    "new": "not measured",
    "measured": "measured",
    "framed": "framed",
    "exported": "exported",
}
_LOST = "file lost: add it again"


@api.get("/sets", responses={200: SetList}, operation_id="listSets")
def list_sets() -> Response:
    """All sets."""
    with means().database.reading() as session:
        found = library.list_sets(session)
        return answer(
            SetList(sets=[SetSummary(id=s.id, name=s.name, pictures=n) for s, n in found])
        )


@api.post("/sets", responses={201: SetSummary, 422: Problem}, operation_id="createSet")
def create_set(body: NewSet) -> Response:
    """Make a set."""
    made = means().database.write(lambda session: library.create_set(session, body.name))
    return answer(SetSummary(id=made.id, name=made.name, pictures=0), 201)


@api.get("/sets/<int:set_id>", responses={200: SetContents, 404: Problem}, operation_id="getSet")
def get_set(path: SetPath) -> Response:
    """A set with its pictures, for the contact sheet."""
    with means().database.reading() as session:
        found = library.get_set(session, path.set_id)
        told = of_heads(session, found.id)
        pictures = [
            summary(picture, exported, told.get(picture.id))
            for picture, exported in library.list_pictures(session, found.id)
        ]
        return answer(SetContents(id=found.id, name=found.name, pictures=pictures))


@api.post(
    "/sets/<int:set_id>/pictures",
    responses={200: Added, 201: Added, 404: Problem, 422: Problem},
    operation_id="addPicture",
)
def add_picture(path: SetPath, form: Upload) -> Response:
    """Add one file to a set; one that the set has already is recognised and not stored again."""
    file, size = form.file, request.content_length or 0
    picture, known = take_in(means(), path.set_id, file.filename or "", file.stream, size)
    context().reader.look()
    return answer(Added(picture=summary(picture, False), known=known), 200 if known else 201)


def summary(picture: Picture, exported: bool, told: Proposal | None = None) -> PictureSummary:
    """A picture as the contact sheet shows it, with what it proposes itself."""
    head = picture.head
    told = told if head.parent_id is None else None
    state = "measured" if head.parent_id is not None else "new"
    if recipe_of(head).framed:
        state = "framed"
    if exported:
        state = "exported"
    return PictureSummary(
        id=picture.id,
        name=picture.name,
        width=picture.original.width,
        height=picture.original.height,
        entry_id=head.id,
        roll_deg=head.roll_deg,
        turn_words=turn_words(head.roll_deg),
        perspective_words=perspective_words(head.lean_deg, head.swing_deg),
        kept_fraction=head.kept_fraction,
        state=state,
        state_words=_LOST if picture.original.damage else _STATES[state],
        told_words=brief_words(told) if told else "",
        told="unread" if told is None else "sure" if told.roll.sure else "unsure",
        thumbnail=f"{corrected_address(picture.original_sha256, head.recipe_hash)}/thumbnail.jpg",
    )
