"""What goes over the wire: request and response bodies, from which the OpenAPI document is made."""

from datetime import datetime
from http import HTTPStatus
from typing import Annotated, Any, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, FailFast, Field, NaiveDatetime

from sequor.core.corner_ways import WayCost
from sequor.core.edges.guide import HeldAgainst
from sequor.core.edits import Edit, InkReadings
from sequor.core.edits.carrying import Part
from sequor.core.propose.proposal import Proposal, Want
from sequor.core.recipe import Direction, Point, PrintSize, Recipe
from sequor.core.render.size import Output, OutputSize
from sequor.core.report.options import Option, Range
from sequor.core.report.proposals import ProposalWords
from sequor.core.report.report import Report, WayWords
from sequor.core.solution import Solution
from sequor.making.exports import ExportOptions
from sequor.pictures.encode import Format

Responses = dict[str | int | HTTPStatus, type[BaseModel] | dict[Any, Any] | None]
"""What an address may answer, by status."""


class Body(BaseModel):
    """Base of every body: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class SetPath(BaseModel):
    """The set in an address."""

    set_id: int


class PicturePath(BaseModel):
    """The picture in an address."""

    picture_id: int


class ExportPath(BaseModel):
    """The export in an address."""

    export_id: int


class Problem(Body):
    """What went wrong, in one or two sentences for a person; ``request_id`` finds it in the log.

    ``as_damaged``: the file that was sent is damaged, and can be taken in as that.
    """

    problem: str
    request_id: str
    as_damaged: bool = False


class CornerWay(Body):
    """A way to deal with all of the empty corners, and what it would cost."""

    cost: WayCost
    words: WayWords


class CornerWays(Body):
    """Cropping, bending and filling, as far as each can be done."""

    ways: list[CornerWay]


class Health(Body):
    """Whether the server and its database answer, whether it is ready, and why it is not; what will
    be a reason soon is said in ``warnings``.

    ``waiting`` and ``running`` count pieces of heavy work.
    """

    status: Literal["ok", "failing"]
    live: bool
    ready: bool
    reasons: list[str]
    warnings: list[str]
    database: bool
    free_mb: float
    waiting: int
    running: int
    version: str


class NewSet(Body):
    """A set to make."""

    name: str = Field(min_length=1, max_length=120)


class ChangedSet(Body):
    """Another name or description for a set; what is left out stays."""

    name: str | None = Field(default=None, min_length=1, max_length=120)
    description: str | None = Field(default=None, max_length=1000)


Numbers = Annotated[list[int], FailFast(), Field(max_length=10_000)]
"""Pictures, sets or exports by their numbers."""


class OrderSets(Body):
    """Sets in the order in which they are to be listed, before all others."""

    set_ids: Numbers


class MergeSet(Body):
    """The set that everything goes into."""

    into_id: int


class Some(Body):
    """Some pictures."""

    picture_ids: Annotated[Numbers, Field(min_length=1)]


class SplitSet(Some):
    """Pictures for a set of their own, and its name."""

    name: str = Field(min_length=1, max_length=120)


class IntoSet(Some):
    """Pictures, and the set that they go into."""

    set_id: int


class Restore(Body):
    """Pictures and sets that come out of the bin."""

    picture_ids: Numbers = Field(default=[])
    set_ids: Numbers = Field(default=[])


class Done(Body):
    """To how many something was done."""

    count: int


class SetSummary(Body):
    """A set and the number of its pictures."""

    id: int
    name: str
    description: str
    pictures: int


CardState = Literal["new", "measured", "framed", "exported"]


class PictureSummary(Body):
    """A version of a picture on the contact sheet; those of one ``group`` share an original, which
    may be ``lost``, or was ``taken_damaged``.

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
    taken_damaged: bool
    thumbnail: str
    original: str
    told_words: str
    told: Literal["sure", "unsure", "unread"]


class SetContents(Body):
    """A set with its pictures."""

    id: int
    name: str
    description: str
    pictures: list[PictureSummary]


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


class Brought(Body):
    """The sets that came with an archive."""

    sets: list[SetSummary]


class Upload(BaseModel):
    """One file."""

    file: FileStorage


class PictureUpload(Upload):
    """A picture to add to a set; ``as_damaged`` takes it with what can be read of it."""

    as_damaged: bool = False


class Added(Body):
    """What came of an upload; ``known`` when the set had that file already."""

    picture: PictureSummary
    known: bool


class PictureFile(Body):
    """The original file of a picture; ``taken_damaged`` says what was wrong with it when it came in
    and was wanted all the same.
    """

    name: str
    format: str
    width: int
    height: int
    bits: int
    profile: str | None
    focal35_mm: float | None
    byte_size: int
    taken_damaged: str


class Addresses(Body):
    """Where images of a picture are: addresses that name content, so that they never change.

    ``original`` is followed by ``/proxy.jpg``, ``/tiles/COLUMN/ROW.png`` or ``/undistorted.jpg``,
    ``corrected`` by ``/view.jpg``, ``/filled.jpg`` or ``/pieces/PLACE.png``.
    """

    original: str
    corrected: str


class Shown(Body):
    """What a screen needs to show a recipe of a picture."""

    file: PictureFile
    proxy_scale: float
    addresses: Addresses
    solution: Solution


class PictureState(Body):
    """A picture on the bench: the recipe that holds, its solution and what is said of it.

    ``said`` is what came of the edits that led here, where there is anything to say; ``unreadable``
    why the newest entry of its ledger is not the one that holds.
    """

    id: int
    version: int
    version_name: str
    set_id: int
    set_name: str
    file: PictureFile
    proxy_scale: float
    addresses: Addresses
    entry_id: int
    what: str
    said: str
    unreadable: str
    recipe: Recipe
    solution: Solution
    report: Report
    can_undo: bool
    can_redo: bool
    file_options: ExportOptions | None


EditList = Annotated[tuple[Edit, ...], FailFast()]


class Edits(Body):
    """Edits, one after the other, of the recipe of an entry."""

    based_on: int
    edits: EditList = Field(min_length=1, max_length=200)


class Draft(Body):
    """What edits lead to; nothing is stored."""

    recipe: Recipe
    solution: Solution
    report: Report


class Move(Body):
    """An undo or redo, from the entry that the window shows."""

    based_on: int


class HistoryEntry(Body):
    """An entry of a ledger. ``depth`` is 0 on the way that led to what holds and on from there;
    more on branches that undo left behind.
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


class PartOption(Option):
    """Something that can be carried over, and what it is."""

    value: Part
    about: str


class PartOptions(Body):
    """What can be carried over from one picture to others."""

    parts: tuple[PartOption, ...]


Parts = Annotated[tuple[Part, ...], FailFast(), Field(max_length=20)]


class LookIn(Body):
    """What would be carried over from an entry to some pictures."""

    based_on: int
    parts: Parts
    picture_ids: Annotated[list[int], FailFast()] = Field(min_length=1, max_length=1000)


class CarryTarget(Body):
    """A picture, and the entry that was looked at."""

    picture_id: int
    entry_id: int


class CarryIn(Body):
    """What is carried over from an entry, and to which pictures; ``files`` takes the choices of
    files along.
    """

    based_on: int
    parts: Parts
    files: bool = False
    targets: Annotated[list[CarryTarget], FailFast()] = Field(min_length=1, max_length=1000)


class CarryLook(Body):
    """What a picture would become: ``misfits`` say what does not fit it and why, ``problem`` why it
    cannot be done at all.
    """

    picture_id: int
    name: str
    entry_id: int
    changes: bool
    misfits: list[str]
    problem: str
    before_words: str
    after_words: str
    kept_before: float
    kept_after: float
    shown: Shown


class CarryLooks(Body):
    """What every picture would become."""

    pictures: list[CarryLook]


class Carried(Body):
    """An act on many pictures: its number, and how many were changed."""

    act_id: int
    count: int


class ActPath(BaseModel):
    """The act in an address."""

    act_id: int


class TakenBack(Body):
    """In how many pictures an act was undone, and those that were changed since and stay."""

    count: int
    changed: list[str]


class GuideIn(Body):
    """A guide held against the picture that edits of an entry lead to.

    Its ends are in pixels of the uncropped corrected picture.
    """

    based_on: int
    edits: EditList = Field(default=(), max_length=200)
    direction: Direction
    ends: tuple[Point, Point]


class GuideOut(HeldAgainst):
    """What a guide shows, in words too."""

    words: str


class ProposalIn(Body):
    """What a picture is to be, by the recipe that edits of an entry lead to."""

    based_on: int
    edits: EditList = Field(default=(), max_length=200)
    want: Want = "any"


class ProposalOut(Body):
    """What the picture proposes itself, in words too; ``take`` is the edit that takes all of it,
    null where there is nothing to take.
    """

    proposal: Proposal
    words: ProposalWords
    take: InkReadings | None


class LensKnown(Body):
    """A lens of the open database."""

    name: str


class LensList(Body):
    """Lenses found, whether there are more, and what the file says of its camera and lens."""

    named: str
    lenses: list[LensKnown]
    more: bool


class NewExport(ExportOptions):
    """An export of a ledger entry; the entry that holds when none is named."""

    entry_id: int | None = None


class NewExports(ExportOptions):
    """Exports of several pictures, of the entries that hold."""

    picture_ids: Annotated[list[int], FailFast()] = Field(min_length=1, max_length=500)


class SizeIn(Body):
    """A size for the file of an entry."""

    entry_id: int
    size: OutputSize


class OutputOut(Output):
    """The size that a file gets, and what that does to the picture in words."""

    words: str


class ExportState(Body):
    """How far an export is.

    ``progress`` goes from 0 to 1, ``filled_share`` is the share of its pixels that were filled.
    """

    id: int
    picture_id: int
    picture_name: str
    version_name: str
    set_name: str
    entry_id: int
    entry_what: str
    format: Format
    quality: int
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    progress: float
    problem: str | None
    file_name: str
    width: int | None
    height: int | None
    byte_size: int | None
    empty_pixels: int | None
    filled_share: float | None
    words: str
    created_at: datetime


class ExportList(Body):
    """Exports, newest first."""

    exports: list[ExportState]


class PageQuery(BaseModel):
    """So many, only those before one, and only what changed since a moment (UTC)."""

    before: int = Field(default=0, ge=0, le=2**63 - 1)
    since: NaiveDatetime | None = None
    limit: int = Field(default=100, ge=1, le=500)


class ClearExports(Body):
    """Exports to remove: some, or those that were finished so many days ago."""

    ids: list[int] | None = Field(default=None, max_length=10_000)
    older_days: float | None = Field(default=None, ge=0, le=36_500)


class PresetIn(Body):
    """Choices of a file, and their name."""

    name: str = Field(min_length=1, max_length=60)
    options: ExportOptions


class PresetOut(PresetIn):
    """Choices that have a name."""

    id: int


class Presets(Body):
    """All of them, by name."""

    presets: list[PresetOut]


class PresetPath(BaseModel):
    """The preset in an address."""

    preset_id: int


class FormatOption(Option):
    """A file format: whether it loses something, and takes 16 bits, a quality, transparency."""

    value: Format
    lossy: bool
    deep: bool
    transparent: bool


class FileOptions(Body):
    """How files can be written, and how they are when nothing is said."""

    formats: tuple[FormatOption, ...]
    sizes: tuple[Option, ...]
    metadata: tuple[Option, ...]
    quality: Range
    bits: tuple[int, ...]
    side: Range
    name_parts: tuple[str, ...]
    start: ExportOptions


class SetList(Body):
    """All sets."""

    sets: list[SetSummary]


class PrintSizeIn(PrintSize):
    """A size that a lab prints, with its name."""

    name: str = Field(min_length=1, max_length=80)


class PrintSizeOut(PrintSizeIn):
    """A listed size and the pixels it has."""

    id: int
    width_px: int
    height_px: int


class PrintSizes(Body):
    """The listed sizes."""

    sizes: list[PrintSizeOut]


class PrintSizePath(BaseModel):
    """The listed size in an address."""

    size_id: int


class FillRegion(Body):
    """A part of the frame that is filled: the corner it belongs to and its share of the frame."""

    corner: int
    name: str
    share: float


class FillState(Body):
    """What is filled in a frame, and where straight edges cross the seam, in shares of it."""

    regions: list[FillRegion]
    notes: list[str]
    crossings: list[Point]


class CornerCheck(Body):
    """The frame of an entry as its file has it at full size, counted pixel by pixel."""

    width: int
    height: int
    empty_pixels: int
    filled_pixels: int
    words: str
