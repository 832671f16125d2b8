"""How large the file is to be, and what that does to the picture.

Never enlarged without saying so.
"""

from typing import Literal

from pydantic import Field, model_validator

from sequor.core.errors import UnusableInput
from sequor.core.recipe import MAX_OUTPUT_SIDE, FrameChoice
from sequor.core.solution import Solution
from sequor.core.value import Value

MM_PER_INCH = 25.4
_SAME = 0.0005
"""A picture enlarged by less keeps its size: rounding to whole pixels does as much."""


SizeKind = Literal["full", "long_edge", "pixels", "print"]


class OutputSize(Value):
    """The size that was asked for.

    ``full`` is one pixel of output for one of the corrected picture; ``long_edge`` takes ``pixels``
    for the longer side, ``pixels`` takes ``width`` and ``height``, ``print`` the frame's print size
    with its resolution. ``enlarge`` allows more pixels than the frame has.
    """

    kind: SizeKind = "full"
    pixels: int | None = Field(default=None, ge=1, le=MAX_OUTPUT_SIDE)
    width: int | None = Field(default=None, ge=1, le=MAX_OUTPUT_SIDE)
    height: int | None = Field(default=None, ge=1, le=MAX_OUTPUT_SIDE)
    enlarge: bool = False

    @model_validator(mode="after")
    def _complete(self) -> "OutputSize":
        if self.kind == "long_edge" and self.pixels is None:
            raise ValueError("say how many pixels the longer side is to have")
        if self.kind == "pixels" and (self.width is None or self.height is None):
            raise ValueError("say the width and the height in pixels")
        return self


class Output(Value):
    """The size that a file gets: width and height in pixels, and the resolution to write if any.

    ``scale`` is output pixels for one of the frame.
    """

    width: int
    height: int
    ppi: float | None
    scale: float
    enlarged: bool


def output_of(solution: Solution, choice: FrameChoice, wanted: OutputSize) -> Output:
    """The size of the output for a solution whose frame was chosen by ``choice``.

    Raises
    ------
    UnusableInput
        When the frame has another shape than the size, or there is no print size.
    """
    frame, ppi = solution.frame, None
    if wanted.kind == "print":
        if choice.print_size is None:
            raise UnusableInput("This picture has no print size; choose one in the Frame step.")
        (width, height), ppi = choice.print_size.pixels, choice.print_size.ppi
    elif wanted.kind == "long_edge":
        assert wanted.pixels is not None
        share = wanted.pixels / max(frame.width, frame.height)
        width, height = max(1, round(frame.width * share)), max(1, round(frame.height * share))
    elif wanted.kind == "pixels":
        assert wanted.width is not None
        assert wanted.height is not None
        width, height = wanted.width, wanted.height
    else:
        width, height = frame.width, frame.height
    scale = width / frame.width
    # A pixel of either side is rounding; more is another shape, and the picture is never stretched
    # to it.
    if (
        abs(height - frame.height * scale) > 1 + scale
        and abs(width - frame.width * height / frame.height) > 1 + scale
    ):
        raise UnusableInput(
            f"{width} x {height} pixels is another shape than the frame's {frame.width} x "
            f"{frame.height}, and the picture is never stretched: "
            f"choose the ratio {width}:{height} in the Frame step, or {width} x "
            f"{max(1, round(frame.height * scale))} pixels."
        )
    return Output(width=width, height=height, ppi=ppi, scale=scale, enlarged=scale > 1 + _SAME)


def checked(output: Output, wanted: OutputSize) -> Output:
    """Refuse to enlarge a picture unless that was asked for."""
    if output.enlarged and not wanted.enlarge:
        percent = f"{output.scale * 100:.{0 if output.scale >= 1.005 else 1}f}"
        raise UnusableInput(
            f"At {output.width} x {output.height} pixels the picture is enlarged to {percent} %, "
            "which adds no detail. "
            "Allow enlarging, or choose a smaller size."
        )
    return output
