"""The recipe: a whole correction as one small immutable value.

Nothing but the photo and its recipe decides the result. A recipe serialises to
JSON (see docs/recipe.md) and carries a version, so that a correction can be
reopened and changed months later.
"""

import math
import re
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

MAX_READINGS = 200

Coordinate = Annotated[float, Field(allow_inf_nan=False)]
Point = tuple[Coordinate, Coordinate]
Kind = Literal["level", "plumb"]


class Value(BaseModel):
    """Base of every immutable value: no unknown fields, no infinities."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class PhotoFacts(Value):
    """What the solution needs to know about a photo: its upright size and its lens.

    ``width`` and ``height`` are source pixels with the orientation tag applied;
    ``focal35_mm`` is the focal length in 35-mm terms (Exif FocalLengthIn35mmFilm).
    """

    width: int = Field(ge=1)
    height: int = Field(ge=1)
    focal35_mm: float | None = Field(default=None, gt=0)


class FittedTo(Value):
    """How a reading was fitted to an image edge.

    ``drawn`` is the line as it was drawn by hand, ``sigma_deg`` the standard deviation of
    the fitted angle, ``stations`` at how many places the edge was found.
    """

    drawn: tuple[Point, Point]
    sigma_deg: float = Field(gt=0, le=90)
    stations: int = Field(ge=2)


class Reading(Value):
    """A line that is level or plumb in reality, given by its two ends in source pixels.

    ``sigma_px`` is the standard deviation with which each end was placed by hand, in
    source pixels: about one screen pixel divided by the zoom. ``fitted`` says how the
    ends came to lie on an image edge, or is None for a line left as it was drawn.
    """

    id: str = Field(min_length=1, max_length=40)
    kind: Kind
    points: tuple[Point, Point]
    sigma_px: float = Field(default=1.0, gt=0, le=1000)
    weight: float = Field(default=1.0, gt=0, le=100)
    name: str = Field(default="", max_length=80)
    fitted: FittedTo | None = None


class Trim(Value):
    """What the photographer adds by hand on top of what the readings say, in degrees."""

    roll_deg: float = Field(default=0.0, ge=-360, le=360)


class FrameChoice(Value):
    """The shape of the frame: ``original``, ``free`` (the largest area) or ``W:H``."""

    ratio: str = "original"

    @field_validator("ratio")
    @classmethod
    def _known_ratio(cls, text: str) -> str:
        if text not in ("original", "free"):
            parse_ratio(text)
        return text


class Recipe(Value):
    """Everything that was decided about one picture."""

    version: Literal[1] = 1
    readings: tuple[Reading, ...] = Field(default=(), max_length=MAX_READINGS)
    trim: Trim = Trim()
    frame: FrameChoice = FrameChoice()

    @model_validator(mode="after")
    def _distinct_ids(self) -> "Recipe":
        ids = [reading.id for reading in self.readings]
        if len(set(ids)) != len(ids):
            raise ValueError("two readings have the same id")
        return self


def parse_ratio(text: str) -> float:
    """Width over height of a ratio written ``W:H``; raises ValueError when it is not one."""
    match = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*:\s*(\d+(?:\.\d+)?)\s*", text)
    if not match:
        raise ValueError(f"“{text}” is not a ratio; write original, free or W:H such as 3:2")
    width, height = float(match[1]), float(match[2])
    if width <= 0 or height <= 0 or not 0.02 <= width / height <= 50:
        raise ValueError(f"{text} is not a usable ratio; neither side may exceed 50 times the other")
    return width / height


def target_ratio(frame: FrameChoice, photo: PhotoFacts) -> float | None:
    """Width over height that the frame must have, or None for a free frame."""
    if frame.ratio == "free":
        return None
    if frame.ratio == "original":
        return photo.width / photo.height
    ratio = parse_ratio(frame.ratio)
    return ratio if math.isfinite(ratio) else None
