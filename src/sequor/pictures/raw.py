"""Raw files, developed by LibRaw: what the sensor saw becomes a picture of 16 bits.

The picture is demosaiced once, in linear light, with the white balance that the camera chose or for
another light that is to look neutral; its exposure is what the file says (DNG 1.7,
BaselineExposure). What is brighter than the sensor could tell is white in all three colours, so
that no highlight has a cast. Colours are those of ITU-R BT.2020, wider than any camera's usual
choice, and the tone curve is that of sRGB, which keeps more of the shadows in 16 bits than linear
numbers do: its steps there are thirteen times finer. At the bright end they are 2.3 times coarser,
still a third of those of a sensor of 14 bits.
"""

import io
import struct
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import rawpy
from numpy.typing import NDArray
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.photo import FileBow
from sequor.core.white import Chromaticity, NoWhite, chromaticity_of, gains_for
from sequor.pictures.formats import Unsuited
from sequor.pictures.orientation import as_stored
from sequor.pictures.profiles import SRGB_TO_XYZ, srgb_encoded
from sequor.pictures.tiff import FROM_SENSOR, PHOTOMETRIC, TiffDirectory, directories, tiff_exif

_CROP_ORIGIN, _CROP_SIZE, _BASELINE_EXPOSURE, _OPCODES_3 = 50719, 50720, 50730, 51022
_WARP_RECTILINEAR = 1
_OPCODE_HEAD = ">IIII"
"""Tags and opcodes of DNG 1.7: OpcodeList3 is applied after demosaicing; big-endian throughout."""
_FLIPS = {0: 1, 1: 2, 3: 3, 2: 4, 4: 5, 6: 6, 7: 7, 5: 8}
"""LibRaw's turn of the picture (1 mirrors it, 2 stands it on its head, 4 lays it over its diagonal)
as a value of Exif's Orientation (CIPA DC-008)."""
_MOST_EXPOSURE = 5.0
_PLANE_OF_GREEN = 1
_LEVELS = 65536
_COLOURS = 3
_GREY_REACH, _LEAST_REACH_PX = 1 / 400, 4
"""Half the side of the square that a grey spot is read from, in longer sides of the picture."""
_FULL, _MOST_FULL, _DARK = 0.98, 0.01, 0.005
"""Of what a sensor can tell: where it is nearly full, and the share of a spot that may be; below
the last there is more noise than colour."""


@dataclass(frozen=True)
class RawHeader:
    """A raw file as its header describes it; sides are those of the picture as stored."""

    width: int
    height: int
    orientation: int
    exif: Image.Exif
    bow: FileBow | None


@dataclass(frozen=True)
class _Said:
    """What a DNG says beside the pixels: its cut (left, top, width, height), exposure and bow."""

    cut: tuple[int, int, int, int] | None = None
    exposure: float = 0.0
    opcodes: bytes = b""


def raw_header(path: Path) -> RawHeader:
    """The header of a raw file.

    Raises
    ------
    Unsuited
        When LibRaw does not read it.
    """
    with _opened(path) as raw:
        sizes, said = raw.sizes, _said(path)
        _, _, width, height = _cut(sizes, said)
        return RawHeader(
            width,
            height,
            _FLIPS.get(sizes.flip, 1),
            tiff_exif(path),
            bow_of(said.opcodes, (width, height)),
        )


def develop(
    path: Path, half: bool = False, white: Chromaticity | None = None
) -> NDArray[np.uint16]:
    """The picture of a raw file as stored, shape (height, width, 3), with the profile
    `profiles.WIDE`.

    Parameters
    ----------
    half : bool
        At half the size, each pixel from one of every colour: seven times as fast.
    white : tuple of float, optional
        The light that is to look neutral, unless it is what the camera chose.

    Raises
    ------
    Unsuited, LibRawError
        When LibRaw does not read it, it is damaged, or its camera cannot see such a light.
    """
    with _opened(path) as raw:
        said = _said(path)
        left, top, width, height = _cut(raw.sizes, said)
        linear = raw.postprocess(
            **_balance(raw, white),
            output_color=rawpy.ColorSpace.Rec2020,
            gamma=(1, 1),
            output_bps=16,
            no_auto_bright=True,
            user_flip=0,
            highlight_mode=rawpy.HighlightMode.Clip,
            half_size=half,
        )
    if half:
        left, top, width, height = left // 2, top // 2, (width + 1) // 2, (height + 1) // 2
    return _curve(round(said.exposure, 3))[linear[top : top + height, left : left + width]]


def grey_at(path: Path, point: tuple[float, float]) -> Chromaticity:
    """The light under which what lies at a place of the upright picture is grey, by the numbers of
    the sensor.

    Raises
    ------
    UnusableInput
        When it cannot be told there.
    """
    with _opened(path) as raw:
        left, top, width, height = _cut(raw.sizes, _said(path))
        x, y = as_stored(point, (width, height), _FLIPS.get(raw.sizes.flip, 1))
        reach = max(_LEAST_REACH_PX, round(max(width, height) * _GREY_REACH))
        seen = _seen(raw, round(left + x), round(top + y), reach)
        try:
            return chromaticity_of(seen, _from_xyz(raw))
        except NoWhite as problem:
            raise UnusableInput(
                tr(
                    "No light makes that place grey: choose something that is grey in reality, "
                    "such as stone, asphalt or a cloud."
                )
            ) from problem


def check_light(path: Path, white: Chromaticity) -> None:
    """Refuse a light that a raw file cannot be developed for.

    Raises
    ------
    UnusableInput
        When its camera cannot see such a light, or is not known.
    """
    with _opened(path) as raw:
        try:
            gains_for(white, _from_xyz(raw))
        except NoWhite as problem:
            raise UnusableInput(
                tr("The camera of this picture cannot see such a light.")
            ) from problem


def _seen(raw: rawpy.RawPy, x: int, y: int, reach: int) -> NDArray[np.float64]:
    """The mean numbers of red, green and blue around a place, 1 where the sensor is full."""
    rows, columns = (slice(max(0, at - reach), at + reach + 1) for at in (y, x))
    numbers = raw.raw_image_visible[rows, columns].astype(float)
    if not numbers.size:
        raise UnusableInput(tr("That place lies beyond the picture."))
    black = np.array(raw.black_level_per_channel, dtype=float)
    if numbers.ndim == 2:
        colours = raw.raw_colors_visible[rows, columns].astype(int)
    else:  # each place has all colours already
        numbers = numbers[..., :_COLOURS]
        colours = np.broadcast_to(np.arange(_COLOURS), numbers.shape)
    shares = (numbers - black[colours]) / (float(raw.white_level) - black[colours])
    if (shares > _FULL).mean() > _MOST_FULL:
        raise UnusableInput(tr("That place is too bright to tell its colour: choose a darker one."))
    # The second green of a mosaic is green.
    colours = np.where(colours == _COLOURS, 1, colours)
    found = np.array([shares[colours == colour].mean() for colour in range(_COLOURS)])
    if found.min() < _DARK:
        raise UnusableInput(tr("That place is too dark to tell its colour: choose a brighter one."))
    return found


def _balance(raw: rawpy.RawPy, white: Chromaticity | None) -> dict[str, Any]:
    """What LibRaw is told of the white balance."""
    if white is None:
        return {"use_camera_wb": True}
    try:
        red, green, blue = (float(gain) for gain in gains_for(white, _from_xyz(raw)))
    except NoWhite as problem:
        raise Unsuited(tr("was taken by a camera that cannot see such a light.")) from problem
    return {"user_wb": [red, green, blue, green]}


def _from_xyz(raw: rawpy.RawPy) -> NDArray[np.float64]:
    """From CIE XYZ to the camera's colours, up to a factor.

    LibRaw states it in two parts, for makers' files and DNG alike: the gains for D65, and what
    takes colours with these gains to linear sRGB.

    Raises
    ------
    UnusableInput
        When it does not know the camera.
    """
    daylight = np.array(raw.daylight_whitebalance[:_COLOURS], dtype=float)
    to_srgb = np.array(raw.color_matrix, dtype=float)[:_COLOURS, :_COLOURS]
    # Of one that it does not know the matrix is none.
    known = not np.array_equal(to_srgb, np.eye(_COLOURS)) and np.linalg.det(to_srgb) != 0
    if raw.num_colors != _COLOURS or not known or daylight.min() <= 0:
        raise UnusableInput(
            tr("How this camera sees colours is not known, so its white cannot be chosen.")
        )
    matrix: NDArray[np.float64] = np.linalg.inv(SRGB_TO_XYZ @ to_srgb @ np.diag(daylight))
    return matrix


@lru_cache(maxsize=4)
def _curve(exposure: float) -> NDArray[np.uint16]:
    """From linear light in 16 bits to the curve of sRGB, brighter by so many stops."""
    light = np.arange(_LEVELS) / (_LEVELS - 1) * 2.0**exposure
    values = srgb_encoded(np.minimum(light, 1.0)) * (_LEVELS - 1)
    return np.round(values).astype(np.uint16)


def _opened(path: Path) -> rawpy.RawPy:
    try:
        return rawpy.imread(str(path))
    except (rawpy.LibRawError, OSError, ValueError) as problem:
        why = str(problem.args[0].decode() if isinstance(problem.args[0], bytes) else problem)
        version = ".".join(str(part) for part in rawpy.libraw_version)
        raise Unsuited(
            tr(
                "is a raw file that LibRaw {version} does not read: {why}.",
                version=version,
                why=why,
            )
        ) from problem


def _cut(sizes: "rawpy.ImageSizes", said: _Said) -> tuple[int, int, int, int]:
    """What of the developed picture is the picture: a DNG's own cut, where it fits."""
    if said.cut:
        left, top, width, height = said.cut
        if 0 < width <= sizes.width - left and 0 < height <= sizes.height - top:
            return said.cut
    return 0, 0, sizes.width, sizes.height


def _said(path: Path) -> _Said:
    try:
        main = [d for d in directories(path) if d.get(PHOTOMETRIC) in FROM_SENSOR]
        every = list(directories(path))
    except Exception:  # no TIFF, or a broken one
        return _Said()
    if not main:
        return _Said()
    first = main[0]
    exposure = next((d[_BASELINE_EXPOSURE] for d in every if _BASELINE_EXPOSURE in d), 0.0)
    return _Said(
        _said_cut(first),
        max(-_MOST_EXPOSURE, min(float(exposure), _MOST_EXPOSURE)),
        _opcodes(first),
    )


def _said_cut(main: TiffDirectory) -> tuple[int, int, int, int] | None:
    try:
        left, top = (round(float(v)) for v in main[_CROP_ORIGIN])
        width, height = (round(float(v)) for v in main[_CROP_SIZE])
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return None
    return (left, top, width, height) if min(left, top) >= 0 else None


def _opcodes(main: TiffDirectory) -> bytes:
    found = main.get(_OPCODES_3, b"")
    return bytes(found) if isinstance(found, bytes) else b""


def bow_of(opcodes: bytes, size: tuple[int, int]) -> FileBow | None:
    """The distortion that an opcode WarpRectilinear takes out; None where there is none.

    It says where a point of the corrected picture lies in the picture as shot: at
    ``kr0 + kr1 r^2 + kr2 r^4 + kr3 r^6`` times its way from the centre, and aslant by kt0 and kt1,
    with radii in units of the way to the farthest corner (DNG 1.7, chapter 7). ``kr0`` only
    enlarges; without it the polynomial is one of Brown's, and rescaled to half the diagonal.
    """
    terms = _warp(opcodes)
    if terms is None:
        return None
    kr0, kr1, kr2, kr3, kt0, kt1, cx, cy = terms
    width, height = size
    half = np.hypot(width, height) / 2
    unit = max(np.hypot(cx * width - x, cy * height - y) for x in (0, width) for y in (0, height))
    # A point at the radius r of ours lies at r half / (unit kr0) of theirs.
    share = float(half / (unit * kr0))
    try:
        return FileBow(
            polynomial=(
                *(0.0, float(kr1 / kr0 * share**2), 0.0, float(kr2 / kr0 * share**4)),
                *(0.0, float(kr3 / kr0 * share**6)),
            ),
            tangential=(float(kt0 / kr0 * share), float(kt1 / kr0 * share)),
            off_centre=(
                float((cx - 0.5) * width / half),
                float((cy - 0.5) * height / half),
            ),
        )
    except ValueError:  # beyond what any lens has
        return None


def _warp(opcodes: bytes) -> tuple[float, ...] | None:
    """kr0 to kr3, kt0, kt1 of green, and the centre."""
    file = io.BytesIO(opcodes)
    try:
        (count,) = struct.unpack(">I", file.read(4))
        for _ in range(min(count, 64)):
            number, _, _, size = struct.unpack(_OPCODE_HEAD, file.read(16))
            content = file.read(size)
            if number != _WARP_RECTILINEAR:
                continue
            (planes,) = struct.unpack(">I", content[:4])
            values = struct.unpack(f">{planes * 6 + 2}d", content[4 : 4 + 8 * (planes * 6 + 2)])
            plane = min(_PLANE_OF_GREEN, planes - 1)
            found = (*values[plane * 6 : plane * 6 + 6], *values[-2:])
            return found if np.isfinite(found).all() and found[0] > 0 else None
    except struct.error:
        return None
    return None
