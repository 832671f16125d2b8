"""What a client sees who has a link and no account: one set, to look at, to mark and to comment on.

The link itself lets the client in, in every address, and nothing else does.
"""

from flask import Response
from flask_openapi3 import Tag

from sequor.services import images, sharing
from sequor.services.sharing import Words
from sequor.store.acting import actor
from sequor.web.answers import answer
from sequor.web.common_bodies import Done, Problem, Responses
from sequor.web.context import client_gone, resources
from sequor.web.documented import Room
from sequor.web.images import JPEG, FramedQuery, image
from sequor.web.shares import comment_out, comments_out
from sequor.web.shares_bodies import (
    CommentOut,
    Comments,
    NewComment,
    ShownCommentPath,
    ShownEntryPath,
    ShownOut,
    ShownPath,
    ShownPicture,
    ShownPicturePath,
)

api = Room(
    "clients",
    __name__,
    url_prefix="/api/shown/<string:token>",
    abp_tags=[Tag(name="clients", description="What a link shows to who has no account")],
)
_REFUSALS: Responses = {404: Problem, 422: Problem}
_PICTURE = "/pictures/<int:picture_id>"


@api.get("", responses={200: ShownOut, **_REFUSALS}, operation_id="getShown")
def get_shown(path: ShownPath) -> Response:
    """The set that a link shows, with what its client marked and said."""
    found, somebody = sharing.shown(resources()), actor()
    said: dict[int, list[CommentOut]] = {}
    for one in found.said:
        said.setdefault(one.comment.picture_id, []).append(comment_out(one))
    pictures = [
        ShownPicture(
            id=card.id,
            name=f"{card.name} – {card.version_name}" if card.version_name else card.name,
            image=f"/api/shown/{path.token}/pictures/{card.id}/picture-{card.entry_id}.jpg",
            favourite=card.id in found.favourites,
            comments=said.get(card.id, []),
        )
        for card in found.cards
    ]
    return answer(
        ShownOut(
            name=found.of.name,
            description=found.of.description,
            label=somebody.name if somebody else "",
            pictures=pictures,
        )
    )


@api.get(f"{_PICTURE}/picture-<int:entry_id>.jpg", responses=JPEG, operation_id="getShownPicture")
def get_shown_picture(path: ShownEntryPath, query: FramedQuery) -> Response:
    """A picture of it in its frame, as the entry that the address names has it."""
    what = sharing.shown_picture(resources(), path.picture_id, path.entry_id)
    return image(images.framed(resources(), what, query.edge, client_gone()))


@api.put(f"{_PICTURE}/favourite", responses={200: Done, **_REFUSALS}, operation_id="markFavourite")
def mark_favourite(path: ShownPicturePath) -> Response:
    """Mark a picture as the client's favourite."""
    sharing.mark(resources(), path.picture_id, True)
    return answer(Done(count=1))


@api.delete(
    f"{_PICTURE}/favourite", responses={200: Done, **_REFUSALS}, operation_id="unmarkFavourite"
)
def unmark_favourite(path: ShownPicturePath) -> Response:
    """Mark it no more."""
    sharing.mark(resources(), path.picture_id, False)
    return answer(Done(count=1))


@api.post(
    f"{_PICTURE}/comments", responses={201: Comments, **_REFUSALS}, operation_id="commentAsClient"
)
def comment_as_client(path: ShownPicturePath, body: NewComment) -> Response:
    """Leave words on a place of a picture."""
    said = Words(body.x, body.y, body.words)
    return answer(comments_out(sharing.comment(resources(), path.picture_id, said)), 201)


@api.delete(
    "/comments/<int:comment_id>",
    responses={200: Comments, **_REFUSALS},
    operation_id="takeCommentBack",
)
def take_comment_back(path: ShownCommentPath) -> Response:
    """Remove words that the client left."""
    return answer(comments_out(sharing.take_comment_back(resources(), path.comment_id)))
