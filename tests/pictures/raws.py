"""Raw files with a known truth: scenes in linear light behind a mosaic of colours, with noise.

Written by pidng as DNG (Adobe's DNG specification 1.7 names the tags). The camera's colours are
those of linear sRGB, weighed by its response to daylight, so that what comes out is known.
"""

import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from pidng.core import RAW2DNG, DNGTags, Tag
from pidng.defs import CalibrationIlluminant, CFAPattern, DNGVersion, PhotometricInterpretation
from pidng.dng import Type

# From XYZ under D65 to linear sRGB (IEC 61966-2-1).
TO_SRGB = np.array(
    [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
)
NEUTRAL = (0.5, 1.0, 0.6)
BLACK, WHITE = 512, 16383
OPCODE_LIST_3 = (51022, Type.Undefined)


@dataclass(frozen=True)
class Camera:
    """How a raw file is written: orientation (Exif), noise in numbers of the sensor, bits of each
    (16, of which 14 are used, or 12), and further tags.
    """

    orientation: int = 1
    noise: float = 0.0
    bits: int = 16
    tags: tuple[tuple[object, object], ...] = ()


def write_dng(path: Path, light: np.ndarray, camera: Camera = Camera()) -> Path:
    """Write linear light, shape (height, width, 3) with even sides, 1 for white, as a DNG."""
    height, width, _ = light.shape
    seen = light * np.array(NEUTRAL)
    mosaic = np.empty((height, width))
    for (row, column), colour in zip(((0, 0), (0, 1), (1, 0), (1, 1)), (0, 1, 1, 2), strict=True):
        mosaic[row::2, column::2] = seen[row::2, column::2, colour]
    black, white = (BLACK, WHITE) if camera.bits == 16 else (BLACK // 4, WHITE // 4)
    numbers = black + mosaic * (white - black)
    if camera.noise:
        numbers += np.random.default_rng(7).normal(0, camera.noise, numbers.shape)
    matrix = np.diag(NEUTRAL) @ TO_SRGB
    tags = DNGTags()
    for tag, value in (
        (Tag.ImageWidth, width),
        (Tag.ImageLength, height),
        (Tag.TileWidth, width),
        (Tag.TileLength, height),
        (Tag.Orientation, camera.orientation),
        (Tag.PhotometricInterpretation, PhotometricInterpretation.Color_Filter_Array),
        (Tag.SamplesPerPixel, 1),
        (Tag.BitsPerSample, camera.bits),
        (Tag.CFARepeatPatternDim, [2, 2]),
        (Tag.CFAPattern, CFAPattern.RGGB),
        (Tag.BlackLevel, black),
        (Tag.WhiteLevel, white),
        (Tag.ColorMatrix1, [[round(float(v) * 10000), 10000] for v in matrix.ravel()]),
        (Tag.CalibrationIlluminant1, CalibrationIlluminant.D65),
        (Tag.AsShotNeutral, [[round(v * 10000), 10000] for v in NEUTRAL]),
        (Tag.Make, "Sixmile"),
        (Tag.Model, "Sixmile Field 1"),
        (Tag.DNGVersion, DNGVersion.V1_4),
        (Tag.DNGBackwardVersion, DNGVersion.V1_2),
        *camera.tags,
    ):
        tags.set(tag, value)
    writer = RAW2DNG()
    writer.options(tags, path="", compress=False)
    path.write_bytes(writer.convert(np.clip(np.round(numbers), 0, white).astype(np.uint16)))
    return path


def warp_rectilinear(
    radial: tuple[float, float, float, float],
    tangential: tuple[float, float] = (0.0, 0.0),
    centre: tuple[float, float] = (0.5, 0.5),
) -> tuple[object, list[int]]:
    """OpcodeList3 with one opcode WarpRectilinear for all planes (DNG 1.7, chapter 7)."""
    content = struct.pack(">I8d", 1, *radial, *tangential, *centre)
    opcodes = struct.pack(">IIIII", 1, 1, 0x01030000, 0, len(content)) + content
    return OPCODE_LIST_3, list(opcodes)
