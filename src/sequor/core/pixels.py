"""Pixels and masks, as the arrays they are everywhere in the core."""

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8] | NDArray[np.uint16]
"""Shape (height, width, channels): grey or RGB, each with or without alpha as the last channel."""
Mask = NDArray[np.bool_]
"""Shape (height, width)."""
LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Of red, green and blue (ITU-R BT.709)."""
