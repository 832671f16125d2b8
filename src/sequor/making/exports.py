"""An export as a task: an original and a recipe become a file in the store."""

from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict, Field, field_validator

from sequor.core.fill.judge import Judgement
from sequor.core.language import tr
from sequor.core.recipe import Recipe
from sequor.core.render.size import OutputSize, output_of
from sequor.core.solve import solve
from sequor.making.pipeline import FileOrder, make_file
from sequor.making.worker_cache import Developed, TaskResources, read_original
from sequor.pictures.encode import (
    DEFAULT_QUALITY,
    FORMATS,
    MAX_SHARPEN,
    Bits,
    Chroma,
    FileChoice,
    Format,
    Packing,
)
from sequor.pictures.metadata import Metadata
from sequor.pictures.naming import DEFAULT_PATTERN, without_forbidden
from sequor.work.engine import TaskControl

_DECODED = 0.1
"""Share of the work after which the pixels are read."""
_LOSSY_SHARE = 0.5
"""Bytes of a file for every byte of its pixels, at most, where the format loses something."""


class ExportOptions(BaseModel):
    """How a file is written (see docs/api.md).

    ``bits`` null keeps the original's depth, as far as the format can; ``inks`` lets a TIFF of an
    original of inks stay one; ``beside`` names a folder next to the original that the file is put
    into as well.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    format: Format = "jpeg"
    quality: int = Field(default=DEFAULT_QUALITY, ge=1, le=100)
    size: OutputSize = OutputSize()
    bits: Bits | None = None
    srgb: bool = False
    metadata: Metadata = "all"
    chroma: Chroma = "auto"
    progressive: bool = False
    packing: Packing = "deflate"
    linear: bool = True
    sharpen: int = Field(default=0, ge=0, le=MAX_SHARPEN)
    inks: bool = False
    pattern: str = Field(default=DEFAULT_PATTERN, min_length=1, max_length=120)
    beside: str = Field(default="", max_length=60)

    @field_validator("beside")
    @classmethod
    def _one_folder(cls, name: str) -> str:
        """Only a folder right beside the original, which any file system takes."""
        if name and (name != without_forbidden(name) or name.strip(" .") != name):
            raise ValueError(
                tr("the folder beside needs a plain name, without slashes or dots around")
            )
        return name

    @property
    def choice(self) -> FileChoice:
        """The kind of file."""
        return FileChoice(
            self.format,
            self.quality,
            self.bits,
            self.srgb,
            self.metadata,
            chroma=self.chroma,
            progressive=self.progressive,
            packing=self.packing,
            linear=self.linear,
            sharpen=self.sharpen,
            inks=self.inks,
        )


@dataclass(frozen=True)
class Exported:
    """A file that was made."""

    width: int
    height: int
    byte_size: int
    empty_pixels: int
    filled_share: float
    judged: Judgement | None


def export(
    control: TaskControl,
    resources: TaskResources,
    sha256: str,
    recipe: Recipe,
    size: OutputSize,
    choice: FileChoice,
    name: str,
) -> Exported:
    """Write the corrected file of an original, whole or not at all; see `make_file`.

    Parameters
    ----------
    name : str
        Of the file, below the data folder of who does this.
    """
    target = resources.files.root / name
    picture = read_original(resources, Developed.by(sha256, recipe))
    control.progress(_DECODED)
    output = output_of(solve(picture.facts.photo, recipe), recipe.frame, size)
    bits = max(picture.bits, min(FORMATS[choice.format].depths))
    weight = output.width * output.height * picture.pixels.shape[2] * bits // 8
    lossy = FORMATS[choice.format].lossy
    resources.files.space.require_for_files(int(weight * _LOSSY_SHARE) if lossy else weight)
    finished = make_file(
        picture,
        recipe,
        FileOrder(resources.files.original(sha256), target, size, choice),
        progress=lambda share: control.progress(_DECODED + share * (1 - _DECODED)),
        cancelled=control.cancelled,
    )
    return Exported(
        finished.output.width,
        finished.output.height,
        target.stat().st_size,
        finished.empty_pixels,
        finished.filled_share,
        finished.judged,
    )
