"""What goes over the wire: request and response bodies, from which the OpenAPI document is made."""

from datetime import datetime
from http import HTTPStatus
from typing import Annotated, Any, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, FailFast, Field

from sequor.core.edits import Edit, InkReadings
from sequor.core.measure.guide import HeldAgainst
from sequor.core.propose.proposal import Proposal, Want
from sequor.core.recipe import Direction, Point, PrintSize, Recipe
from sequor.core.render.size import Output, OutputSize
from sequor.core.report.options import Option, Range
from sequor.core.report.proposals import ProposalWords
from sequor.core.report.report import Report
from sequor.core.solution import Solution
from sequor.pictures.encode import Format
from sequor.services.exports import ExportOptions

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
    """What went wrong, in one or two sentences for a person; ``request_id`` finds it in the log."""

    problem: str
    request_id: str


class Health(Body):
    """Whether the server and its database answer, whether it is ready, and why it is not.

    ``waiting`` and ``running`` count pieces of heavy work.
    """

    status: Literal["ok", "failing"]
    live: bool
    ready: bool
    reasons: list[str]
    database: bool
    free_mb: float
    waiting: int
    running: int
    version: str


class NewSet(Body):
    """A set to make."""

    name: str = Field(min_length=1, max_length=120)


class SetSummary(Body):
    """A set and the number of its pictures."""

    id: int
    name: str
    pictures: int


class PictureSummary(Body):
    """A picture on the contact sheet.

    ``told`` says whether a picture as shot was read and tells its tilt; ``told_words`` are empty
    where it was not read, or something was decided already.
    """

    id: int
    name: str
    width: int
    height: int
    entry_id: int
    roll_deg: float
    turn_words: str
    perspective_words: str
    kept_fraction: float
    state: Literal["new", "measured", "framed", "exported"]
    state_words: str
    thumbnail: str
    told_words: str
    told: Literal["sure", "unsure", "unread"]


class SetContents(Body):
    """A set with its pictures."""

    id: int
    name: str
    pictures: list[PictureSummary]


class Upload(BaseModel):
    """One file to add to a set."""

    file: FileStorage


class Added(Body):
    """What came of an upload; ``known`` when the set had that file already."""

    picture: PictureSummary
    known: bool


class PictureFile(Body):
    """The original file of a picture."""

    name: str
    format: str
    width: int
    height: int
    bits: int
    profile: str | None
    focal35_mm: float | None
    byte_size: int


class Addresses(Body):
    """Where images of a picture are: addresses that name content, so that they never change.

    ``original`` is followed by ``/proxy.jpg``, ``/tiles/COLUMN/ROW.png`` or ``/undistorted.jpg``,
    ``corrected`` by ``/view.jpg``, ``/filled.jpg`` or ``/pieces/PLACE.png``.
    """

    original: str
    corrected: str


class PictureState(Body):
    """A picture on the bench: the recipe that holds, its solution and what is said of it.

    ``said`` is what came of the edits that led here, where there is anything to say.
    """

    id: int
    set_id: int
    set_name: str
    file: PictureFile
    proxy_scale: float
    addresses: Addresses
    entry_id: int
    what: str
    said: str
    recipe: Recipe
    solution: Solution
    report: Report
    can_undo: bool
    can_redo: bool


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
    entry_id: int
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
    """The exports of a picture, newest first."""

    exports: list[ExportState]


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
