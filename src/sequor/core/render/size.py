"""How large the file is to be, and what that does to the picture.

Never enlarged without saying so.
"""

from typing import Literal

from pydantic import Field, model_validator

from sequor.core.errors import UnusableInput
from sequor.core.language import number, tr
from sequor.core.print_size import MAX_OUTPUT_SIDE
from sequor.core.recipe import FrameChoice
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
            raise ValueError(tr("say how many pixels the longer side is to have"))
        if self.kind == "pixels" and (self.width is None or self.height is None):
            raise ValueError(tr("say the width and the height in pixels"))
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
            raise UnusableInput(tr("This picture has no print size; choose one in the Frame step."))
        (width, height), ppi = choice.print_size.pixels, choice.print_size.ppi
        # What is printed round the face is as fine as that.
        wide, high = width / solution.face.width, height / solution.face.height
        width += round((frame.width - solution.face.width) * wide)
        height += round((frame.height - solution.face.height) * high)
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
            tr(
                "{width} x {height} pixels is another shape than the frame's {width2} x "
                "{height2}, and the picture is never stretched: choose the ratio "
                "{width}:{height} in the Frame step, or {width} x {max} pixels.",
                width=width,
                height=height,
                width2=frame.width,
                height2=frame.height,
                max=max(1, round(frame.height * scale)),
            )
        )
    return Output(width=width, height=height, ppi=ppi, scale=scale, enlarged=scale > 1 + _SAME)


def most_grown(choice: FrameChoice) -> float:
    """How many times as large as its face a margin makes a frame at most: a square one."""
    return (1 + 2 * choice.margin) ** 2


def checked(output: Output, wanted: OutputSize) -> Output:
    """Refuse to enlarge a picture unless that was asked for."""
    if output.enlarged and not wanted.enlarge:
        percent = number(output.scale * 100, ".0f" if output.scale >= 1.005 else ".1f")
        raise UnusableInput(
            tr(
                "At {width} x {height} pixels the picture is enlarged to {percent} %, "
                "which adds no detail. Allow enlarging, or choose a smaller size.",
                width=output.width,
                height=output.height,
                percent=percent,
            )
        )
    return output
