"""Sets: listed, made, renamed, ordered, merged, split; and what is on their contact sheets."""

from pathlib import Path

from flask import Response, request
from flask_openapi3 import Tag

from sequor.services import sets
from sequor.services.intake import TakenIn, Taking, open_in, take_in
from sequor.services.reply import Reply
from sequor.services.rights import right_of_set
from sequor.services.sets import SetLine
from sequor.services.sidecars import write_sidecars
from sequor.web.answers import answer
from sequor.web.cards import summary, summary_of
from sequor.web.common_bodies import Done, Problem, Responses, SetPath, SetSummary
from sequor.web.context import context, resources
from sequor.web.documented import Room
from sequor.web.repeated import counting, replying
from sequor.web.sets_bodies import (
    Added,
    ChangedSet,
    MergeSet,
    NewSet,
    OpenedFile,
    OrderSets,
    PictureUpload,
    SetContents,
    SetList,
    SidecarsOut,
    SplitSet,
)
from sequor.web.shown import may_words

api = Room(
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
    return answer(_listed(sets.list_sets(resources())))


@api.post("/sets", responses={201: SetSummary, 422: Problem}, operation_id="createSet")
def create_set(body: NewSet) -> Response:
    """Make a set."""
    return answer(sets.create_set(resources(), body.name, replying(summary_of, 201)), 201)


@api.put("/sets/order", responses={200: SetList, **_REFUSALS}, operation_id="orderSets")
def order_sets(body: OrderSets) -> Response:
    """Put sets into another order."""
    return answer(sets.order_sets(resources(), body.set_ids, replying(_listed)))


@api.get(_SET, responses={200: SetContents, 404: Problem}, operation_id="getSet")
def get_set(path: SetPath) -> Response:
    """A set with its pictures and their versions, for the contact sheet."""
    found, cards = sets.contents(resources(), path.set_id)
    return answer(
        SetContents(
            id=found.id,
            name=found.name,
            description=found.description,
            may=may_words(right_of_set(resources(), found.id)),
            pictures=[summary(card) for card in cards],
        )
    )


@api.patch(_SET, responses={200: SetSummary, **_REFUSALS}, operation_id="changeSet")
def change_set(path: SetPath, body: ChangedSet) -> Response:
    """Give a set another name or description."""
    return answer(
        sets.change_set(resources(), path.set_id, body.name, body.description, replying(summary_of))
    )


@api.delete(_SET, responses={200: Done, 404: Problem}, operation_id="binSet")
def bin_set(path: SetPath) -> Response:
    """Throw a set into the bin, with everything in it."""
    return answer(sets.bin_set(resources(), path.set_id, counting()))


@api.post(f"{_SET}/merge", responses={200: Done, **_REFUSALS}, operation_id="mergeSet")
def merge_set(path: SetPath, body: MergeSet) -> Response:
    """Move everything from a set into another one; the empty one goes into the bin."""
    return answer(sets.merge_sets(resources(), path.set_id, body.into_id, counting()))


@api.post(f"{_SET}/split", responses={201: SetSummary, **_REFUSALS}, operation_id="splitSet")
def split_set(path: SetPath, body: SplitSet) -> Response:
    """Move some pictures of a set into a new one."""
    reply = replying(summary_of, 201)
    made = sets.split_set(resources(), path.set_id, body.picture_ids, body.name, reply)
    return answer(made, 201)


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
    name = file.filename or ""
    reply = Reply(_added)
    how = Taking(form.as_damaged, form.page)
    added = take_in(resources(), path.set_id, name, file.stream, reply, size, how)
    context().reader.look()
    return answer(added, 200 if added.known else 201)


@api.post(
    f"{_SET}/opened",
    responses={200: Added, 201: Added, **_REFUSALS},
    operation_id="openPicture",
)
def open_picture(path: SetPath, body: OpenedFile) -> Response:
    """Add a file of this machine to a set that stays where it lies and is never written; a new one
    begins with the recipe that lies beside it, if one does.
    """
    added = open_in(resources(), path.set_id, Path(body.path), Reply(_added), body.as_damaged)
    context().reader.look()
    return answer(added, 200 if added.known else 201)


@api.post(
    f"{_SET}/sidecars", responses={200: SidecarsOut, **_REFUSALS}, operation_id="writeSidecars"
)
def write_beside(path: SetPath) -> Response:
    """Write the recipes of a set beside its pictures that stay where they lie."""
    found = write_sidecars(resources(), path.set_id)
    return answer(SidecarsOut(written=found.written, refused=found.refused))


def _added(taken: TakenIn) -> Added:
    return Added(picture=summary(taken.card), known=taken.known, said=taken.said)


def _listed(lines: list[SetLine]) -> SetList:
    return SetList(sets=[summary_of(line) for line in lines])
