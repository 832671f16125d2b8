"""Bodies of keeping house: the bin, what is set aside, what is kept."""

from datetime import datetime
from typing import Annotated

from pydantic import FailFast, Field

from sequor.web.common_bodies import Body, Numbers, Some


class IntoSet(Some):
    """Pictures, and the set that they go into."""

    set_id: int


class Restore(Body):
    """Pictures and sets that come out of the bin."""

    picture_ids: Numbers = Field(default=[])
    set_ids: Numbers = Field(default=[])


class BinnedPicture(Body):
    """A version of a picture in the bin, and until when it can be taken back."""

    id: int
    name: str
    version_name: str
    set_name: str
    binned_at: datetime
    until: datetime
    thumbnail: str


class BinnedSet(Body):
    """A set in the bin, with everything in it."""

    id: int
    name: str
    pictures: int
    binned_at: datetime
    until: datetime


class Bin(Body):
    """What is in the bin, the newest first, and for how many days it stays there."""

    days: float
    pictures: list[BinnedPicture]
    sets: list[BinnedSet]


class StorageLine(Body):
    """Something that is kept: how many files and bytes, and its budget where it has one."""

    name: str
    label: str
    about: str
    files: int
    size: int
    most: int | None


class StorageState(Body):
    """What is kept and how large it is, and the bytes that are free."""

    lines: list[StorageLine]
    free: int
    export_days: float
    bin_days: float


class QuarantinedFile(Body):
    """A file that the database does not name: its name there, the one it came under as far as that
    is known, and since when it lies there.
    """

    name: str
    came_as: str
    size: int
    since: datetime | None


class Quarantine(Body):
    """Files that were set aside."""

    files: list[QuarantinedFile]


class Quarantined(Body):
    """Some of them, by their names there."""

    names: Annotated[list[str], FailFast(), Field(min_length=1, max_length=10_000)]


class OutOfQuarantine(Quarantined):
    """Some of them, and the set they go into."""

    set_id: int
