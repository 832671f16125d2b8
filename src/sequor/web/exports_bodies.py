"""Bodies of exports and choices of files."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, FailFast, Field, NaiveDatetime

from sequor.core.report.options import Option, Range
from sequor.making.exports import ExportOptions
from sequor.pictures.encode import Format
from sequor.web.common_bodies import Body


class NewExport(ExportOptions):
    """An export of a ledger entry; the entry that holds when none is named."""

    entry_id: int | None = None


class NewExports(ExportOptions):
    """Exports of several pictures, of the entries that hold."""

    picture_ids: Annotated[list[int], FailFast()] = Field(min_length=1, max_length=500)


class NameOut(Body):
    """The name that the file of a picture would get, and whether another one would get it too."""

    picture_id: int
    name: str
    clashes: bool


class NameList(Body):
    """Names of files, and what is to be said of them."""

    names: list[NameOut]
    words: str


class DownloadQuery(BaseModel):
    """Whether the file is to be shown instead of saved."""

    shown: bool = False


class ExportState(Body):
    """How far an export is.

    ``progress`` goes from 0 to 1, ``filled_share`` is the share of its pixels that were filled,
    ``doubt`` how unlike the truth they may be, ``flaws`` how many places of them stand out,
    ``placed`` where a copy lies beside the original: empty as long as it is not there yet.
    ``author`` asked for it, where there are accounts.
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
    doubt: float | None
    flaws: int | None
    placed: str | None
    words: str
    created_at: datetime
    author: str


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


class DepthOption(Body):
    """What pixels of so many ``bits`` get in a format, and what there is to choose from."""

    bits: int
    own: int
    choices: tuple[int, ...]


class FormatOption(Option):
    """A file format: whether it loses something and so has a quality, its depths in bits,
    whether it takes transparency."""

    value: Format
    lossy: bool
    depths: tuple[DepthOption, ...]
    transparent: bool


class FileOptions(Body):
    """How files can be written, and how they are when nothing is said; ``beside`` is the usual name
    of a folder next to the original.
    """

    formats: tuple[FormatOption, ...]
    sizes: tuple[Option, ...]
    metadata: tuple[Option, ...]
    quality: Range
    chromas: tuple[Option, ...]
    packings: tuple[Option, ...]
    sharpen: Range
    side: Range
    name_parts: tuple[str, ...]
    beside: str
    start: ExportOptions
