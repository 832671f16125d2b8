"""Light: the numbers of a picture are mixed as the light that they stand for.

The numbers of a file are spaced as the eye sees them. Their mean is darker than the mean of the
light: a checkerboard of black and white, seen from afar, is a grey of 188 and not of 128 (by the
curve of sRGB, IEC 61966-2-1). Where one pixel of the output stands for several of the source that
shows; at full size it does not, and overshoot beside dark edges would grow.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sequor.core.render.alpha import has_alpha
from sequor.core.render.kernel import Curve

_ROWS = 64
_FINE = 1 << 20
"""Values of light that are told apart: a sixteenth of a step of 16 bits."""


@dataclass(frozen=True, eq=False)
class Light:
    """A curve from the numbers of a picture to light.

    ``table`` is the light, from 0 to 1, of evenly spaced numbers from 0 to the largest.
    """

    table: NDArray[np.float64]

    def curve(self, kind: np.dtype[Any]) -> Curve:
        """What the compiled loops need to mix pixels of 8 or 16 bits as light."""
        return Curve(self._light(kind), self._encoded(kind))

    def of(self, pixels: NDArray[Any]) -> NDArray[np.float32]:
        """The light of pixels of 8 or 16 bits, from 0 to 1; alpha is a share."""
        top, each = int(np.iinfo(pixels.dtype).max), self._light(pixels.dtype)
        made = np.empty(pixels.shape, np.float32)
        for start in range(0, len(pixels), _ROWS):
            rows, out = pixels[start : start + _ROWS], made[start : start + _ROWS]
            out[:] = each[rows]
            if has_alpha(pixels):
                out[:, :, -1] = rows[:, :, -1] / np.float32(top)
        return made

    def encoded(self, light: NDArray[Any], kind: np.dtype[Any]) -> NDArray[Any]:
        """The pixels, of 8 or 16 bits, that stand for light."""
        made = np.empty(light.shape, kind)
        top, each = int(np.iinfo(kind).max), self._encoded(kind)
        for start in range(0, len(light), _ROWS):
            rows, out = light[start : start + _ROWS], made[start : start + _ROWS]
            out[:] = each[(np.sqrt(np.clip(rows, 0, 1)) * (_FINE - 1) + 0.5).astype(np.int32)]
            if has_alpha(light):
                out[:, :, -1] = np.clip(rows[:, :, -1], 0, 1) * top + 0.5
        return made

    def _light(self, kind: np.dtype[Any]) -> NDArray[np.float32]:
        """The light of every value."""
        top = int(np.iinfo(kind).max)
        return np.interp(np.arange(top + 1) / top, self._numbers, self.table).astype(np.float32)

    def _encoded(self, kind: np.dtype[Any]) -> NDArray[Any]:
        """The values by the root of the light, nearly as evenly spaced as they are."""
        roots = np.linspace(0, 1, _FINE)
        values = np.interp(roots**2, self._rising, self._numbers) * int(np.iinfo(kind).max)
        return (values + 0.5).astype(kind)

    @cached_property
    def _numbers(self) -> NDArray[np.float64]:
        found: NDArray[np.float64] = np.linspace(0, 1, len(self.table))
        return found

    @cached_property
    def _rising(self) -> NDArray[np.float64]:
        """The table, which rises everywhere by a little at least."""
        rising: NDArray[np.float64] = np.maximum.accumulate(self.table)
        return rising + np.arange(len(self.table)) * 1e-12
