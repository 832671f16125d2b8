"""Bodies of ledgers and versions."""

from datetime import datetime
from typing import Annotated

from pydantic import FailFast, Field

from sequor.core.edits import Edit
from sequor.web.common_bodies import Body, PicturePath


class HistoryEntry(Body):
    """An entry of a ledger. ``depth`` is 0 on the way that led to what holds and on from there;
    more on branches that undo left behind. ``author`` made it, where there are accounts.
    """

    id: int
    parent_id: int | None
    what: str
    created_at: datetime
    turn_words: str
    perspective_words: str
    kept_fraction: float
    depth: int
    thumbnail: str
    author: str


class History(Body):
    """The whole ledger of a picture, oldest entry first, and the entry that holds."""

    head_id: int
    entries: list[HistoryEntry]


class EntryPath(PicturePath):
    """An entry of a picture in an address."""

    entry_id: int


class GoBack(Body):
    """The entry whose recipe is to hold again, from the entry that the window shows."""

    based_on: int
    entry_id: int


class Version(Body):
    """A version of a picture: its frame, what it keeps, and the number of its finished exports."""

    id: int
    version: int
    name: str
    picture_name: str
    entry_id: int
    what: str
    width: int
    height: int
    ratio: str
    turn_words: str
    cost_words: str
    kept_fraction: float
    exports: int
    thumbnail: str


class Versions(Body):
    """All versions of a picture, the first one first."""

    versions: list[Version]


class NewVersion(Body):
    """Another version, from an entry and edits of it."""

    based_on: int
    name: str = Field(default="", max_length=60)
    edits: Annotated[tuple[Edit, ...], FailFast()] = Field(default=(), max_length=20)


class MadeVersion(Body):
    """The number of a version that was made."""

    id: int


class VersionName(Body):
    """Another name for a version."""

    name: str = Field(max_length=60)
