"""Colour profiles: the wide one that pictures are kept in which have none of their own, and the
curve by which a profile's numbers stand for light.
"""

from functools import lru_cache
from pathlib import Path

import numpy as np
import pyvips
from numpy.typing import NDArray

WIDE_FILE = Path(__file__).with_name("wide.icc")
WIDE = WIDE_FILE.read_bytes()
"""Colours of ITU-R BT.2020 with the curve of sRGB: what raw files, inks and CIE L*a*b* become."""
SRGB_TO_XYZ = np.array(
    [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
)
"""From linear sRGB to CIE XYZ under D65 (IEC 61966-2-1)."""
_STEPS = 4096
_SAME_CURVE = 5e-4
"""A curve that differs by less is the same, but for what LittleCMS rounds."""


def srgb_encoded(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """The curve of sRGB (IEC 61966-2-1): light from 0 to 1 as the numbers that stand for it."""
    encoded: NDArray[np.float64] = np.where(
        light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 0) ** (1 / 2.4) - 0.055
    )
    return encoded


def srgb_light(encoded: NDArray[np.float64]) -> NDArray[np.float64]:
    """The reverse of `srgb_encoded`."""
    light: NDArray[np.float64] = np.where(
        encoded <= 0.04045, encoded / 12.92, ((np.maximum(encoded, 0) + 0.055) / 1.055) ** 2.4
    )
    return light


@lru_cache(maxsize=8)
def light_of(profile: bytes | None, channels: int) -> NDArray[np.float64]:
    """How much light each of 4096 evenly spaced numbers stands for, from 0 to 1.

    A profile is asked what its greys are (by LittleCMS); one that cannot be read is taken for sRGB,
    as none is.
    """
    steps = np.arange(_STEPS) / (_STEPS - 1)
    usual = srgb_light(steps)
    found = _by_profile(profile, channels, steps) if profile else None
    if found is None or np.abs(found - usual).max() < _SAME_CURVE:
        return usual
    return found


def _by_profile(
    profile: bytes, channels: int, steps: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    bands = 1 if channels < 3 else 3
    ramp = np.repeat(np.round(steps * 65535).astype(np.uint16)[None, :, None], bands, axis=2)
    image = pyvips.Image.new_from_memory(np.ascontiguousarray(ramp), _STEPS, 1, bands, "ushort")
    image = image.copy(interpretation="grey16" if bands == 1 else "rgb16")
    image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    try:
        seen = image.icc_import(embedded=True, pcs="xyz", intent="relative").numpy()
    except pyvips.Error:
        return None
    light = seen.reshape(_STEPS, -1)[:, 1].astype(np.float64)
    light = np.maximum.accumulate(light - light[0])
    return light / light[-1] if light[-1] > 0 else None
