"""A size on paper, and how many pixels it has."""

from typing import Literal

from pydantic import Field, model_validator

from sequor.core.language import mark, tr
from sequor.core.value import Value

PrintUnit = Literal["in", "cm"]
CM_PER_INCH = 2.54
"""By definition of the inch."""
MAX_OUTPUT_SIDE = 60_000
"""Pixels; the JPEG format itself ends at 65,535."""


class PrintSize(Value):
    """A size on paper and the resolution it is printed at, in pixels per inch."""

    width: float = Field(gt=0, le=1000)
    height: float = Field(gt=0, le=1000)
    unit: PrintUnit = "in"
    ppi: float = Field(default=300, ge=10, le=2400)

    @property
    def turned_over(self) -> "PrintSize":
        """The same size the other way, lying or upright."""
        return PrintSize(width=self.height, height=self.width, unit=self.unit, ppi=self.ppi)

    @property
    def shorter(self) -> float:
        """Its shorter side."""
        return min(self.width, self.height)

    @model_validator(mode="after")
    def _usable(self) -> "PrintSize":
        if max(self.width, self.height) > 50 * self.shorter:
            raise ValueError(tr("neither side of a print may exceed 50 times the other"))
        if max(self.pixels) > MAX_OUTPUT_SIDE or min(self.pixels) < 1:
            width, height = self.pixels
            said = mark("that print is {width} x {height} pixels; a side may have 1 to {most}")
            raise ValueError(tr(said, width=width, height=height, most=MAX_OUTPUT_SIDE))
        return self

    @property
    def pixels(self) -> tuple[int, int]:
        """Width and height in whole pixels."""
        inches = 1.0 if self.unit == "in" else 1 / CM_PER_INCH
        return round(self.width * inches * self.ppi), round(self.height * inches * self.ppi)
