"""Bodies of sharing: rights, links for clients, favourites, notes on places of pictures."""

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from sequor.web.common_bodies import Body, PicturePath, SetPath

RightName = Literal["look", "work", "export"]
Share01 = Annotated[float, Field(ge=0, le=1)]


class SharePath(SetPath):
    """A set, and the account that it is shared with."""

    person_id: int


class LinkPath(SetPath):
    """A set, and a link that shows it."""

    link_id: int


class RightBody(Body):
    """What somebody may do."""

    right: RightName


class Owner(Body):
    """The account that a set is given to."""

    person_id: int


class SharedOut(Body):
    """Somebody with whom a set is shared."""

    person_id: int
    name: str
    right: RightName


class OtherOut(Body):
    """Somebody with whom it could be shared, and the rights that can be given."""

    person_id: int
    name: str
    rights: list[RightName]


class TakerOut(Body):
    """Somebody to whom it may be given."""

    person_id: int
    name: str


class RightOption(Body):
    """A right, and its name."""

    value: RightName
    label: str


class LinkOut(Body):
    """A link that shows a set to a client."""

    id: int
    label: str
    made_at: datetime
    until: datetime


class MadeLink(LinkOut):
    """The same with the address, which is told only once."""

    path: str


class NewLink(Body):
    """For whom a link is, and the last day on which it works."""

    label: str = Field(min_length=1, max_length=60)
    last_day: date


class SharingOut(Body):
    """Whom a set belongs to (empty where it was made before there were accounts), with whom it is
    shared, and which links show it. A new one may end on ``first_day`` at the earliest, and does on
    ``usual_day`` if nothing else is said.
    """

    owner: str
    shared: list[SharedOut]
    others: list[OtherOut]
    takers: list[TakerOut]
    links: list[LinkOut]
    rights: list[RightOption]
    first_day: date
    usual_day: date


class RemarkOut(Body):
    """A picture, whose favourite it is, and how many notes there are on it."""

    picture_id: int
    favourite_of: list[str]
    notes: int


class RemarksOut(Body):
    """The pictures of a set on which anything was remarked."""

    remarks: list[RemarkOut]


class CommentOut(Body):
    """Words on a place of a picture, in shares of the frame's width and height; ``removable``: by
    who asks.
    """

    id: int
    author: str
    x: float
    y: float
    words: str
    made_at: datetime
    removable: bool


class Comments(Body):
    """What is said on a picture, in the order in which it was said."""

    comments: list[CommentOut]


class NewComment(Body):
    """Words for a place of a picture."""

    x: Share01
    y: Share01
    words: str = Field(min_length=1, max_length=1000)


class CommentPath(BaseModel):
    """A note in an address."""

    comment_id: int


class ShownPath(BaseModel):
    """A link by what lets a client in."""

    token: str


class ShownPicturePath(PicturePath):
    """A picture that a link shows."""

    token: str


class ShownEntryPath(ShownPicturePath):
    """The same, as an entry of its ledger has it."""

    entry_id: int


class ShownCommentPath(ShownPath):
    """A client's note."""

    comment_id: int


class ShownPicture(Body):
    """A picture as a client sees it, and where its image is."""

    id: int
    name: str
    image: str
    favourite: bool
    comments: list[CommentOut]


class ShownOut(Body):
    """A set as a client sees it."""

    name: str
    description: str
    label: str
    pictures: list[ShownPicture]
