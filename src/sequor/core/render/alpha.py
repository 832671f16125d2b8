"""Alpha: colours are weighted by their opacity while they are resampled.

What is transparent has a colour too, which nobody sees; resampled on its own it would bleed into
what is beside it. So colours are premultiplied by alpha before, and divided by it after (Porter &
Duff, "Compositing digital images", 1984), in twice the bits, so that nothing is rounded twice.
Numbers of floating point, whose alpha is 1 where a pixel is opaque, keep theirs.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

_WIDER = {np.dtype(np.uint8): np.uint16, np.dtype(np.uint16): np.uint32}


def has_alpha(pixels: NDArray[Any]) -> bool:
    """Whether the last channel is alpha: of two, or of four."""
    return pixels.shape[2] in (2, 4)


def opaque_of(kind: np.dtype[Any]) -> float:
    """The alpha of a pixel that is wholly opaque."""
    return 1.0 if kind.kind == "f" else float(np.iinfo(kind).max)


def is_transparent(pixels: NDArray[Any]) -> bool:
    """Whether any pixel is not wholly opaque."""
    return has_alpha(pixels) and bool((pixels[:, :, -1] < opaque_of(pixels.dtype)).any())


def premultiplied(pixels: NDArray[Any]) -> NDArray[Any]:
    """Colours times alpha, and alpha times its largest value, in twice the bits."""
    wide = pixels.astype(_WIDER.get(pixels.dtype, pixels.dtype))
    wide[:, :, :-1] *= wide[:, :, -1:]
    wide[:, :, -1] *= wide.dtype.type(opaque_of(pixels.dtype))
    return wide


def unpremultiplied(wide: NDArray[Any], like: NDArray[Any]) -> NDArray[Any]:
    """The reverse, of the type of ``like``; the colours of what is wholly transparent are 0."""
    if like.dtype.kind == "f":
        alpha = np.maximum(wide[:, :, -1:], 0)
        colours = np.where(alpha > 0, wide[:, :, :-1] / np.where(alpha > 0, alpha, 1), 0)
        return np.concatenate([colours, np.minimum(alpha, 1)], axis=2).astype(like.dtype)
    top = float(np.iinfo(like.dtype).max)
    made = np.zeros(wide.shape, like.dtype)
    for row, out in zip(wide, made, strict=True):
        alpha = row[:, -1:].astype(np.float64)
        colours = row[:, :-1] * top / np.maximum(alpha, 1)
        out[:, :-1] = np.where(alpha > 0, np.minimum(colours, top) + 0.5, 0)
        # The kernel overshoots beside an edge, and twice the bits leave room for it.
        out[:, -1:] = np.minimum(alpha / top, top) + 0.5
    return made
