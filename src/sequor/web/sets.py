"""Sets: listed, made, renamed, ordered, merged, split; and what is on their contact sheets."""

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy.orm import Session

from sequor.services.intake import Taken, take_in
from sequor.store import keeping, library
from sequor.store.models import PictureSet
from sequor.store.sheet import cards_of
from sequor.web.answers import answer
from sequor.web.cards import summary
from sequor.web.context import context, means
from sequor.web.repeated import written
from sequor.web.schemas import (
    Added,
    ChangedSet,
    Done,
    MergeSet,
    NewSet,
    OrderSets,
    PictureUpload,
    Problem,
    Responses,
    SetContents,
    SetList,
    SetPath,
    SetSummary,
    SplitSet,
)

api = APIBlueprint(
    "sets",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="sets", description="Sets and the contact sheet")],
)
_SET = "/sets/<int:set_id>"
_REFUSALS: Responses = {404: Problem, 422: Problem}


@api.get("/sets", responses={200: SetList}, operation_id="listSets")
def list_sets() -> Response:
    """All sets, in their order."""
    with means().database.reading() as session:
        return answer(_listed(session))


@api.post("/sets", responses={201: SetSummary, 422: Problem}, operation_id="createSet")
def create_set(body: NewSet) -> Response:
    """Make a set."""
    return written(lambda session: _summary(library.create_set(session, body.name), 0), 201)


@api.put("/sets/order", responses={200: SetList, **_REFUSALS}, operation_id="orderSets")
def order_sets(body: OrderSets) -> Response:
    """Put sets into another order."""

    def change(session: Session) -> SetList:
        keeping.order_sets(session, body.set_ids)
        return _listed(session)

    return written(change, small=True)


@api.get(_SET, responses={200: SetContents, 404: Problem}, operation_id="getSet")
def get_set(path: SetPath) -> Response:
    """A set with its pictures and their versions, for the contact sheet."""
    with means().database.reading() as session:
        found = library.get_set(session, path.set_id)
        return answer(
            SetContents(
                id=found.id,
                name=found.name,
                description=found.description,
                pictures=[summary(card) for card in cards_of(session, found.id)],
            )
        )


@api.patch(_SET, responses={200: SetSummary, **_REFUSALS}, operation_id="changeSet")
def change_set(path: SetPath, body: ChangedSet) -> Response:
    """Give a set another name or description."""

    def change(session: Session) -> SetSummary:
        found = keeping.change_set(session, path.set_id, body.name, body.description)
        return _summary(found, library.count_pictures(session, found.id))

    return written(change)


@api.delete(_SET, responses={200: Done, 404: Problem}, operation_id="binSet")
def bin_set(path: SetPath) -> Response:
    """Throw a set into the bin, with everything in it."""

    def change(session: Session) -> Done:
        keeping.bin_set(session, path.set_id)
        return Done(count=1)

    return written(change, small=True)


@api.post(f"{_SET}/merge", responses={200: Done, **_REFUSALS}, operation_id="mergeSet")
def merge_set(path: SetPath, body: MergeSet) -> Response:
    """Move everything from a set into another one; the empty one goes into the bin."""
    return written(lambda s: Done(count=keeping.merge_sets(s, path.set_id, body.into_id)))


@api.post(f"{_SET}/split", responses={201: SetSummary, **_REFUSALS}, operation_id="splitSet")
def split_set(path: SetPath, body: SplitSet) -> Response:
    """Move some pictures of a set into a new one."""

    def change(session: Session) -> SetSummary:
        library.get_set(session, path.set_id)
        made = library.create_set(session, body.name)
        keeping.move_pictures(session, body.picture_ids, made.id)
        return _summary(made, library.count_pictures(session, made.id))

    return written(change, 201)


@api.post(
    f"{_SET}/pictures",
    responses={200: Added, 201: Added, **_REFUSALS},
    operation_id="addPicture",
)
def add_picture(path: SetPath, form: PictureUpload) -> Response:
    """Add one file to a set; one that the set has already is recognised and not stored again, and
    comes back out of the bin if it is there.
    """
    file, size = form.file, request.content_length or 0

    def say(session: Session, taken: Taken) -> Added:
        (card,) = cards_of(session, ids=[taken.picture.id])
        return Added(picture=summary(card), known=taken.known)

    name = file.filename or ""
    added = take_in(means(), path.set_id, name, file.stream, say, size, form.as_damaged)
    context().reader.look()
    return answer(added, 200 if added.known else 201)


def _listed(session: Session) -> SetList:
    return SetList(sets=[_summary(found, count) for found, count in library.list_sets(session)])


def _summary(found: PictureSet, count: int) -> SetSummary:
    return SetSummary(id=found.id, name=found.name, description=found.description, pictures=count)
