"""Bodies of sets and contact sheets."""

from datetime import datetime
from typing import Literal

from pydantic import Field

from sequor.web.common_bodies import Body, Numbers, RightWord, SetSummary, Some, Upload


class NewSet(Body):
    """A set to make."""

    name: str = Field(min_length=1, max_length=120)


class ChangedSet(Body):
    """Another name or description for a set; what is left out stays."""

    name: str | None = Field(default=None, min_length=1, max_length=120)
    description: str | None = Field(default=None, max_length=1000)


class OrderSets(Body):
    """Sets in the order in which they are to be listed, before all others."""

    set_ids: Numbers


class MergeSet(Body):
    """The set that everything goes into."""

    into_id: int


class SplitSet(Some):
    """Pictures for a set of their own, and its name."""

    name: str = Field(min_length=1, max_length=120)


CardState = Literal["new", "measured", "framed", "exported"]


class PictureSummary(Body):
    """A version of a picture on the contact sheet; those of one ``group`` share an original, which
    may be ``lost``, or was ``taken_damaged``; one that is ``opened`` stays where it lies.

    ``told`` says whether a picture as shot was read and tells its tilt; ``told_words`` are empty
    where it was not read, or something was decided already. ``tilt_deg`` is how far it is off, as
    far as that is known.
    """

    id: int
    name: str
    version: int
    version_name: str
    group: str
    added_at: datetime
    taken_at: datetime | None
    width: int
    height: int
    entry_id: int
    roll_deg: float
    tilt_deg: float
    turn_words: str
    perspective_words: str
    kept_fraction: float
    state: CardState
    state_words: str
    lost: bool
    opened: bool
    taken_damaged: bool
    thumbnail: str
    original: str
    told_words: str
    told: Literal["sure", "unsure", "unread"]


class SetContents(Body):
    """A set with its pictures; ``may`` is what who asks may do with it."""

    id: int
    name: str
    description: str
    may: list[RightWord]
    pictures: list[PictureSummary]


class PictureUpload(Upload):
    """A picture to add to a set; ``as_damaged`` takes it with what can be read of it, ``page`` of a
    TIFF of several pages that one, from 1.
    """

    as_damaged: bool = False
    page: int | None = Field(default=None, ge=1, le=1000)


class OpenedFile(Body):
    """A file to open where it lies, by its whole path; ``as_damaged`` takes it with what can be
    read of it.
    """

    path: str = Field(min_length=1, max_length=4096)
    as_damaged: bool = False


class Added(Body):
    """What came of an upload; ``known`` when the set had that file already, ``said`` what is to be
    known of a sidecar that lay beside it.
    """

    picture: PictureSummary
    known: bool
    said: str


class SidecarsOut(Body):
    """How many sidecars were written, and why others were not."""

    written: int
    refused: list[str]


class SetList(Body):
    """All sets."""

    sets: list[SetSummary]
