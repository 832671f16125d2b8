"""What goes over the wire: request and response bodies, from which the OpenAPI document is made."""

from datetime import datetime
from typing import Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, Field

from sequor.core.output import OutputSize
from sequor.core.recipe import Axis, GuideName, Point, PrintSize, Reading, Recipe
from sequor.core.solution import Action, Solution
from sequor.pictures.encode import Format
from sequor.pictures.metadata import Metadata
from sequor.pictures.naming import DEFAULT_PATTERN


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
    """Whether the server and its database answer."""

    status: Literal["ok", "failing"]
    database: bool
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
    """A picture on the contact sheet."""

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


class PictureState(Body):
    """A picture on the bench: the recipe that holds, its solution, and where undo and redo lead."""

    id: int
    set_id: int
    set_name: str
    file: PictureFile
    proxy_scale: float
    entry_id: int
    what: str
    recipe: Recipe
    solution: Solution
    can_undo: bool
    can_redo: bool


class Draft(Body):
    """A recipe to try; nothing is stored."""

    recipe: Recipe


class TypedAngleIn(Body):
    """A typed angle of the picture as shot, to be corrected on top of a recipe."""

    recipe: Recipe
    axis: Axis = "roll"
    text: str = Field(max_length=40)


class TypedAngleOut(Body):
    """The recipe with the typed angle corrected, and what was understood."""

    recipe: Recipe
    said: str


class ActionIn(Body):
    """What a note offers, to be done to a recipe."""

    recipe: Recipe
    action: Action


class ReadingsIn(Body):
    """Readings to fit to the image edges under them, one or the four sides of a rectangle, with the bow of a recipe."""

    recipe: Recipe = Recipe()
    readings: tuple[Reading, ...] = Field(min_length=1, max_length=4)


class ReadingsOut(Body):
    """The readings, fitted where there was an edge, and what was found."""

    readings: tuple[Reading, ...]
    said: str


class RectangleIn(Body):
    """Four corners of something rectangular, in any order, with the bow of a recipe."""

    recipe: Recipe = Recipe()
    corners: tuple[Point, Point, Point, Point]
    group: str = Field(min_length=1, max_length=30)
    sigma_px: float = Field(gt=0, le=1000)
    fit: bool = True


class LensKnown(Body):
    """A lens of the open database."""

    name: str


class LensList(Body):
    """Lenses found, and what the file itself says of its camera and lens."""

    named: str
    lenses: list[LensKnown]


class LensIn(Body):
    """A lens whose bow is to be taken out."""

    recipe: Recipe
    name: str = Field(min_length=1, max_length=200)


class GuideIn(Body):
    """A guide held against the picture that a recipe gives; its ends in pixels of the uncropped corrected picture."""

    recipe: Recipe
    direction: Literal["level", "plumb"]
    ends: tuple[Point, Point]


class NewEntry(Body):
    """A recipe to enter into the ledger after the entry it was based on."""

    based_on: int
    recipe: Recipe
    what: str = Field(min_length=1, max_length=200)


class Move(Body):
    """An undo or redo, from the entry that the window shows."""

    based_on: int


class ExportOptions(Body):
    """How a file is written (see docs/api.md). ``bits`` null keeps the original's depth, as far as the format can."""

    format: Format = "jpeg"
    quality: int = Field(default=95, ge=1, le=100)
    size: OutputSize = OutputSize()
    bits: Literal[8, 16] | None = None
    srgb: bool = False
    metadata: Metadata = "all"
    pattern: str = Field(default=DEFAULT_PATTERN, min_length=1, max_length=120)


class NewExport(ExportOptions):
    """An export of a ledger entry; the entry that holds when none is named."""

    entry_id: int | None = None


class NewExports(ExportOptions):
    """Exports of several pictures, of the entries that hold."""

    picture_ids: list[int] = Field(min_length=1, max_length=500)


class SizeIn(Body):
    """A recipe and a size for its file."""

    recipe: Recipe
    size: OutputSize


class ExportState(Body):
    """How far an export is; ``progress`` from 0 to 1, ``filled_share`` the share of its pixels that were filled."""

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
    created_at: datetime


class ExportList(Body):
    """The exports of a picture, newest first."""

    exports: list[ExportState]


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


class GuideShape(Body):
    """A composition guide: its lines by their ends, in shares of the frame."""

    guide: GuideName
    name: str
    lines: list[tuple[Point, Point]]


class GuideShapes(Body):
    """All composition guides."""

    guides: list[GuideShape]


class FillRegion(Body):
    """A part of the frame that is filled: the corner it belongs to and its share of the frame."""

    corner: int
    name: str
    share: float


class FillState(Body):
    """What is filled in the frame of an entry, and where straight edges cross the seam; places in shares of the frame."""

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
