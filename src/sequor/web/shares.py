"""Sharing: who may do what with a set, links for clients, favourites, notes on pictures."""

from datetime import datetime, time, timedelta

from flask import Response
from flask_openapi3 import Tag

from sequor.core.language import mark, tr
from sequor.services import sharing
from sequor.services.sharing import Said, Sharing, Words
from sequor.store.acting import Right
from sequor.store.models import now
from sequor.web.answers import answer
from sequor.web.common_bodies import Done, PicturePath, Problem, Responses, SetPath
from sequor.web.context import resources
from sequor.web.documented import Room
from sequor.web.shares_bodies import (
    CommentOut,
    CommentPath,
    Comments,
    LinkOut,
    LinkPath,
    MadeLink,
    NewComment,
    NewLink,
    OtherOut,
    Owner,
    RemarkOut,
    RemarksOut,
    RightBody,
    RightName,
    RightOption,
    SharedOut,
    SharePath,
    SharingOut,
    TakerOut,
)
from sequor.web.who import name_words

api = Room("shares", __name__, url_prefix="/api", abp_tags=[Tag(name="sharing")])
_SET = "/sets/<int:set_id>"
_REFUSALS: Responses = {403: Problem, 404: Problem, 422: Problem}
_USUAL = timedelta(days=30)
"""So long a link for a client works if nothing else is said."""
_RIGHTS: dict[RightName, tuple[Right, str]] = {
    "look": (Right.LOOK, mark("look and comment")),
    "work": (Right.WORK, mark("work on pictures")),
    "export": (Right.EXPORT, mark("work and export")),
}
_NAMES: dict[Right, RightName] = {right: name for name, (right, _) in _RIGHTS.items()}


@api.get(f"{_SET}/sharing", responses={200: SharingOut, **_REFUSALS}, operation_id="getSharing")
def get_sharing(path: SetPath) -> Response:
    """How a set is shared."""
    return answer(_sharing(sharing.sharing_of(resources(), path.set_id)))


@api.put(
    f"{_SET}/shares/<int:person_id>",
    responses={200: SharingOut, **_REFUSALS},
    operation_id="shareSet",
)
def share_set(path: SharePath, body: RightBody) -> Response:
    """Let somebody do something with a set."""
    right = _RIGHTS[body.right][0]
    return answer(_sharing(sharing.share(resources(), path.set_id, path.person_id, right)))


@api.delete(
    f"{_SET}/shares/<int:person_id>",
    responses={200: SharingOut, **_REFUSALS},
    operation_id="stopSharing",
)
def stop_sharing(path: SharePath) -> Response:
    """Take that back."""
    return answer(_sharing(sharing.share_no_more(resources(), path.set_id, path.person_id)))


@api.put(f"{_SET}/owner", responses={200: Done, **_REFUSALS}, operation_id="giveSet")
def give_set(path: SetPath, body: Owner) -> Response:
    """Give a set to another account; who had it may still work on it and export."""
    sharing.give(resources(), path.set_id, body.person_id)
    return answer(Done(count=1))


@api.post(f"{_SET}/links", responses={201: MadeLink, **_REFUSALS}, operation_id="makeLink")
def make_link(path: SetPath, body: NewLink) -> Response:
    """A link that shows a set to a client, to the end of a day (UTC)."""
    end = datetime.combine(body.last_day, time()) + timedelta(days=1, seconds=-1)
    made, token = sharing.make_link(resources(), path.set_id, body.label, end)
    return answer(MadeLink(**vars(made), path=f"/shown/{token}"), 201)


@api.delete(
    f"{_SET}/links/<int:link_id>",
    responses={200: SharingOut, **_REFUSALS},
    operation_id="endLink",
)
def end_link(path: LinkPath) -> Response:
    """Let a link work no more."""
    return answer(_sharing(sharing.end_link(resources(), path.set_id, path.link_id)))


@api.get(f"{_SET}/remarks", responses={200: RemarksOut, **_REFUSALS}, operation_id="listRemarks")
def list_remarks(path: SetPath) -> Response:
    """The pictures of a set that clients marked, or on which something is said."""
    found = sharing.remarks(resources(), path.set_id)
    listed = [RemarkOut(picture_id=number, **vars(one)) for number, one in found.items()]
    return answer(RemarksOut(remarks=listed))


@api.get(
    "/pictures/<int:picture_id>/comments",
    responses={200: Comments, **_REFUSALS},
    operation_id="listComments",
)
def list_comments(path: PicturePath) -> Response:
    """What is said on a picture."""
    return answer(comments_out(sharing.comments_on(resources(), path.picture_id)))


@api.post(
    "/pictures/<int:picture_id>/comments",
    responses={201: Comments, **_REFUSALS},
    operation_id="comment",
)
def comment(path: PicturePath, body: NewComment) -> Response:
    """Say something on a place of a picture."""
    said = Words(body.x, body.y, body.words)
    return answer(comments_out(sharing.comment(resources(), path.picture_id, said)), 201)


@api.delete(
    "/comments/<int:comment_id>",
    responses={200: Comments, **_REFUSALS},
    operation_id="removeComment",
)
def remove_comment(path: CommentPath) -> Response:
    """Remove what was said; the rest of what is said on that picture."""
    return answer(comments_out(sharing.take_comment_back(resources(), path.comment_id)))


def comments_out(found: list[Said]) -> Comments:
    """What is said on a picture, as it is answered."""
    return Comments(comments=[comment_out(one) for one in found])


def comment_out(found: Said) -> CommentOut:
    """A note as it is answered."""
    said = found.comment
    return CommentOut(
        id=said.id,
        author=name_words(said.author),
        x=said.x,
        y=said.y,
        words=said.words,
        made_at=said.made_at,
        removable=found.removable,
    )


def _sharing(found: Sharing) -> SharingOut:
    today = now().date()
    return SharingOut(
        first_day=today,
        usual_day=today + _USUAL,
        owner=found.owner,
        shared=[
            SharedOut(person_id=one.person_id, name=one.name, right=_NAMES[one.right])
            for one in found.shared
        ],
        others=[
            OtherOut(
                person_id=one.person_id,
                name=one.name,
                rights=[name for name, (right, _) in _RIGHTS.items() if right <= one.right],
            )
            for one in found.others
        ],
        takers=[TakerOut(person_id=one.id, name=one.name) for one in found.takers],
        links=[LinkOut(**vars(one)) for one in found.links],
        rights=[RightOption(value=name, label=tr(label)) for name, (_, label) in _RIGHTS.items()],
    )
