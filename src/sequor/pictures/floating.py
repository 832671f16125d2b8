"""Pictures of floating-point numbers: OpenEXR and TIFF. Their numbers go over as they are; what is
shown, read and filled is a version of 16 bits with a plain tone curve.

The numbers are taken to be linear light in which 1 is white, as OpenEXR has them ("Technical
introduction to OpenEXR", scene-linear colours), unless a TIFF brings a profile that says otherwise.
Where nothing is brighter than white the curve is that of sRGB; otherwise what is brighter is drawn
in before by the global operator of Reinhard et al., "Photographic tone reproduction for digital
images", 2002, equation 4, with the brightest thousandth at white. It can be undone, so that what is
filled fits the numbers.
"""

import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from sequor.core.language import tr
from sequor.pictures.formats import Unsuited
from sequor.pictures.profiles import srgb_encoded, srgb_light

_TOP = 65535
_ROWS = 64
_BRIGHTEST = 99.9
_MOST = 65504.0
"""The largest number of half precision (IEEE 754 binary16)."""
_SEEN = 2_000_000
"""Numbers that are looked at for the brightest."""
_COLOURS, _GREY, _ALPHA = ("R", "G", "B"), "Y", "A"
Numbers = NDArray[np.float32]


@dataclass(frozen=True)
class FloatPicture:
    """Numbers of shape (height, width, channels), as upright or as stored as their picture is.

    ``white`` is what the curve makes white, None where the numbers stand for colours by a
    ``profile`` and no curve is laid over them.
    """

    numbers: Numbers
    white: float | None
    profile: bytes | None = None

    def shown(self) -> NDArray[np.uint16]:
        """The version of 16 bits."""
        made = np.empty(self.numbers.shape, np.uint16)
        for top in range(0, len(made), _ROWS):
            made[top : top + _ROWS] = self._coded(self.numbers[top : top + _ROWS])
        return made

    def numbers_of(self, shown: NDArray[np.uint16]) -> Numbers:
        """The numbers that pixels of the version of 16 bits stand for."""
        values = shown.astype(np.float64) / _TOP
        if self.white is None:
            return values.astype(np.float32)
        colours = self._colours(values)
        light = srgb_light(values[..., :colours])
        # The positive root of v (1 + v / w^2) = light (1 + v).
        w2 = self.white**2
        if self.white > 1:
            b = 1 - light
            light = (-b + np.sqrt(b * b + 4 * light / w2)) * w2 / 2
        values[..., :colours] = light
        return values.astype(np.float32)

    def _coded(self, numbers: Numbers) -> NDArray[np.uint16]:
        values = np.maximum(numbers.astype(np.float64), 0)
        if self.white is not None:
            colours = self._colours(values)
            light = values[..., :colours]
            if self.white > 1:
                light = light * (1 + light / self.white**2) / (1 + light)
            values[..., :colours] = srgb_encoded(np.minimum(light, 1.0))
        return np.round(np.clip(values, 0, 1) * _TOP).astype(np.uint16)

    @staticmethod
    def _colours(values: NDArray[Any]) -> int:
        return 1 if values.shape[-1] < 3 else 3


def float_picture(numbers: Numbers, profile: bytes | None = None) -> FloatPicture:
    """A picture of numbers, and the profile that says what they stand for, if there is one; what is
    no number is 0, and what is infinite the largest of half precision.
    """
    numbers = np.nan_to_num(numbers, nan=0.0, posinf=_MOST, neginf=-_MOST)
    colours = numbers[..., : 1 if numbers.shape[-1] < 3 else 3]
    step = max(1, math.isqrt(colours.size // _SEEN + 1))
    some = colours[::step, ::step]
    if profile and float(some.max()) <= 1.0:
        return FloatPicture(numbers, None, profile)
    return FloatPicture(numbers, max(1.0, float(np.percentile(some, _BRIGHTEST))), profile)


@dataclass(frozen=True)
class ExrHeader:
    """Sides of an OpenEXR picture in pixels, its channels, and how many parts the file has."""

    width: int
    height: int
    channels: int
    parts: int


def exr_header(path: Path) -> ExrHeader:
    """The header of an OpenEXR file.

    Raises
    ------
    Exception
        Of any kind, when it is broken.
    """
    with OpenEXR.File(str(path), header_only=True) as file:
        header = file.header()
        low, high = header["dataWindow"]
        names = [channel.name for channel in header["channels"]]
        return ExrHeader(
            int(high[0] - low[0] + 1),
            int(high[1] - low[1] + 1),
            len(_chosen(names)),
            len(file.parts),
        )


def exr_numbers(path: Path) -> Numbers:
    """The numbers of an OpenEXR file, shape (height, width, channels).

    Raises
    ------
    Unsuited
        When it holds no colours.
    Exception
        Of any kind, when it is damaged.
    """
    with OpenEXR.File(str(path), separate_channels=True) as file:
        channels = file.channels()
        planes = [np.asarray(channels[name].pixels) for name in _chosen(list(channels))]
        return np.ascontiguousarray(np.stack(planes, axis=-1).astype(np.float32))


def write_exr(path: Path, numbers: Numbers, comments: str = "") -> None:
    """Write numbers as an OpenEXR file, losslessly packed, with its standard attribute comments."""
    names = {1: (_GREY,), 2: (_GREY, _ALPHA), 3: _COLOURS, 4: (*_COLOURS, _ALPHA)}
    planes = {
        name: np.ascontiguousarray(numbers[:, :, place])
        for place, name in enumerate(names[numbers.shape[2]])
    }
    header: dict[str, Any] = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    if comments:
        header["comments"] = comments
    with OpenEXR.File(header, planes) as file:
        file.write(str(path))


def _chosen(names: list[str]) -> list[str]:
    """The channels that are the picture, in order."""
    if all(name in names for name in _COLOURS):
        found = list(_COLOURS)
    elif _GREY in names:
        found = [_GREY]
    else:
        raise Unsuited(
            tr("holds the channels {join} and neither R, G, B nor Y.", join=", ".join(names[:6]))
        )
    return [*found, _ALPHA] if _ALPHA in names else found
